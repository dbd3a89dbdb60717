"""Condition: a field of the event is, or is not, in a list."""

from datetime import date
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.hours import wall_clock
from dromikon.core.kinds import KINDS
from dromikon.core.lists.watchlist import Match, WatchList
from dromikon.core.rules.condition import Condition, Seen, Test, World
from dromikon.core.rules.controls import Choice, Flag, Name, Number, Pick, When
from dromikon.core.rules.parts import Phrase, Ref, told
from dromikon.core.words import N_, t, tn


class ListCondition(Condition):
    """A field in a list: `exact`, `tolerant` of look-alike characters and some reading errors, or, for a face template,
    `similar` by at least some percent. Entries count on the days on which they are valid. A field that is missing is
    neither in a list nor not."""

    label: ClassVar[str] = "In a list"
    test: Literal["list"] = "list"
    field: Annotated[str, Name("Field", of="field", only="text,template,choice", bare=True)] = Field(
        min_length=1, max_length=64
    )
    among: Annotated[Ref, Pick("List", of="list", bare=True)]
    listed: Annotated[bool, Flag("In it", bare=True, words=("is in", "is not in"))] = True
    how: Annotated[
        Literal["exact", "tolerant", "similar"],
        Choice("compared", words={"tolerant": "with reading errors", "similar": "by similarity"}),
    ] = "exact"
    errors: Annotated[int, Number("errors", when=When("how", ("tolerant",)))] = Field(default=1, ge=0, le=3)
    similarity: Annotated[float, Number("at least", unit="%", when=When("how", ("similar",)))] = Field(
        default=85.0, ge=0, le=100
    )

    @model_validator(mode="after")
    def _settings_fit(self) -> "ListCondition":
        if "errors" in self.model_fields_set and self.how != "tolerant":
            raise ValueError(t("reading errors belong to how 'tolerant'"))
        if "similarity" in self.model_fields_set and self.how != "similar":
            raise ValueError(t("a similarity belongs to how 'similar'"))
        return self

    def compile(self, path: str, world: World) -> Test:
        known, zone, field, wanted = (
            world.facts.list_by_id.get(self.among.id),
            world.facts.zone,
            self.field,
            self.listed,
        )
        days: dict[int, date] = {}

        def test(event: Event, seen: list[Seen] | None) -> bool:
            value = event.fields.get(field)
            match = None
            if value is not None and known is not None:
                minute = event.at // 60_000
                if minute not in days:
                    days.clear()
                    days[minute] = wall_clock(event.at, zone).date()
                match = self.find(known, str(value), days[minute])
            # A list that is gone holds nothing and lets nothing through; a check says so before the rule goes live.
            inside = self._held(match)
            ok = value is not None and known is not None and inside is wanted
            if seen is not None:
                seen.append((path, ok, _noted(field, value, match, inside)))
            return ok

        return test

    def find(self, known: WatchList, value: str, day: date) -> Match | None:
        """The nearest entry by the chosen way; for faces also one that is not similar enough."""
        if self.how == "exact":
            return known.exact(value, day)
        if self.how == "tolerant":
            return known.tolerant(value, self.errors, day)
        return known.similar(value, day)

    def _held(self, match: Match | None) -> bool:
        return match is not None and (match.similarity is None or match.similarity >= self.similarity)

    def phrases(self, facts: Facts, kind: str, path: str) -> list[Phrase]:
        known = KINDS[kind].field(self.field) if kind in KINDS else None
        field = Phrase(known.label if known else self.field, path)
        message = N_("{field} is in {list}") if self.listed else N_("{field} is not in {list}")
        words = told(message, path, field=field, list=self._name(facts))
        if self.how == "tolerant":
            words.append(Phrase(_tolerance(self.errors), path))
        if self.how == "similar":
            words.append(Phrase(t(", at least {share} % similar", share=f"{self.similarity:g}"), path))
        return words

    def explained(self, facts: Facts, kind: str, value: Any) -> tuple[str, str, str]:
        known = KINDS[kind].field(self.field) if kind in KINDS else None
        noted = value if isinstance(value, dict) else {}
        seen = noted.get("value") or t("not sent")
        if noted.get("entry"):
            seen = f"{seen}: {noted['entry']}, {noted['why']}"
        elif noted.get("value"):
            seen = t("{seen}: in no entry", seen=seen)
        wanted = t("in {list}", list=self._name(facts)) if self.listed else t("not in {list}", list=self._name(facts))
        if self.how == "similar":
            wanted += t(" by {similarity} %", similarity=f"{self.similarity:g}")
        return known.label if known else self.field, seen, wanted

    def named(self) -> list[tuple[str, str, Ref]]:
        return [("among", "list", self.among)]

    def _name(self, facts: Facts) -> str:
        return facts.name_of("list", self.among.id) or self.among.name or self.among.id


def _noted(field: str, value: object, match: Match | None, inside: bool) -> dict[str, Any]:
    """What a trace keeps: never the template itself. `inside`: the entry counts, and is not only the nearest."""
    shown = None if value is None else "a face" if field == "template" else str(value)[:80]
    if match is None:
        return {"value": shown}
    return {"value": shown, "entry": match.entry.shown, "note": match.entry.note, "why": match.why, "inside": inside}


def _tolerance(errors: int) -> str:
    return tn(", tolerating {count} reading error", ", tolerating {count} reading errors", errors)
