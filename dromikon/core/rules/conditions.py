"""Provided: a tree of all / any / not over comparisons.

Every leaf is looked at, also after the answer is certain: the trace shows each value. One more condition is a class
here and a line in `CONDITIONS`.
"""

from collections.abc import Callable
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal, Union

import re2
from pydantic import Field, field_validator, model_validator

from dromikon.core.events import Event, Scalar
from dromikon.core.facts import Facts
from dromikon.core.kinds import KINDS
from dromikon.core.registry import Registry
from dromikon.core.rules.condition import Condition, Pair, Seen, Test, World
from dromikon.core.rules.parts import Phrase, listed
from dromikon.core.rules.situations import SinceCondition, StateCondition

#: Comparison: symbol in the document -> (words, needs a list, numeric).
OPERATORS: dict[str, tuple[str, bool, bool]] = {
    "is": ("is", False, False),
    "is_not": ("is not", False, False),
    "one_of": ("is one of", True, False),
    "at_least": ("is at least", False, True),
    "at_most": ("is at most", False, True),
    "between": ("is between", True, True),
    "contains": ("contains", False, False),
    "matches": ("matches", False, False),
}


def _number(value: Scalar) -> float | None:
    if isinstance(value, bool) or value is None:
        return None
    try:
        return float(value)
    except ValueError:
        return None


class FieldCondition(Condition):
    """A field of the event compared with a value. A field that is missing never holds."""

    label: ClassVar[str] = "A field"
    test: Literal["field"] = "field"
    field: str = Field(min_length=1, max_length=64)
    op: Literal["is", "is_not", "one_of", "at_least", "at_most", "between", "contains", "matches"]
    value: float | str | tuple[float | str, ...]

    @field_validator("value")
    @classmethod
    def _limited(cls, value: object) -> object:
        if isinstance(value, tuple) and len(value) > 200:
            raise ValueError("a comparison takes at most 200 values; use a list for more")
        return value

    @model_validator(mode="after")
    def _value_fits(self) -> "FieldCondition":
        words, many, numeric = OPERATORS[self.op]
        values = self.value if isinstance(self.value, tuple) else (self.value,)
        if many != isinstance(self.value, tuple):
            raise ValueError(f"'{words}' needs {'several values' if many else 'one value'}")
        if numeric and any(_number(v) is None for v in values):
            raise ValueError(f"'{words}' needs a number")
        if self.op == "between" and (len(values) != 2 or float(values[0]) > float(values[1])):
            raise ValueError("'is between' needs two numbers, the lower first")
        if self.op == "matches":
            try:
                re2.compile(str(self.value))
            except re2.error as error:
                raise ValueError(f"the pattern cannot be read: {error}") from error
        return self

    def compile(self, path: str, world: World) -> Test:
        holds, name = _comparison(self.op, self.value), self.field

        def test(event: Event, seen: list[Seen]) -> bool:
            value = event.fields.get(name)
            ok = value is not None and holds(value)
            seen.append((path, ok, value))
            return ok

        return test

    def phrases(self, facts: Facts, kind: str, path: str) -> list[Phrase]:
        known = KINDS[kind].field(self.field) if kind in KINDS else None
        label, unit = (known.label, known.unit) if known else (self.field, "")
        return [Phrase(f"{label} {OPERATORS[self.op][0]} ", path), Phrase(self.wanted(unit), path, name=True)]

    def explained(self, facts: Facts, kind: str, value: Any) -> tuple[str, str, str]:
        known = KINDS[kind].field(self.field) if kind in KINDS else None
        unit = known.unit if known else ""
        said = f"{value:g} {unit}".strip() if isinstance(value, float) else f"{value} {unit}".strip()
        wanted = f"{OPERATORS[self.op][0]} {self.wanted(unit)}"
        return known.label if known else self.field, "not sent" if value is None else said, wanted

    def wanted(self, unit: str = "") -> str:
        """The value in words."""
        values = self.value if isinstance(self.value, tuple) else (self.value,)
        words = [f"{v:g}" if isinstance(v, float) else str(v) for v in values]
        joined = (" and " if self.op == "between" else " or ").join(words)
        return f"{joined} {unit}".strip()


