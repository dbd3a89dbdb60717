"""What is searched for among records: the one schema of the page, the API and searches that are kept under a name."""

from typing import Annotated, Any, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from dromikon.core.records.entry import SORTS
from dromikon.core.words import N_, t

#: What records are told apart by, with what each is called, in the order in which they are offered.
FACETS = {
    "sort": N_("What"),
    "kind": N_("Kind of event"),
    "area": N_("Area"),
    "point": N_("Point"),
    "rule": N_("Rule"),
    "outcome": N_("Outcome"),
    "person": N_("Person"),
}
HOUR, DAY = 3_600_000, 86_400_000
#: How far back is looked, in ms, and what that is called.
STRETCHES = {
    HOUR: N_("the last hour"),
    DAY: N_("the last 24 hours"),
    7 * DAY: N_("the last 7 days"),
    30 * DAY: N_("the last 30 days"),
    0: N_("all that is kept"),
}
Values = Annotated[tuple[Annotated[str, Field(max_length=150)], ...], Field(max_length=50)]


class Search(BaseModel):
    """Records in [`start`, `end`) (ms UTC), or of the last `last` ms (0: all); with each of `words`, and, where values of a facet are
    given, with one of them."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    words: Annotated[str, Field(max_length=200)] = ""
    last: Annotated[int, Field(ge=0, le=3_660 * DAY)] = 7 * DAY
    start: Annotated[int, Field(ge=0, le=8_000_000_000_000)] | None = None
    end: Annotated[int, Field(ge=0, le=8_000_000_000_000)] | None = None
    order: Literal["newest", "oldest"] = "newest"
    sort: Values = ()
    kind: Values = ()
    area: Values = ()
    point: Values = ()
    rule: Values = ()
    outcome: Values = ()
    person: Values = ()

    @field_validator("sort")
    @classmethod
    def _known(cls, sorts: tuple[str, ...]) -> tuple[str, ...]:
        if strange := set(sorts) - set(SORTS):
            raise ValueError(t("There are no records of the sort {name}.", name=min(strange)))
        return sorts

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.start is not None and self.end is not None and self.end <= self.start:
            raise ValueError(t("It ends before it begins."))
        return self

    def stretch(self, now: int) -> tuple[int, int]:
        """From when, and until before when."""
        if self.start is not None or self.end is not None:
            return self.start or 0, self.end if self.end is not None else now + DAY
        # What is dated a little ahead, by a clock that is wrong, is shown as well.
        return (now - self.last if self.last else 0), now + DAY

    def values(self, facet: str) -> tuple[str, ...]:
        found: tuple[str, ...] = getattr(self, facet)
        return found

    def toggled(self, facet: str, value: str) -> "Search":
        """With a value of a facet that was not chosen, or without one that was."""
        now = self.values(facet)
        return self.model_copy(update={facet: tuple(v for v in now if v != value) if value in now else (*now, value)})

    def pairs(self) -> list[tuple[str, str]]:
        """As an address says it: what is as it is at first is left out."""
        told: dict[str, Any] = self.model_dump(exclude_defaults=True)
        return [
            (name, str(value))
            for name, values in told.items()
            if values is not None
            for value in (values if isinstance(values, tuple | list) else [values])
        ]


def from_pairs(pairs: dict[str, list[str]]) -> Search:
    """What an address says; what it says of other things is left out. Raises ValidationError."""
    several, single = set(FACETS), set(Search.model_fields) - set(FACETS)
    told: dict[str, Any] = {name: tuple(dict.fromkeys(pairs[name])) for name in several if pairs.get(name)}
    told |= {name: pairs[name][-1] for name in single if pairs.get(name) and pairs[name][-1] != ""}
    return Search.model_validate(told)
