"""Analytics: the detectors a camera can run and runs, read and set; shapes in normalised coordinates of its picture."""

from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple
from xml.sax.saxutils import quoteattr

from lxml import etree

from dromikon.standins.onvif.device import Handler, Service, StandInDevice
from dromikon.standins.onvif.soap import NAMES, Fault, Request
from dromikon.standins.world.detectors import Detector, LineDetector, Region, StayDetector
from dromikon.standins.world.geometry import Lens
from dromikon.standins.world.instruments import COUNT, HEAT, PLATE, SPOT
from dromikon.standins.world.tracks import Place
from dromikon.standins.world.watching import CROSSED, LOITERING

CLASSES = ("Human", "Vehicle", "Animal")
MOST = 8


class Sort(NamedTuple):
    """A type of detector: its topic, whether that is a property, the settings besides class and confidence, its shape."""

    topic: str
    state: bool
    settings: tuple[tuple[str, str], ...]
    shape: str
    element: str


SORTS = {
    "tt:LineDetector": Sort(CROSSED, False, (("Direction", "xs:string"),), "Segments", "Polyline"),
    "tt:LoiteringDetector": Sort(LOITERING, True, (("TimeThreshold", "xs:duration"),), "Field", "Polygon"),
}
#: Regions, which this maker has types of its own for: what is done in them, and how many a camera has.
REGIONS = {
    "plates": ("so:PlateReader", Sort(PLATE, False, (), "Field", "Polygon")),
    "count": ("so:PeopleInside", Sort(COUNT, False, (), "Field", "Polygon")),
    "heat": ("so:MeasuredRegion", Sort(HEAT, False, (), "Field", "Polygon")),
    "heat along a line": ("so:MeasuredLine", Sort(HEAT, False, (), "Segments", "Polyline")),
    "heat at a spot": ("so:MeasuredSpot", Sort(SPOT, False, (), "Spot", "Vector")),
}
#: The least places of each shape.
LEAST = {"Polygon": 3, "Polyline": 2, "Vector": 1}
KNOWN = {**SORTS, **dict(REGIONS.values())}
_REGION_SORTS = tuple(sort for _, sort in REGIONS.values())
COMMON = (("ClassFilter", "tt:StringList"), ("ConfidenceLevel", "xs:float"))


class Kept(NamedTuple):
    """Where the detectors are kept."""

    now: Callable[[], Sequence[Detector]]
    set: Callable[[Detector], None]
    delete: Callable[[str], None]


