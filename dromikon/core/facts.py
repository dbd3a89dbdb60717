"""What rules refer to: the points, areas, sightlines, hours and recipients of one site, as values.

A change of facts is journal input like an event; rehearsal sees them as they were.
"""

from functools import cached_property
from typing import Annotated, Any

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from dromikon.core.hours import Hours


class Value(BaseModel):
    """A frozen value with no unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Area(Value):
    id: str
    name: str
    parent: str | None = None


class Point(Value):
    """One thing events come from or actions go to. `waits` is how long a detector watches before it reports, in s."""

    id: str
    name: str
    kind: str
    area: str | None = None
    device: str | None = None
    channel: str | None = None
    tags: tuple[str, ...] = ()
    waits: float = 0.0


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
    areas: tuple[Area, ...] = ()
    points: tuple[Point, ...] = ()
    sightlines: dict[str, Annotated[tuple[str, ...], BeforeValidator(_as_tuple)]] = Field(default_factory=dict)
    hours: tuple[Hours, ...] = ()
    groups: tuple[Group, ...] = ()
    rules: tuple[LiveRule, ...] = ()

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
