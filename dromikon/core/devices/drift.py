"""How a device has changed between two times that it said what it has."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal, cast

from dromikon.core.devices.catalogue import DeviceCatalogue, EventSaid, detector_token
from dromikon.core.words import N_

How = Literal["new", "gone", "changed"]


@dataclass(frozen=True, slots=True)
class Change:
    """One thing that is new, gone or changed. `part`: of the catalogue; `name`: its topic, token or name there; `said`: how
    it was and is, for what changed."""

    part: str
    how: How
    name: str
    said: str = ""


#: Parts that are compared, and what one of each is called.
PARTS = {
    "identity": N_("identity"),
    "firmware": N_("firmware"),
    "channels": N_("channel"),
    "events": N_("event"),
    "inputs": N_("input"),
    "relays": N_("relay"),
    "detectors": N_("detector"),
    "modules": N_("analytics module"),
    "presets": N_("preset"),
    "sounds": N_("sound of a channel"),
    "scenes": N_("objects of a channel"),
    "doors": N_("door"),
    "applications": N_("application"),
}


def kept(before: DeviceCatalogue, told: DeviceCatalogue) -> DeviceCatalogue:
    """What is known after a device has told: a part that it would not tell this time stays as it was."""
    refused = told.get("refused", {})
    # mypy knows a TypedDict's keys one by one only.
    stays = {part: content for part, content in before.items() if part in refused}
    return cast(DeviceCatalogue, {**stays, **{p: c for p, c in told.items() if p not in stays}})


def changes(before: DeviceCatalogue, after: DeviceCatalogue) -> list[Change]:
    """What differs, part by part. A part of which only one of the two times is known is not compared: it was not told, or
    is told for the first time."""
    return [change for part in PARTS for change in _of_part(part, before, after)]


def _of_part(part: str, before: DeviceCatalogue, after: DeviceCatalogue) -> list[Change]:
    old, new = _named(part, before), _named(part, after)
    if old is None or new is None:
        return []
    if part in _SINGLE:
        (was,), (now,) = old, new
        return [Change(part, "changed", now, f"{was} → {now}")] if was != now else []
    found = [Change(part, "gone", name) for name in old if name not in new]
    found += [Change(part, "new", name) for name in new if name not in old]
    found += [
        Change(part, "changed", name, _difference(old[name], new[name]))
        for name in new
        if name in old and old[name] != new[name]
    ]
    return found


def _named(part: str, catalogue: DeviceCatalogue) -> dict[str, Any] | None:
    """The things of one part by the name that they keep, with what can change of each."""
    if part in _SINGLE:
        said = _SINGLE[part](cast(Mapping[str, str], catalogue.get("information", {})))
        return {said: None} if said else None
    content = cast(Mapping[str, Any], catalogue).get(part)
    if content is None:
        return None
    return dict(map(_SPLIT.get(part, _plain), content))


def _plain(token: str) -> tuple[str, Any]:
    return token, None


def _event(said: EventSaid) -> tuple[str, Any]:
    return said["topic"], {"state": said["state"], **said["source"], **said["data"]}


def _detector(said: Any) -> tuple[str, Any]:
    shapes = {s["item"]: s["points"] for s in said.get("shapes", ())}
    return detector_token(said), {"type": said["type"], **said["parameters"], **shapes}


def _by(key: str) -> Callable[[Any], tuple[str, Any]]:
    return lambda said: (said[key], {name: value for name, value in said.items() if name != key})


def _identity(said: Mapping[str, str]) -> str:
    """Maker and serial number; nothing where there is no number."""
    return f"{said.get('manufacturer', '')} {said['serial']}".strip() if said.get("serial") else ""


#: Parts that are one thing.
_SINGLE: dict[str, Callable[[Mapping[str, str]], str]] = {
    "identity": _identity,
    "firmware": lambda said: said.get("firmware", ""),
}
_SPLIT: dict[str, Callable[[Any], tuple[str, Any]]] = {
    "events": _event,
    "detectors": _detector,
    "modules": lambda said: (said["name"], {**said["parameters"], "running": said["running"]}),
    "presets": lambda said: (f"{said['channel']}/{said['token']}", {"name": said["name"]}),
    "doors": _by("token"),
    "applications": _by("id"),
}


def _difference(old: Mapping[str, Any], new: Mapping[str, Any]) -> str:
    """Which settings differ: "TimeThreshold: PT10S → PT30S"."""
    names = [n for n in {**old, **new} if old.get(n) != new.get(n)]
    return "; ".join(f"{n}: {_shown(old.get(n))} → {_shown(new.get(n))}" for n in names)[:500]


def _shown(value: Any) -> str:
    if value is None:
        return "–"
    if isinstance(value, (list, tuple)) and value and isinstance(value[0], (list, tuple)):
        return " ".join(f"({x:.2f}, {y:.2f})" for x, y in value)
    if isinstance(value, (list, tuple)):
        return ", ".join(map(str, value)) or "–"
    return str(value)
