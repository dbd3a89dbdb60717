"""Points of every kind: cameras, doors, sensors, inputs, outputs, buttons; and which cameras look at them."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field, model_validator

from dromikon.core.buttons import ButtonPart
from dromikon.core.point_kinds import POINT_KINDS, PointKind
from dromikon.core.rules.controls import Choice, Flag, Inner, Number, Pick, When, WordList, Words
from dromikon.core.rules.parts import Part, Ref
from dromikon.core.words import N_, t
from dromikon.ids import id_or_new
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.commanding import VERBS, commands_of
from dromikon.setup.naming import rules_that_name
from dromikon.setup.sort import Row, Saved, Sort, change, in_use, refuse
from dromikon.sites.models import Area, Site
from dromikon.sources.models import Device, Point, Recorder, Sightline
from dromikon.sources.offers import catalogue_of
from dromikon.sources.told import told_of

CAMERA, OUTPUT, SENSOR, SIREN = ("camera",), ("relay",), ("sensor", "detector"), ("siren",)


class ElectricalPart(Part):
    """What an output's contact may switch, and what hangs on it."""

    rated_volts: Annotated[float, Field(ge=0, le=1000), Number(N_("Contact may switch"), unit="V ~")]
    rated_amps: Annotated[float, Field(ge=0, le=1000), Number(N_("at most"), unit="A ~")]
    rated_dc_volts: Annotated[
        float, Field(ge=0, le=1000), Number(N_("of direct current"), unit="V ⎓", hint=N_("0: not known"))
    ] = 0.0
    rated_dc_amps: Annotated[float, Field(ge=0, le=1000), Number(N_("at most"), unit="A ⎓")] = 0.0
    load_volts: Annotated[float, Field(ge=0, le=1000), Number(N_("What hangs on it has"), unit="V")]
    load_current: Annotated[
        Literal["ac", "dc"], Choice(N_("of"), words={"ac": N_("alternating current"), "dc": N_("direct current")})
    ] = "ac"
    load_amps: Annotated[float, Field(ge=0, le=1000), Number(N_("It draws"), unit="A")]


class SignalPart(Part):
    """What the siren does at one word."""

    name: Annotated[str, Field(min_length=1, max_length=40), Words(N_("Signal"))]
    light: Annotated[float, Field(ge=0, le=3600), Number(N_("light for"), unit="s", hint=N_("0: without"))] = 0.0
    sound: Annotated[float, Field(ge=0, le=3600), Number(N_("sound for"), unit="s", hint=N_("0: without"))] = 0.0


class SirenPart(Part):
    """On which outputs of its device light and sound hang, and what it can be told."""

    light: Annotated[str, Field(max_length=64), Words(N_("Output of the light"), hint=N_("the relay's token"))] = ""
    sound: Annotated[str, Field(max_length=64), Words(N_("Output of the sound"), hint=N_("the relay's token"))] = ""
    signals: Annotated[tuple[SignalPart, ...], Field(max_length=20), Inner(N_("Signals"))] = ()

    @model_validator(mode="after")
    def _sounds(self) -> "SirenPart":
        if not (self.light or self.sound):
            raise ValueError("Name the output of its light, of its sound, or both.")
        if len({s.name.casefold() for s in self.signals}) < len(self.signals):
            raise ValueError("Two signals have one name.")
        return self


