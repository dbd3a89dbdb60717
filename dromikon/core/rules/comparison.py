"""Condition: a field of the event compared with a value."""

import math
from collections.abc import Callable
from datetime import time
from typing import Annotated, Any, ClassVar, Literal

import re2
from pydantic import Field, field_validator, model_validator

from dromikon.core.events import Event, Scalar
from dromikon.core.facts import Facts
from dromikon.core.hours import wall_clock
from dromikon.core.instants import Instant, parse
from dromikon.core.kinds import KINDS
from dromikon.core.rules.condition import Condition, Seen, Test, World
from dromikon.core.rules.controls import Name, Operator, Value
from dromikon.core.rules.parts import Phrase
from dromikon.core.words import t

#: Comparison: symbol in the document -> (words, needs several values, numeric).
OPERATORS: dict[str, tuple[str, bool, bool]] = {
    "is": ("is", False, False),
    "is_not": ("is not", False, False),
    "one_of": ("is one of", True, False),
    "at_least": ("is at least", False, True),
    "at_most": ("is at most", False, True),
    "between": ("is between", True, True),
    "contains": ("contains", False, False),
    "matches": ("matches", False, False),
    "before": ("is before", False, False),
    "after": ("is after", False, False),
}
#: Which operators make sense for a field of a type; "time" is the event's own.
FITTING: dict[str, tuple[str, ...]] = {
    "number": ("at_least", "at_most", "between", "is"),
    "choice": ("is", "one_of", "is_not"),
    "text": ("is", "is_not", "one_of", "contains", "matches", "before", "after", "at_least", "at_most", "between"),
    "time": ("before", "after"),
}
#: The event's own time, as if it were a field.
OCCURRED = "time"


def _number(value: Scalar) -> float | None:
    if isinstance(value, bool) or value is None:
        return None
    try:
        return float(value)
    except ValueError:
        return None