def _comparison(op: str, wanted: Any) -> Callable[[Any], bool]:
    """The test of one value. Numbers compare as numbers also when a device sends them as text."""
    if op in ("at_least", "at_most", "between"):
        low, high = (float(wanted[0]), float(wanted[1])) if op == "between" else (float(wanted), float(wanted))

        def numeric(value: Any) -> bool:
            number = _number(value)
            if number is None:
                return False
            return (op == "at_most" or number >= low) and (op == "at_least" or number <= high)

        return numeric
    if op == "matches":
        pattern = re2.compile(str(wanted))
        return lambda value: pattern.search(str(value)) is not None
    if op == "contains":
        return lambda value: str(wanted).casefold() in str(value).casefold()
    values = {_plain(v) for v in (wanted if isinstance(wanted, tuple) else (wanted,))}
    if op == "is_not":
        return lambda value: _plain(value) not in values
    return lambda value: _plain(value) in values


def _plain(value: Any) -> Any:
    return value.casefold() if isinstance(value, str) else value


class Every(Condition):
    """All of several."""

    label: ClassVar[str] = "All of"
    test: Literal["all"] = "all"
    of: "tuple[AnyCondition, ...]" = Field(min_length=1, max_length=50)

    def compile(self, path: str, world: World) -> Test:
        tests = [c.compile(f"{path}.of.{i}", world) for i, c in enumerate(self.of)]

        def test(event: Event, seen: list[Seen]) -> bool:
            ok = True
            for one in tests:
                if not one(event, seen):
                    ok = False
            return ok

        return test

    def phrases(self, facts: Facts, kind: str, path: str) -> list[Phrase]:
        return list(listed([c.phrases(facts, kind, f"{path}.of.{i}") for i, c in enumerate(self.of)], "and"))

    def concerns(self, points: set[str]) -> set[Pair]:
        return set().union(*(c.concerns(points) for c in self.of))

    def leaves(self, path: str) -> list[tuple[str, Condition]]:
        return [leaf for i, c in enumerate(self.of) for leaf in c.leaves(f"{path}.of.{i}")]


class AnyOf(Condition):
    """At least one of several."""

    label: ClassVar[str] = "Any of"
    test: Literal["any"] = "any"
    of: "tuple[AnyCondition, ...]" = Field(min_length=1, max_length=50)

    def compile(self, path: str, world: World) -> Test:
        tests = [c.compile(f"{path}.of.{i}", world) for i, c in enumerate(self.of)]

        def test(event: Event, seen: list[Seen]) -> bool:
            ok = False
            for one in tests:
                if one(event, seen):
                    ok = True
            return ok

        return test

    def phrases(self, facts: Facts, kind: str, path: str) -> list[Phrase]:
        return list(listed([c.phrases(facts, kind, f"{path}.of.{i}") for i, c in enumerate(self.of)], "or"))

    def concerns(self, points: set[str]) -> set[Pair]:
        return set().union(*(c.concerns(points) for c in self.of))

    def leaves(self, path: str) -> list[tuple[str, Condition]]:
        return [leaf for i, c in enumerate(self.of) for leaf in c.leaves(f"{path}.of.{i}")]


class Unless(Condition):
    """The opposite of one."""

    label: ClassVar[str] = "Not"
    test: Literal["not"] = "not"
    of: "AnyCondition"

    def compile(self, path: str, world: World) -> Test:
        inner = self.of.compile(f"{path}.of", world)
        return lambda event, seen: not inner(event, seen)

    def phrases(self, facts: Facts, kind: str, path: str) -> list[Phrase]:
        return [Phrase("not: ", path), *self.of.phrases(facts, kind, f"{path}.of")]

    def concerns(self, points: set[str]) -> set[Pair]:
        return self.of.concerns(points)

    def leaves(self, path: str) -> list[tuple[str, Condition]]:
        return self.of.leaves(f"{path}.of")


CONDITIONS: Registry[type[Condition]] = Registry("condition")
CONDITIONS.add("field", FieldCondition)
CONDITIONS.add("state", StateCondition)
CONDITIONS.add("since", SinceCondition)
CONDITIONS.add("all", Every)
CONDITIONS.add("any", AnyOf)
CONDITIONS.add("not", Unless)

if TYPE_CHECKING:
    AnyCondition = Condition
else:
    AnyCondition = Annotated[Union[tuple(CONDITIONS)], Field(discriminator="test")]

for _model in (Every, AnyOf, Unless):
    _model.model_rebuild(_types_namespace={"AnyCondition": AnyCondition})
