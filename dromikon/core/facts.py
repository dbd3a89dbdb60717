"""What rules refer to: the points, areas, sightlines, hours, lists and recipients of one site, as values.

A change of facts is journal input like an event; rehearsal sees them as they were.
"""

from collections.abc import Iterable, Mapping
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from dromikon.core.hours import Hours, Place
from dromikon.core.instants import Instant
from dromikon.core.lists.watchlist import WatchList


class Value(BaseModel):
    """A frozen value with no unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Area(Value):
    id: str
    name: str
    parent: str | None = None


class Electrical(Value):
    """What an output's contact may switch, of alternating and of direct current (0: not known), and what hangs on it, in
    volts and amperes."""

    rated_volts: float
    rated_amps: float
    load_volts: float
    load_amps: float
    rated_dc_volts: float = 0.0
    rated_dc_amps: float = 0.0
    load_current: Literal["ac", "dc"] = "ac"


class Signal(Value):
    """What a siren does at one word: seconds of light and of sound; 0: without."""

    name: str
    light: float = 0.0
    sound: float = 0.0


class Siren(Value):
    """A siren with a light: the relay outputs that light and sound hang on (empty: it has none), and its signals."""

    light: str = ""
    sound: str = ""
    signals: tuple[Signal, ...] = ()


class Told(Value):
    """What a point's device says of it. `presets`: the positions that a camera knows, by name. `times`: seconds after which
    its outputs go off by themselves, by their tokens. `heard`: whether a camera has sound."""

    presets: tuple[str, ...] = ()
    heard: bool = False
    times: dict[str, float] = Field(default_factory=dict)


class Point(Value):
    """One thing events come from or actions go to. `waits` is how long a detector watches before it reports, in s.
    `seen_in`: by camera, the token of the position in which it looks at the point."""

    id: str
    name: str
    kind: str
    area: str | None = None
    device: str | None = None
    channel: str | None = None
    tags: tuple[str, ...] = ()
    waits: float = 0.0
    electrical: Electrical | None = None
    siren: Siren | None = None
    told: Told = Told()
    seen_in: dict[str, str] = Field(default_factory=dict)


class Device(Value):
    """What points belong to. `gap`: seconds it wants between two commands."""

    id: str
    name: str
    gap: float = 0.0


class Member(Value):
    """A person of the site: in which role, whether they may press desk buttons, and how they can be reached: by their
    `number` (texted or called), and in `ways` (mail, push, chat). `duty`, `quiet`: the Hours in which they are on duty, and in
    which they are not to be disturbed; None: always, and never. `muted`: rules that they want to hear nothing of."""

    id: str
    name: str
    role: str
    presses: bool = False
    number: bool = False
    ways: tuple[str, ...] = ()
    duty: str | None = None
    quiet: str | None = None
    muted: tuple[str, ...] = ()

    def has(self, way: str) -> bool:
        """Whether there is anything to reach them at."""
        return self.number if way in ("text", "call") else way in self.ways


class Destination(Value):
    """Something outside that steps send to, of a `sort`: chat, snmp, login, folder, sftp."""

    id: str
    name: str
    sort: str


class Counter(Value):
    """A number that steps count up and down and conditions compare."""

    id: str
    name: str


class Sound(Value):
    """A sound of the site's own, for its alarms."""

    id: str
    name: str


class Display(Value):
    """A screen on which cameras are put up. `shows`: the cameras that may come up there; empty: any."""

    id: str
    name: str
    shows: tuple[str, ...] = ()


class Group(Value):
    """Recipients: a named set of roles and persons."""

    id: str
    name: str
    roles: tuple[str, ...] = ()
    persons: tuple[str, ...] = ()


class LiveRule(Value):
    """A rule as the evaluator runs it: which revision of which document."""

    id: str
    revision: int
    document: dict[str, Any]


def _as_tuple(value: object) -> object:
    return tuple(value) if isinstance(value, list) else value