class PointDocument(Part):
    """One thing that events come from or actions go to."""

    name: Annotated[str, Field(min_length=1, max_length=120), Words(N_("Name"), hint=N_("as an operator calls it"))]
    kind: Annotated[PointKind, Choice(N_("What it is"), words=POINT_KINDS)]
    area: Annotated[Ref | None, Pick(N_("Area"), of="area")] = None
    device: Annotated[Ref | None, Pick(N_("Device"), of="device", hint=N_("none: its events come by an intake"))] = None
    channel: Annotated[
        Ref | None, Pick(N_("Watched by"), of="point", kinds=CAMERA, when=When("kind", ("detector",)))
    ] = None
    token: Annotated[
        str, Field(max_length=200), Words(N_("Called by its sender"), hint=N_("the name in its messages"))
    ] = ""
    tags: Annotated[
        tuple[Annotated[str, Field(min_length=1, max_length=40)], ...],
        Field(max_length=20),
        WordList(N_("Tags"), hint=N_("with commas")),
    ] = ()
    waits: Annotated[
        float,
        Field(ge=0, le=3600),
        Number(N_("Watches before it reports"), unit="s", when=When("kind", ("detector",))),
    ] = 0.0
    unit: Annotated[
        str,
        Field(max_length=12),
        Words(N_("Unit"), hint=N_("such as °C; readings in another unit are converted"), when=When("kind", SENSOR)),
    ] = ""
    deadband: Annotated[
        float,
        Field(ge=0, le=1e9),
        Number(N_("Told when it differs by"), hint=N_("0: every reading is"), when=When("kind", SENSOR)),
    ] = 0.0
    at_least_every: Annotated[
        float,
        Field(ge=0, le=86_400),
        Number(N_("and at least every"), unit="s", hint=N_("0: only then"), when=When("kind", SENSOR)),
    ] = 0.0
    stale_after: Annotated[
        float,
        Field(ge=0, le=7 * 86_400),
        Number(N_("Stale without a reading for"), unit="s", hint=N_("0: never"), when=When("kind", SENSOR)),
    ] = 0.0
    usually_on: Annotated[
        bool, Flag(N_("At rest it is"), words=(N_("on"), N_("off")), when=When("kind", ("input",)))
    ] = False
    button: Annotated[ButtonPart | None, Inner(N_("How it is pressed"), when=When("kind", ("button",)))] = None
    seen_by: Annotated[
        tuple[Ref, ...],
        Field(max_length=9),
        Pick(N_("Cameras that look at it"), of="point", kinds=CAMERA, when=When("kind", CAMERA, negated=True)),
    ] = ()
    looks_at: Annotated[
        tuple[Ref, ...], Field(max_length=200), Pick(N_("Looks at"), of="point", when=When("kind", CAMERA))
    ] = ()
    recorder: Annotated[Ref | None, Pick(N_("Recorded by"), of="recorder", when=When("kind", CAMERA))] = None
    recorder_channel: Annotated[str, Field(max_length=80), Words(N_("Called there"), when=When("kind", CAMERA))] = ""
    electrical: Annotated[
        ElectricalPart | None,
        Inner(N_("Electrical"), hint=N_("contact and load are known"), when=When("kind", OUTPUT)),
    ] = None

    siren: Annotated[SirenPart | None, Inner(N_("Light and sound"), when=When("kind", SIREN))] = None

    @model_validator(mode="after")
    def _fits_its_kind(self) -> "PointDocument":
        if self.siren is not None and self.kind != "siren":
            raise ValueError("Only a siren has light and sound.")
        if self.kind != "camera" and (self.recorder or self.looks_at):
            raise ValueError("Only a camera is recorded and looks at points.")
        return self


class Surroundings:
    """What a point of a site may refer to, read once."""

    def __init__(self, site: Site) -> None:
        self.areas = {a.id: a for a in site.areas.filter(retired_at=None)}
        self.devices = {d.id: d for d in site.devices.filter(retired_at=None)}
        self.recorders = {r.id: r for r in site.recorders.filter(retired_at=None)}
        self.points = {p.id: p for p in site.points.filter(retired_at=None)}
        self.by_token = {(p.device_id, p.token): p.id for p in self.points.values()}

    def now_has(self, point: Point) -> None:
        """A point that was filled counts for those that are filled after it."""
        self.points[point.id] = point
        self.by_token[point.device_id, point.token] = point.id


def save_point(access: Access, id: str | None, document: PointDocument, new_id: str | None = None) -> Point:
    """Add a point, or change one, with its sightlines from either side. Raises Refused."""
    point = in_use(Point, access, id, "point") if id else Point(site=access.site, id=id_or_new(new_id))
    fill(point, document, Surroundings(access.site))
    with change(access, "changed point" if id else "added point", f"point:{point.id}", point.name):
        point.save(force_insert=not id)
        set_sightlines(point, document)
    return point


def fill(point: Point, document: PointDocument, around: Surroundings) -> None:
    """Give a point what its document says. Raises Refused where it names what is not there."""
    point.name, point.kind, point.tags = document.name.strip(), document.kind, list(document.tags)
    point.area = _named(around.areas, document.area, "area")
    point.device = _named(around.devices, document.device, "device")
    point.channel = _named(around.points, document.channel, "channel")
    point.recorder = _named(around.recorders, document.recorder, "recorder")
    point.recorder_channel, point.waits = document.recorder_channel.strip(), document.waits
    point.usually_on = document.usually_on
    point.unit, point.deadband = document.unit.strip(), document.deadband
    point.at_least_every, point.stale_after = document.at_least_every, document.stale_after
    point.electrical = document.electrical.model_dump() if document.electrical else None
    point.button = document.button.model_dump(mode="json") if document.button and document.kind == "button" else None
    point.siren = document.siren.model_dump() if document.siren else None
    # What has no device is told of by name; its own id always is one.
    point.token = document.token.strip() or ("" if point.device else point.id)
    point.told = told_of(point, catalogue_of(point.device)) if point.device else {}
    if point.token and around.by_token.get((point.device_id, point.token), point.id) != point.id:
        raise refuse("token", "Another point is called so by the same sender.")
    for ref in document.seen_by:
        if _named(around.points, ref, "seen_by").kind != "camera":
            raise refuse("seen_by", f"{ref.name or ref.id} is no camera.")
    for ref in document.button.cameras if document.button else ():
        if _named(around.points, ref, "button").kind != "camera":
            raise refuse("button", f"{ref.name or ref.id} is no camera.")
    for ref in document.looks_at:
        _named(around.points, ref, "looks_at")


