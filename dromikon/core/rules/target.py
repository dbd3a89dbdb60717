"""Targets: where a step is carried out."""

from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field, model_validator

from dromikon.core.facts import Facts
from dromikon.core.rules.controls import Choice, Name, Pick, When
from dromikon.core.rules.parts import Part, Phrase, Ref, told
from dromikon.core.words import N_, t

if TYPE_CHECKING:
    from dromikon.core.rules.actions.base import Firing


class Target(Part):
    """A named point, the source itself, the source's sightlines (all, or the first), or the points of a kind in the
    source's area with those inside."""

    of: Annotated[
        Literal["point", "source", "sightlines", "first_sightline", "area"],
        Choice(
            "Which",
            bare=True,
            words={
                "point": "named",
                "source": "where it happened",
                "sightlines": "its sightlines",
                "first_sightline": "its first sightline",
                "area": "all of its area",
            },
        ),
    ] = "point"
    point: Annotated[Ref | None, Pick("Point", bare=True, when=When("of", ("point",)))] = None
    point_kind: Annotated[str, Name("of the sort", of="point_kind", when=When("of", ("area",)))] = Field(
        default="", max_length=40
    )

    @model_validator(mode="after")
    def _fits(self) -> "Target":
        if (self.of == "point") != (self.point is not None):
            raise ValueError(t("name a point exactly when the target is a point"))
        if (self.of == "area") != bool(self.point_kind):
            raise ValueError(t("name a kind of point exactly when the target is the source's area"))
        return self

    def resolve(self, firing: "Firing") -> tuple[str, ...]:
        """Ids of the points meant, in order; empty when there are none."""
        facts, source = firing.facts, firing.source
        if self.point is not None:
            return (self.point.id,)
        if self.of == "source":
            return (source,) if source else ()
        if self.of in ("sightlines", "first_sightline"):
            cameras = facts.cameras_of(source)
            return cameras[:1] if self.of == "first_sightline" else cameras
        known = facts.point_by_id.get(source)
        areas = facts.area_with_inner(known.area) if known and known.area else set()
        return tuple(p.id for p in facts.points if p.kind == self.point_kind and p.area in areas)

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        """In words: "Storm light", "its sightlines", "every relay of its area"."""
        if self.point is not None:
            name = facts.name_of("point", self.point.id) or self.point.name or self.point.id
            return [Phrase(name, part, name=True)]
        if self.of == "area":
            return told("every {kind} of its area", part, kind=Phrase(t(self.point_kind), part))
        words = {"source": "it", "sightlines": N_("its sightlines"), "first_sightline": N_("its first sightline")}
        return told(words[self.of], part)

    def named(self, field: str) -> list[tuple[str, str, Ref]]:
        return [(f"{field}.point", "point", self.point)] if self.point else []


SIGHTLINES = Target(of="sightlines")