class Facts(Value):
    """Everything a site's rules may name."""

    site: str
    name: str
    zone: str = "UTC"
    #: Of what its rules send.
    language: str = "en-gb"
    latitude: float = 51.5
    longitude: float = 0.0
    areas: tuple[Area, ...] = ()
    points: tuple[Point, ...] = ()
    sightlines: dict[str, Annotated[tuple[str, ...], BeforeValidator(_as_tuple)]] = Field(default_factory=dict)
    hours: tuple[Hours, ...] = ()
    groups: tuple[Group, ...] = ()
    devices: tuple[Device, ...] = ()
    members: tuple[Member, ...] = ()
    lists: tuple[WatchList, ...] = ()
    counters: tuple[Counter, ...] = ()
    destinations: tuple[Destination, ...] = ()
    sounds: tuple[Sound, ...] = ()
    displays: tuple[Display, ...] = ()
    #: Where people reach the installation with a browser, for links; empty while nobody has said it.
    address: str = ""
    #: The site's operating states; the first is the one it is in before anybody sets one.
    modes: tuple[str, ...] = ()
    rules: tuple[LiveRule, ...] = ()

    @cached_property
    def place(self) -> Place:
        return Place(self.zone, self.latitude, self.longitude)

    @cached_property
    def point_by_id(self) -> dict[str, Point]:
        return {p.id: p for p in self.points}

    @cached_property
    def area_by_id(self) -> dict[str, Area]:
        return {a.id: a for a in self.areas}

    @cached_property
    def hours_by_id(self) -> dict[str, Hours]:
        return {h.id: h for h in self.hours}

    @cached_property
    def group_by_id(self) -> dict[str, Group]:
        return {g.id: g for g in self.groups}

    @cached_property
    def list_by_id(self) -> dict[str, WatchList]:
        return {w.id: w for w in self.lists}

    @cached_property
    def counter_by_id(self) -> dict[str, Counter]:
        return {c.id: c for c in self.counters}

    @cached_property
    def device_by_id(self) -> dict[str, Device]:
        return {d.id: d for d in self.devices}

    @cached_property
    def member_by_id(self) -> dict[str, Member]:
        return {m.id: m for m in self.members}

    @cached_property
    def destination_by_id(self) -> dict[str, Destination]:
        return {d.id: d for d in self.destinations}

    @cached_property
    def sound_by_id(self) -> dict[str, Sound]:
        return {s.id: s for s in self.sounds}

    @cached_property
    def display_by_id(self) -> dict[str, Display]:
        return {d.id: d for d in self.displays}

    def recipients(self, groups: Iterable[str], persons: Iterable[str]) -> list[Member]:
        """Everybody in some groups, and persons by name, once."""
        named = set(persons)
        found = {m.id for m in self.members_of(groups)} | named
        return [m for m in self.members if m.id in found]

    def may_be_disturbed(self, member: Member, at: Instant, urgent: bool) -> bool:
        """Whether somebody is on duty, and it is not their quiet time (which does not count for what is `urgent`)."""
        duty, quiet = (self.hours_by_id.get(h) if h else None for h in (member.duty, member.quiet))
        if duty is not None and not duty.contains(at, self.place):
            return False
        return urgent or quiet is None or not quiet.contains(at, self.place)

    def members_of(self, groups: Iterable[str]) -> list[Member]:
        """Everybody in some groups, by role or by name, once."""
        known = [self.group_by_id[g] for g in groups if g in self.group_by_id]
        return [m for m in self.members if any(m.role in g.roles or m.id in g.persons for g in known)]

    def name_of(self, what: str, id: str) -> str | None:
        """The name of a point, area, hours, group, list, counter, mode or device; None when the site has none such."""
        if what == "mode":
            return id if id in self.modes else None
        known = self._named.get(what, {}).get(id)
        return known.name if known is not None else None

    def things(self, what: str) -> list[tuple[str, str]]:
        """Id and name of every thing of a sort."""
        return [(id, known.name) for id, known in self._named.get(what, {}).items()]

    def named(self, what: str, name: str) -> list[str]:
        """The ids of what bears a name."""
        return [id for id, known in self._named.get(what, {}).items() if known.name == name]

    @cached_property
    def _named(
        self,
    ) -> dict[str, Mapping[str, "Named"]]:
        return {
            "point": self.point_by_id,
            "area": self.area_by_id,
            "hours": self.hours_by_id,
            "group": self.group_by_id,
            "list": self.list_by_id,
            "counter": self.counter_by_id,
            "device": self.device_by_id,
            "person": self.member_by_id,
            "destination": self.destination_by_id,
            "sound": self.sound_by_id,
            "display": self.display_by_id,
        }

    def cameras_of(self, point: str) -> tuple[str, ...]:
        """The cameras that look at a point, in order: its sightlines, else its own channel, else none."""
        if point in self.sightlines:
            return self.sightlines[point]
        known = self.point_by_id.get(point)
        if known is None:
            return ()
        if known.kind == "camera":
            return (point,)
        return (known.channel,) if known.channel else ()

    def area_with_inner(self, area: str) -> set[str]:
        """An area and all areas inside it."""
        found = {area}
        grew = True
        while grew:
            inner = {a.id for a in self.areas if a.parent in found} - found
            found |= inner
            grew = bool(inner)
        return found


#: What rules name by id.
Named = Area | Point | Hours | Group | WatchList | Counter | Device | Member | Destination | Sound | Display


def same_but_rules(one: Facts, other: Facts) -> bool:
    """Whether two facts differ in their rules at most."""
    names = [name for name in Facts.model_fields if name != "rules"]
    return all(getattr(one, n) is getattr(other, n) or getattr(one, n) == getattr(other, n) for n in names)
