"""Settings of a detector, as a person reads and writes them. A device describes its own; those of the standard have words
and units here, all others are shown under the names that the device gives them."""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from dromikon.core.devices.catalogue import DetectorSaid, DetectorTypeSaid, ParameterSaid, ShapeSaid
from dromikon.core.reading import NotReadable, number
from dromikon.core.words import N_, t

#: The least corners of each sort of shape, and the most.
CORNERS = {"line": (2, 40), "area": (3, 40), "spot": (1, 1)}
#: The types of setting that are a shape, with what each is: a run of points, a closed one, a single one.
SHAPES = {"Polyline": "line", "Polygon": "area", "Vector": "spot"}


class NotSettable(ValueError):
    """A setting cannot be; `path` says which."""

    def __init__(self, path: str, message: str) -> None:
        super().__init__(message)
        self.path = path


@dataclass(frozen=True, slots=True)
class Setting:
    """One setting in a form: `sort` is text, number, choice or yes_no; `value` as a person sees it."""

    name: str
    label: str
    sort: str
    value: str
    unit: str = ""
    choices: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True, slots=True)
class Known:
    """A setting of the standard (ONVIF Analytics Service Specification): what it is called, its unit, its choices, and how
    its value reads."""

    called: str
    unit: str = ""
    sort: str = "text"
    choices: tuple[tuple[str, str], ...] = ()
    shown: Callable[[str], str] = field(default=str)
    written: Callable[[str], str] = field(default=str)


def _seconds_shown(value: str) -> str:
    found = re.fullmatch(r"P(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+(?:\.\d+)?)S)?)", value.strip())
    if found is None:
        return value
    hours, minutes, seconds = (float(part or 0) for part in found.groups())
    return f"{hours * 3600 + minutes * 60 + seconds:g}"


def _seconds_written(value: str) -> str:
    return f"PT{_at_least(number(value), 0):g}S"


def _percent_shown(value: str) -> str:
    return f"{number(value) * 100:g}" if value.strip() else ""


def _percent_written(value: str) -> str:
    share = number(value)
    if not 0 <= share <= 100:
        raise NotReadable(t("a share from 0 to 100 %"))
    return f"{share / 100:g}"


def _at_least(value: float, least: float) -> float:
    if value < least:
        raise NotReadable(t("not below {least}", least=f"{least:g}"))
    return value


KNOWN = {
    "Direction": Known(
        N_("direction"), sort="choice",
        choices=(("Any", N_("both ways")), ("Right", N_("from left to right")), ("Left", N_("from right to left"))),
    ),
    "TimeThreshold": Known(
        N_("watches before it reports"), "s", "number", shown=_seconds_shown, written=_seconds_written
    ),
    "TimeInterval": Known(N_("reports every"), "s", "number", shown=_seconds_shown, written=_seconds_written),
    "ClassFilter": Known(N_("of which classes (none: any)")),
    "ConfidenceLevel": Known(N_("sure by at least"), "%", "number", shown=_percent_shown, written=_percent_written),
    "Enabled": Known(N_("switched on"), sort="yes_no"),
    "Armed": Known(N_("switched on"), sort="yes_no"),
}  # fmt: skip


def settings_of(detector: DetectorSaid, type: DetectorTypeSaid | None) -> list[Setting]:
    """The settings of a detector, in the order in which its device describes them; those that it has without describing
    come last."""
    described = {p["name"]: p["type"] for p in type["parameters"]} if type else {}
    values = detector["parameters"]
    names = [n for n, kind in described.items() if kind not in SHAPES]
    names += [n for n in values if n not in described]
    return [_setting(name, str(values.get(name, "")), described.get(name, "string")) for name in names]


def _setting(name: str, value: str, type: str) -> Setting:
    known = KNOWN.get(name)
    if known is None:
        sort = {"boolean": "yes_no", "int": "number", "integer": "number", "float": "number"}.get(type, "text")
        return Setting(name, name, sort, value)
    choices = tuple((choice, t(words)) for choice, words in known.choices)
    try:
        shown = known.shown(value)
    except NotReadable:
        shown = value
    return Setting(name, t(known.called), known.sort, shown, known.unit, choices)


def written(given: Mapping[str, str], parameters: Sequence[ParameterSaid]) -> dict[str, str]:
    """Settings as the device wants them. Raises NotSettable."""
    types = {p["name"]: p["type"] for p in parameters}
    found = {}
    for name, value in given.items():
        try:
            found[name] = _written(name, value.strip()[:500], types.get(name, "string"))
        except NotReadable as error:
            raise NotSettable(f"settings.{name}", f"{str(error)[:1].upper()}{str(error)[1:]}.") from error
    return found


def _written(name: str, value: str, type: str) -> str:
    known = KNOWN.get(name)
    if known is not None:
        if known.choices and value not in dict(known.choices):
            raise NotReadable(t("one of {choices}", choices=", ".join(dict(known.choices))))
        return known.written(value)
    if type == "boolean" and value not in ("true", "false"):
        raise NotReadable(t("true or false"))
    if type in ("int", "integer", "float"):
        number(value)
    return value


def checked_shapes(shapes: Sequence[ShapeSaid]) -> list[ShapeSaid]:
    """Shapes that can be drawn. Raises NotSettable."""
    for shape in shapes:
        least, most = CORNERS.get(shape["sort"], CORNERS["line"])
        if not least <= len(shape["points"]) <= most:
            words = t(
                "{sort} has from {least} to {most} corners.",
                sort=shape["sort"].capitalize(),
                least=str(least),
                most=str(most),
            )
            raise NotSettable("shapes", words)
        if any(not (-1 <= x <= 1 and -1 <= y <= 1) for x, y in shape["points"]):
            raise NotSettable("shapes", t("A corner lies outside of the picture."))
    return list(shapes)


def first_shapes(type: DetectorTypeSaid) -> list[ShapeSaid]:
    """What a new detector of a type watches until somebody draws it: the middle of the picture."""
    drawn: dict[str, list[tuple[float, float]]] = {
        "line": [(-0.3, -0.2), (0.3, -0.2)],
        "area": [(-0.3, -0.5), (0.3, -0.5), (0.3, 0.1), (-0.3, 0.1)],
        "spot": [(0.0, 0.0)],
    }
    return [
        {"sort": SHAPES[p["type"]], "item": p["name"], "points": drawn[SHAPES[p["type"]]]}
        for p in type["parameters"]
        if p["type"] in SHAPES
    ]
