"""Selections: which points a rule speaks of. A point added later joins by itself."""

from collections.abc import Iterable, Mapping
from typing import Annotated, Any

from pydantic import Field, model_validator

from dromikon.core.facts import Facts
from dromikon.core.rules.controls import Flag, Name, Pick
from dromikon.core.rules.parts import Part, Phrase, Ref, enumerated, told
from dromikon.core.words import t


class Selection(Part):
    """Points one by one, by area (with those inside), tag, kind of point or device, or all; less the exceptions."""

    points: Annotated[tuple[Ref, ...], Pick("Points", of="point")] = ()
    areas: Annotated[tuple[Ref, ...], Pick("Anything in", of="area")] = ()
    tags: Annotated[tuple[str, ...], Name("Anything tagged", of="tag")] = ()
    point_kinds: Annotated[tuple[str, ...], Name("Any", of="point_kind")] = ()
    devices: Annotated[tuple[Ref, ...], Pick("Anything of", of="device")] = ()
    everywhere: Annotated[bool, Flag("everywhere at the site")] = False
    but: Annotated[tuple[Ref, ...], Pick("but not", of="point")] = Field(default=())

    @model_validator(mode="after")
    def _names_something(self) -> "Selection":
        if not (self.everywhere or self.points or self.areas or self.tags or self.point_kinds or self.devices):
            raise ValueError(t("choose at least one point, area, tag, kind of point or device, or everywhere"))
        return self

    def resolve(self, facts: Facts, point_kinds: tuple[str, ...] = ()) -> frozenset[str]:
        """Ids of the site's points that are meant; `point_kinds` keeps only points that can send the kind at all."""
        without = {p.id for p in self.but}
        if not (self.everywhere or self.areas or self.tags or self.point_kinds or self.devices):
            named = (facts.point_by_id.get(ref.id) for ref in self.points if ref.id not in without)
            return frozenset(p.id for p in named if p is not None and (not point_kinds or p.kind in point_kinds))
        areas = set().union(*(facts.area_with_inner(a.id) for a in self.areas)) if self.areas else set()
        wanted = {p.id for p in self.points}
        devices = {d.id for d in self.devices}
        tags = set(self.tags)
        return frozenset(
            p.id
            for p in facts.points
            if p.id not in without
            and (not point_kinds or p.kind in point_kinds)
            and (
                self.everywhere
                or p.id in wanted
                or p.area in areas
                or p.kind in self.point_kinds
                or p.device in devices
                or bool(tags.intersection(p.tags))
            )
        )

    def refs(self) -> list[tuple[str, str, Ref]]:
        """Every reference inside, as (path, what it names, reference)."""
        return [
            *((f"points.{i}", "point", r) for i, r in enumerate(self.points)),
            *((f"areas.{i}", "area", r) for i, r in enumerate(self.areas)),
            *((f"devices.{i}", "device", r) for i, r in enumerate(self.devices)),
            *((f"but.{i}", "point", r) for i, r in enumerate(self.but)),
        ]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        """In words: "Jetty line", "any point of Boathouse", "everywhere but Jetty line"."""
        items = [[Phrase(name, part, name=True)] for name in _names(self.points, facts.point_by_id)]
        items += [told("any point of {area}", part, area=name) for name in _names(self.areas, facts.area_by_id)]
        items += [told("anything tagged {tag}", part, tag=tag) for tag in self.tags]
        items += [told("any {kind}", part, kind=Phrase(t(kind), part)) for kind in self.point_kinds]
        items += [told("any point of {area}", part, area=name) for name in _names(self.devices, facts.device_by_id)]
        if self.everywhere:
            items = [told("any point of the site", part)]
        words = list(enumerated(items, "or"))
        if not self.but:
            return words
        but = [[Phrase(name, part, name=True)] for name in _names(self.but, facts.point_by_id)]
        return told("{points} but not {others}", part, points=words, others=list(enumerated(but, "or")))


def _names(refs: Iterable[Ref], known: Mapping[str, Any]) -> list[str]:
    return [_name(known.get(ref.id), ref) for ref in refs]


def _name(known: object, ref: Ref) -> str:
    return getattr(known, "name", "") or ref.name or ref.id