class Analytics(Service):
    prefix, path, version = "tan", "analytics", (2, 50)

    def __init__(self, device: StandInDevice, lens: Lens, kept: Kept) -> None:
        super().__init__(device)
        self.lens, self.kept = lens, kept

    def operations(self) -> Mapping[str, Handler]:
        return {
            "GetSupportedRules": self._supported,
            "GetRules": self._rules,
            "CreateRules": self._create,
            "ModifyRules": self._modify,
            "DeleteRules": self._delete,
            "GetAnalyticsModules": self._modules,
            "GetSupportedAnalyticsModules": self._supported_modules,
        }

    # -- telling -------------------------------------------------------------------------------------------------------

    def _supported(self, asked: Request) -> str:
        _known(asked)
        regions = {d.sort for d in self.kept.now() if isinstance(d, Region)}
        # What measures heat does so in areas, along lines and at spots.
        sorts = {**SORTS, **{REGIONS[r][0]: REGIONS[r][1] for r in REGIONS if r.split()[0] in regions}}
        inner = "".join(
            f'<tt:RuleDescription Name="{name}" maxInstances="{MOST}"><tt:Parameters>{_described(sort)}</tt:Parameters>'
            f'<tt:Messages IsProperty="{str(sort.state).lower()}"><tt:Source/><tt:Data/>'
            f"<tt:ParentTopic>{sort.topic}</tt:ParentTopic></tt:Messages></tt:RuleDescription>"
            for name, sort in sorts.items()
        )
        return f"<tan:GetSupportedRulesResponse><tan:SupportedRules>{inner}</tan:SupportedRules></tan:GetSupportedRulesResponse>"

    def _rules(self, asked: Request) -> str:
        _known(asked)
        return f"<tan:GetRulesResponse>{''.join(map(self._rule, self.kept.now()))}</tan:GetRulesResponse>"

    def _rule(self, detector: Detector) -> str:
        name, sort = _sort_of(detector)
        items = "".join(f"<tt:SimpleItem Name={quoteattr(n)} Value={quoteattr(v)}/>" for n, v in _settings(detector))
        corners = self._corners(detector)
        return (
            f'<tan:Rule Name={quoteattr(detector.name)} Type="{name}"><tt:Parameters>{items}'
            f'<tt:ElementItem Name="{sort.shape}">{_shape(sort, corners)}</tt:ElementItem>'
            "</tt:Parameters></tan:Rule>"
        )

    def _corners(self, detector: Detector) -> Sequence[Place]:
        if isinstance(detector, Region):
            return detector.seen
        seen = [self._seen(p, detector.height) for p in detector.points]
        return seen if isinstance(detector, LineDetector) else within_picture(seen)

    def _modules(self, asked: Request) -> str:
        _known(asked)
        return (
            '<tan:GetAnalyticsModulesResponse><tan:AnalyticsModule Name="Objects" Type="tt:ObjectDetection"><tt:Parameters>'
            '<tt:SimpleItem Name="Sensitivity" Value="60"/></tt:Parameters></tan:AnalyticsModule></tan:GetAnalyticsModulesResponse>'
        )

    def _supported_modules(self, asked: Request) -> str:
        _known(asked)
        described = "".join(
            f'<tt:AnalyticsModuleDescription Name="{name}" fixed="{str(fixed).lower()}"><tt:Parameters>'
            f'<tt:SimpleItemDescription Name="{setting}" Type="xs:int"/></tt:Parameters></tt:AnalyticsModuleDescription>'
            for name, setting, fixed in (
                ("tt:ObjectDetection", "Sensitivity", True),
                ("tt:CellMotionEngine", "Sensitivity", False),
            )
        )
        return (
            "<tan:GetSupportedAnalyticsModulesResponse><tan:SupportedAnalyticsModules>"
            f"{described}</tan:SupportedAnalyticsModules></tan:GetSupportedAnalyticsModulesResponse>"
        )

    # -- setting -------------------------------------------------------------------------------------------------------

    def _create(self, asked: Request) -> str:
        detector = self._read(asked)
        known = [d.name for d in self.kept.now()]
        if detector.name in known:
            raise Fault("ter:InvalidRule", "There is a rule of that name.")
        if len(known) >= MOST:
            raise Fault("ter:TooManyRules", "No more rules fit.")
        self.kept.set(detector)
        return "<tan:CreateRulesResponse/>"

    def _modify(self, asked: Request) -> str:
        detector = self._read(asked)
        self._find(detector.name)
        self.kept.set(detector)
        return "<tan:ModifyRulesResponse/>"

    def _delete(self, asked: Request) -> str:
        _known(asked)
        name = asked.text("RuleName") or ""
        self._find(name)
        self.kept.delete(name)
        return "<tan:DeleteRulesResponse/>"

    def _find(self, name: str) -> Detector:
        found = next((d for d in self.kept.now() if d.name == name), None)
        if found is None:
            raise Fault("ter:RuleNotExistent", "There is no such rule.")
        return found

    def _read(self, asked: Request) -> Detector:
        _known(asked)
        rule = asked.body.find(f"{{{NAMES['tan']}}}Rule")
        sort = KNOWN.get(rule.get("Type", "")) if rule is not None else None
        if rule is None or sort is None:
            raise Fault("ter:InvalidRule", "There is no such type of rule.")
        said = {i.get("Name", ""): i.get("Value", "") for i in rule.iter(f"{{{NAMES['tt']}}}SimpleItem")}
        old = next((d for d in self.kept.now() if d.name == rule.get("Name")), None)
        if sort in _REGION_SORTS:
            return _region(rule, old)
        height = getattr(old, "height", 0.0)
        places = tuple(self._place(p, height) for p in rule.iter(f"{{{NAMES['tt']}}}Point"))
        try:
            return _made(rule.get("Name", ""), sort, said, places, height)
        except (ValueError, IndexError) as error:
            raise Fault("ter:InvalidRule", f"The settings do not make a rule: {error}") from error

    # -- between the ground and the picture ------------------------------------------------------------------------------

    def _seen(self, place: Place, height: float) -> Place:
        """Where a place on the ground lies in the picture, from -1 to 1."""
        found = self.lens.project(place[0], place[1], height, 2000, 1125)
        return (found[0] / 1000 - 1, 1 - found[1] / 562.5) if found else (0.0, -1.0)

    def _place(self, point: etree._Element, height: float) -> Place:
        try:
            x, y = float(point.get("x", "")), float(point.get("y", ""))
        except ValueError as error:
            raise Fault("ter:InvalidRule", "A point has no numbers.") from error
        found = self.lens.on_ground(x, y, height)
        if found is None:
            raise Fault("ter:InvalidRule", "A point lies above the horizon.")
        return found


