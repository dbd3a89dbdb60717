"""A camera's detectors (ONVIF Analytics service: rules): which it can run, which it runs, and how they are set."""

from collections.abc import Mapping, Sequence
from typing import Any

from lxml import etree

from dromikon.core.devices.catalogue import (
    MEASURES,
    DetectorSaid,
    DetectorTypeSaid,
    ModuleSaid,
    ParameterSaid,
    ShapeSaid,
)
from dromikon.core.devices.settings import SHAPES
from dromikon.wire.onvif.client import OnvifDevice, Profile, duration
from dromikon.wire.onvif.namespaces import TAN, TT
from dromikon.wire.onvif.soap import NOBODY, DeviceError


async def detector_types(device: OnvifDevice, profiles: Sequence[Profile]) -> list[DetectorTypeSaid]:
    """The types of detector that the device can run, of all its analytics configurations."""
    found: dict[str, DetectorTypeSaid] = {}
    for analytics in _configurations(profiles):
        answer = await device.ask(TAN, "GetSupportedRules", ConfigurationToken=analytics)
        for described in answer.iter(f"{{{TT}}}RuleDescription"):
            found.setdefault(described.get("Name", ""), _type(described))
    return list(found.values())


async def detectors(device: OnvifDevice, profiles: Sequence[Profile]) -> list[DetectorSaid]:
    """The detectors with their settings, of each analytics configuration that the profiles name."""
    found = []
    for analytics, channel in _configurations(profiles).items():
        answer = await device.ask(TAN, "GetRules", ConfigurationToken=analytics)
        rules = (rule for rule in answer.iter(f"{{{TAN}}}Rule") if rule.get("Name") != MEASURES)
        found += [_detector(rule, analytics, channel) for rule in rules]
    return found


async def modules(device: OnvifDevice, profiles: Sequence[Profile]) -> list[ModuleSaid]:
    """The analytics modules that run, and the types of those that only could. A device may not tell what it could run: that
    operation is optional."""
    found: list[ModuleSaid] = []
    for analytics in _configurations(profiles):
        answer = await device.ask(TAN, "GetAnalyticsModules", ConfigurationToken=analytics)
        running = [_module(m) for m in answer.iter(f"{{{TAN}}}AnalyticsModule")]
        types = {m["type"] for m in running}
        found += [*running, *(m for m in await _could_run(device, analytics) if m["type"] not in types)]
    return found


async def _could_run(device: OnvifDevice, analytics: str) -> list[ModuleSaid]:
    try:
        answer = await device.ask(TAN, "GetSupportedAnalyticsModules", ConfigurationToken=analytics)
    except DeviceError as error:
        if error.reason in NOBODY:
            raise
        return []
    described = answer.iter(f"{{{TT}}}AnalyticsModuleDescription")
    return [{"name": n, "type": n, "parameters": {}, "running": False} for d in described if (n := d.get("Name", ""))]


def _module(module: etree._Element) -> ModuleSaid:
    items = {i.get("Name", ""): i.get("Value", "") for i in module.iter(f"{{{TT}}}SimpleItem")}
    return {
        "name": module.get("Name", ""), "type": module.get("Type", ""), "parameters": items, "running": True,
    }  # fmt: skip


async def write_detector(device: OnvifDevice, detector: DetectorSaid, new: bool = False) -> None:
    """Change a detector of the device, or make a `new` one. All its settings are sent. Raises DeviceError with what the
    device says to them."""
    rule = etree.Element(f"{{{TAN}}}Rule", Name=detector["name"], Type=detector["type"], nsmap={"tt": TT})
    rule.append(_parameters(detector["parameters"], detector.get("shapes", [])))
    name = "CreateRules" if new else "ModifyRules"
    await device.ask(TAN, name, ConfigurationToken=detector["analytics"], Rule=rule)


async def delete_detector(device: OnvifDevice, detector: DetectorSaid) -> None:
    """Take a detector off the device."""
    await device.ask(TAN, "DeleteRules", ConfigurationToken=detector["analytics"], RuleName=detector["name"])


def _configurations(profiles: Sequence[Profile]) -> dict[str, str]:
    """Each analytics configuration with the video source configuration whose picture it watches."""
    return {p.analytics: p.video for p in profiles if p.analytics}


def _type(described: etree._Element) -> DetectorTypeSaid:
    parameters: list[ParameterSaid] = [
        {"name": item.get("Name", ""), "type": item.get("Type", "").rsplit(":", 1)[-1]}
        for tag in ("SimpleItemDescription", "ElementItemDescription")
        for item in described.findall(f"{{{TT}}}Parameters/{{{TT}}}{tag}")
    ]
    topics = [(t.text or "").strip() for t in described.findall(f"{{{TT}}}Messages/{{{TT}}}ParentTopic")]
    limit = described.get("maxInstances", "")
    return {
        "name": described.get("Name", ""),
        "topics": topics,
        "parameters": parameters,
        "limit": int(limit) if limit.isdigit() else None,
    }


def _detector(rule: etree._Element, analytics: str, channel: str) -> DetectorSaid:
    items = {i.get("Name", ""): i.get("Value", "") for i in rule.iter(f"{{{TT}}}SimpleItem")}
    return {
        "name": rule.get("Name", ""),
        "type": rule.get("Type", ""),
        "parameters": items,
        "waits": duration(items.get("TimeThreshold", "")) or 0.0,
        "channel": channel,
        "analytics": analytics,
        "shapes": [s for i in rule.iter(f"{{{TT}}}ElementItem") for s in _shapes(i)],
    }


def _shapes(item: etree._Element) -> list[ShapeSaid]:
    found: list[ShapeSaid] = []
    for tag, sort in SHAPES.items():
        for shape in item.iter(f"{{{TT}}}{tag}"):
            # A single place carries its own numbers.
            places = [shape] if sort == "spot" else shape.findall(f"{{{TT}}}Point")
            points = [_point(p) for p in places]
            found.append({"sort": sort, "item": item.get("Name", ""), "points": [p for p in points if p is not None]})
    return found


def _point(element: etree._Element) -> tuple[float, float] | None:
    try:
        return round(float(element.get("x", "")), 4), round(float(element.get("y", "")), 4)
    except ValueError:
        return None


def _parameters(items: Mapping[str, Any], shapes: Sequence[ShapeSaid]) -> etree._Element:
    made = etree.Element(f"{{{TT}}}Parameters")
    for name, value in items.items():
        etree.SubElement(made, f"{{{TT}}}SimpleItem", Name=name, Value=str(value))
    tags = {sort: tag for tag, sort in SHAPES.items()}
    for shape in shapes:
        item = etree.SubElement(made, f"{{{TT}}}ElementItem", Name=shape["item"])
        drawn = etree.SubElement(item, f"{{{TT}}}{tags[shape['sort']]}")
        for x, y in shape["points"]:
            place = drawn if shape["sort"] == "spot" else etree.SubElement(drawn, f"{{{TT}}}Point")
            place.attrib.update({"x": f"{x:.4f}", "y": f"{y:.4f}"})
    return made