def set_sightlines(point: Point, document: PointDocument) -> None:
    """A camera's side: what it looks at; every other point's: who looks at it. Call inside the transaction of the change."""
    if document.kind == "camera":
        _set_looks_at(point, [r.id for r in document.looks_at])
        return
    lines = sightlines_of(point, document, dict(point.sightlines.values_list("camera_id", "preset")))
    point.sightlines.all().delete()
    Sightline.objects.bulk_create(lines)


def sightlines_of(
    point: Point, document: PointDocument, presets: Mapping[str, str] = MappingProxyType({})
) -> list[Sightline]:
    """Who looks at a point, as rows; in which position stays as it is set on the plan."""
    return [
        Sightline(point=point, camera_id=r.id, order=i, preset=presets.get(r.id, ""))
        for i, r in enumerate(document.seen_by)
    ]


def _set_looks_at(camera: Point, wanted: list[str]) -> None:
    """The order of a point's other cameras stays; this one comes last where it is new."""
    camera.looks_at.exclude(point_id__in=wanted).delete()
    known = set(camera.looks_at.values_list("point_id", flat=True))
    for point in wanted:
        if point not in known:
            last = Sightline.objects.filter(point_id=point).count()
            Sightline.objects.create(point_id=point, camera=camera, order=last)


def retire_point(access: Access, id: str) -> None:
    """Take a point away: nothing comes from it any more. What happened there keeps its name."""
    point = in_use(Point, access, id, "point")
    with change(access, "retired point", f"point:{point.id}", point.name) as at:
        Sightline.objects.filter(camera=point).delete()
        point.sightlines.all().delete()
        point.detectors.filter(retired_at=None).update(retired_at=at)
        point.retired_at = at
        point.save(update_fields=["retired_at"])


Named = TypeVar("Named", Area, Device, Recorder, Point)


def _named(known: dict[str, Named], ref: Ref | None, path: str) -> Any:
    if ref is None:
        return None
    found = known.get(ref.id)
    if found is None:
        raise refuse(path, f"{ref.name or ref.id} is not there any more. Choose another one.")
    return found


class Points(Sort[PointDocument]):
    name = "points"
    label = N_("Points")
    one = N_("Add a point")
    about = N_("A point is one thing that events come from or actions go to: a camera, a door, a sensor, a button.")
    icon = "plug"
    columns = (N_("what it is"), N_("area"), N_("of"), N_("seen by"), N_("tags"))
    document = PointDocument
    may = May.EDIT_SOURCES
    verbs = VERBS

    def rows(self, who: Access) -> list[Row]:
        lines = Sightline.objects.filter(point__site=who.site).select_related("point", "camera")
        seen: dict[str, list[Ref]] = {}
        looks: dict[str, list[Ref]] = {}
        for line in lines:
            seen.setdefault(line.point_id, []).append(Ref(id=line.camera_id, name=line.camera.name))
            looks.setdefault(line.camera_id, []).append(Ref(id=line.point_id, name=line.point.name))
        known = Point.objects.filter(site=who.site, retired_at=None)
        known = known.select_related("area", "device", "channel", "recorder")
        return [_row(p, tuple(seen.get(p.id, ())), tuple(looks.get(p.id, ()))) for p in known]

    def save(self, who: Access, id: str | None, document: PointDocument) -> Saved:
        return Saved(save_point(who, id, document).id)

    def retire(self, who: Access, id: str) -> None:
        retire_point(who, id)

    def used_by(self, who: Access, id: str) -> list[str]:
        return rules_that_name(who.site, id)


def _row(point: Point, seen: tuple[Ref, ...], looks: tuple[Ref, ...]) -> Row:
    camera = point.kind == "camera"
    document = PointDocument(
        name=point.name, kind=point.kind, area=_ref(point.area), device=_ref(point.device), channel=_ref(point.channel),
        token=point.token, tags=tuple(point.tags), waits=point.waits, usually_on=point.usually_on,
        unit=point.unit, deadband=point.deadband, at_least_every=point.at_least_every, stale_after=point.stale_after, seen_by=() if camera else seen,
        looks_at=looks if camera else (), recorder=_ref(point.recorder) if camera else None,
        recorder_channel=point.recorder_channel if camera else "",
        electrical=ElectricalPart.model_validate(point.electrical) if point.electrical else None,
        siren=SirenPart.model_validate(point.siren) if point.siren else None,
        button=ButtonPart.model_validate(point.button) if point.button else None,
    )  # fmt: skip
    about = (
        t(POINT_KINDS.get(point.kind, point.kind)),
        point.area.name if point.area else "",
        point.device.name if point.device else "",
        ", ".join(r.name for r in document.seen_by),
        " ".join(f"#{t}" for t in point.tags),
    )
    return Row(point.id, point.name, document, about, verbs=commands_of(point))


def _ref(thing: Any) -> Ref | None:
    return Ref(id=thing.id, name=thing.name) if thing is not None else None