def within_picture(corners: list[Place]) -> list[Place]:
    """The part of an area that lies in the picture (Sutherland and Hodgman: one edge of the picture after the other)."""
    for axis, sign in ((0, 1), (0, -1), (1, 1), (1, -1)):
        kept: list[Place] = []
        for before, here in zip([corners[-1], *corners], corners, strict=False):
            a, b = 1 - sign * before[axis], 1 - sign * here[axis]
            if a * b < 0:
                k = a / (a - b)
                kept.append((before[0] + (here[0] - before[0]) * k, before[1] + (here[1] - before[1]) * k))
            if b >= 0:
                kept.append(here)
        corners = kept
        if not corners:
            return []
    return corners


def _known(asked: Request) -> None:
    if asked.text("ConfigurationToken") != "analytics":
        raise Fault("ter:NoConfig", "There is no such analytics configuration.")


def _sort_of(detector: Detector) -> tuple[str, Sort]:
    """The name of its type, and the type."""
    if isinstance(detector, Region):
        return REGIONS[detector.sort]
    name = "tt:LineDetector" if isinstance(detector, LineDetector) else "tt:LoiteringDetector"
    return name, SORTS[name]


def _settings(detector: Detector) -> tuple[tuple[str, str], ...]:
    if isinstance(detector, Region):
        return ()
    own = (
        ("Direction", detector.direction)
        if isinstance(detector, LineDetector)
        else ("TimeThreshold", f"PT{detector.threshold}S")
    )
    return own, ("ClassFilter", " ".join(detector.classes)), ("ConfidenceLevel", f"{detector.confidence:g}")


def _shape(sort: Sort, corners: Sequence[Place]) -> str:
    """The element of a shape; a single place carries its own numbers."""
    places = [f'x="{x:.4f}" y="{y:.4f}"' for x, y in corners]
    if sort.element == "Vector":
        return f"<tt:Vector {places[0]}/>"
    return f"<tt:{sort.element}>{''.join(f'<tt:Point {p}/>' for p in places)}</tt:{sort.element}>"


def _region(rule: etree._Element, old: Detector | None) -> Region:
    """A region as it is to be; what it tells of stays."""
    sort, known = next((name, known) for name, (type, known) in REGIONS.items() if type == rule.get("Type"))
    element = "Vector" if known.element == "Vector" else "Point"
    try:
        seen = tuple((float(p.get("x", "")), float(p.get("y", ""))) for p in rule.iter(f"{{{NAMES['tt']}}}{element}"))
    except ValueError as error:
        raise Fault("ter:InvalidRule", "A point has no numbers.") from error
    if len(seen) < LEAST[known.element]:
        raise Fault("ter:InvalidRule", f"Such a shape has {LEAST[known.element]} places or more.")
    if any(not (-1 <= x <= 1 and -1 <= y <= 1) for x, y in seen):
        raise Fault("ter:InvalidRule", "A place lies outside of the picture.")
    return Region(rule.get("Name", ""), seen, sort, old.point if isinstance(old, Region) else "")


def _described(sort: Sort) -> str:
    if sort in _REGION_SORTS:
        return f'<tt:ElementItemDescription Name="{sort.shape}" Type="tt:{sort.element}"/>'
    simple = "".join(f'<tt:SimpleItemDescription Name="{n}" Type="{t}"/>' for n, t in (*sort.settings, *COMMON))
    return f'{simple}<tt:ElementItemDescription Name="{sort.shape}" Type="tt:{sort.element}"/>'


def _made(name: str, sort: Sort, said: dict[str, str], places: tuple[Place, ...], height: float) -> Detector:
    classes = tuple(said.get("ClassFilter", "").split())
    if unknown := set(classes) - set(CLASSES):
        raise ValueError(f"no class {', '.join(sorted(unknown))}")
    confidence = float(said.get("ConfidenceLevel") or 0)
    if not 0 <= confidence <= 1:
        raise ValueError("a confidence from 0 to 1")
    if sort.topic == CROSSED:
        direction = said.get("Direction", "Any")
        if direction not in ("Any", "Left", "Right"):
            raise ValueError("a direction is Any, Left or Right")
        return LineDetector(name, places[0], places[1], height, direction, classes, confidence)
    if len(places) < 3:
        raise ValueError("an area has three corners")
    threshold = said.get("TimeThreshold", "")
    seconds = int(threshold.removeprefix("PT").removesuffix("S"))
    if not 1 <= seconds <= 600:
        raise ValueError("a time from 1 to 600 seconds")
    return StayDetector(name, places, seconds, height, classes, confidence)