class FieldCondition(Condition):
    """A field of the event compared with a value. A field that is missing never holds.

    Times: `before` and `after` read the field as ISO 8601 (the field ``time`` is when the event happened) and compare
    it with an ISO 8601 time, with ``now`` (when the event happened), or, as a time of the site's day, with ``HH:MM``.
    """

    label: ClassVar[str] = "A field"
    test: Literal["field"] = "field"
    field: Annotated[str, Name("Field", of="field", only="number,choice,text,time", bare=True)] = Field(
        min_length=1, max_length=64
    )
    op: Annotated[
        Literal["is", "is_not", "one_of", "at_least", "at_most", "between", "contains", "matches", "before", "after"],
        Operator("Comparison", bare=True),
    ]
    value: Annotated[float | str | tuple[float | str, ...], Value("Value", bare=True)]

    @field_validator("value")
    @classmethod
    def _limited(cls, value: object) -> object:
        if isinstance(value, tuple) and len(value) > 200:
            raise ValueError(t("a comparison takes at most 200 values; use a list for more"))
        return value

    @model_validator(mode="after")
    def _value_fits(self) -> "FieldCondition":
        words, many, numeric = OPERATORS[self.op]
        values = self.value if isinstance(self.value, tuple) else (self.value,)
        if many != isinstance(self.value, tuple):
            several = t("'{words}' needs several values", words=words)
            raise ValueError(several if many else t("'{words}' needs one value", words=words))
        if numeric and any(_number(v) is None for v in values):
            raise ValueError(t("'{words}' needs a number", words=words))
        if self.op == "between" and (len(values) != 2 or float(values[0]) > float(values[1])):
            raise ValueError(t("'is between' needs two numbers, the lower first"))
        if self.op in ("before", "after"):
            _moment_wanted(str(self.value))
        if self.op == "matches":
            if len(str(self.value)) > 1000:
                raise ValueError(t("a pattern has at most 1000 characters"))
            try:
                re2.compile(str(self.value))
            except re2.error as error:
                raise ValueError(t("the pattern cannot be read: {error}", error=error)) from error
        return self

    def compile(self, path: str, world: World) -> Test:
        if self.op in ("before", "after"):
            return self._compile_time(path, world)
        if OPERATORS[self.op][2]:
            return self._compile_number(path)
        holds, name = _comparison(self.op, self.value), self.field

        def test(event: Event, seen: list[Seen] | None) -> bool:
            value = event.fields.get(name)
            ok = value is not None and holds(value)
            if seen is not None:
                seen.append((path, ok, value))
            return ok

        return test

    def _compile_number(self, path: str) -> Test:
        """Numbers compare as numbers also when a device sends them as text."""
        ends = [float(v) for v in (self.value if isinstance(self.value, tuple) else (self.value,))]
        low = -math.inf if self.op == "at_most" else ends[0]
        high, name = math.inf if self.op == "at_least" else ends[-1], self.field

        def test(event: Event, seen: list[Seen] | None) -> bool:
            value = event.fields.get(name)
            number = value if type(value) is float else _number(value)
            ok = number is not None and low <= number <= high
            if seen is not None:
                seen.append((path, ok, value))
            return ok

        return test

    def _compile_time(self, path: str, world: World) -> Test:
        name, zone, wanted, later = self.field, world.facts.zone, _moment_wanted(str(self.value)), self.op == "after"

        def test(event: Event, seen: list[Seen] | None) -> bool:
            value = _moment_of(event, name)
            ok = False
            if value is not None and isinstance(wanted, time):
                shown = wall_clock(value, zone).time()
                ok = shown > wanted if later else shown < wanted
            elif value is not None:
                limit = wanted if isinstance(wanted, int) else event.occurred_at
                ok = value > limit if later else value < limit
            if seen is not None:
                shown_value = event.fields.get(name)
                if value is not None and (name == OCCURRED or isinstance(wanted, time)):
                    shown_value = f"{wall_clock(value, zone):%H:%M:%S}"
                seen.append((path, ok, shown_value))
            return ok

        return test

    def phrases(self, facts: Facts, kind: str, path: str) -> list[Phrase]:
        known = KINDS[kind].field(self.field) if kind in KINDS else None
        label, unit = (known.label, known.unit) if known else (self.field, "")
        return [Phrase(f"{label} {t(OPERATORS[self.op][0])} ", path), Phrase(self.wanted(unit), path, name=True)]

    def explained(self, facts: Facts, kind: str, value: Any) -> tuple[str, str, str]:
        known = KINDS[kind].field(self.field) if kind in KINDS else None
        unit = known.unit if known else ""
        said = f"{value:g} {unit}".strip() if isinstance(value, float) else f"{value} {unit}".strip()[:80]
        wanted = f"{t(OPERATORS[self.op][0])} {self.wanted(unit)}"
        return known.label if known else self.field, t("not sent") if value is None else said, wanted

    def wanted(self, unit: str = "") -> str:
        """The value in words."""
        values = self.value if isinstance(self.value, tuple) else (self.value,)
        words = [f"{v:g}" if isinstance(v, float) else str(v) for v in values]
        joined = (t(" and ") if self.op == "between" else t(" or ")).join(words)
        return f"{joined} {unit}".strip()


def _comparison(op: str, wanted: Any) -> Callable[[Any], bool]:
    """The test of one value that is not compared as a number."""
    if op == "matches":
        pattern = re2.compile(str(wanted))
        return lambda value: pattern.search(str(value)) is not None
    if op == "contains":
        return lambda value: str(wanted).casefold() in str(value).casefold()
    values = {_plain(v) for v in (wanted if isinstance(wanted, tuple) else (wanted,))}
    if op == "is_not":
        return lambda value: _plain(value) not in values
    return lambda value: value in values or _plain(value) in values


def _plain(value: Any) -> Any:
    return value.casefold() if isinstance(value, str) else value


def _moment_wanted(text: str) -> Instant | time | None:
    """A time of day, an instant, or None for now. Raises ValueError."""
    if text == "now":
        return None
    try:
        if len(text) == 5:
            return time.fromisoformat(text)
        return parse(text)
    except ValueError as error:
        raise ValueError(t("give a time such as 22:30, an ISO 8601 time, or now")) from error


def _moment_of(event: Event, name: str) -> Instant | None:
    if name == OCCURRED and name not in event.fields:
        return event.occurred_at
    value = event.fields.get(name)
    try:
        return parse(value) if isinstance(value, str) else None
    except ValueError:
        return None
