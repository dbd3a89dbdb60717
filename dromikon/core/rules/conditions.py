"""Provided: a tree of all / any / not over comparisons.

Every leaf is looked at, also after the answer is certain: the trace shows each value. One more condition is one file
and a line in `CONDITIONS`.
"""

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal, Union

from pydantic import Field

from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.registry import Registry
from dromikon.core.rules.comparison import OPERATORS, FieldCondition
from dromikon.core.rules.condition import Condition, Pair, Seen, Test, World
from dromikon.core.rules.controls import Nodes
from dromikon.core.rules.in_list import ListCondition
from dromikon.core.rules.parts import Phrase, enumerated, told
from dromikon.core.rules.situations import CounterCondition, ModeCondition, SinceCondition, StateCondition


class Every(Condition):
    """All of several."""

    label: ClassVar[str] = "All of"
    test: Literal["all"] = "all"
    of: Annotated["tuple[AnyCondition, ...]", Nodes("Conditions", of="condition", bare=True)] = Field(
        min_length=1, max_length=100
    )

    def compile(self, path: str, world: World) -> Test:
        tests = [c.compile(f"{path}.of.{i}", world) for i, c in enumerate(self.of)]

        def test(event: Event, seen: list[Seen] | None) -> bool:
            ok = True
            for one in tests:
                if not one(event, seen):
                    if seen is None:
                        return False
                    ok = False
            return ok

        return test

    def phrases(self, facts: Facts, kind: str, path: str) -> list[Phrase]:
        return list(enumerated([c.phrases(facts, kind, f"{path}.of.{i}") for i, c in enumerate(self.of)], "and"))

    def concerns(self, points: set[str]) -> set[Pair]:
        return set().union(*(c.concerns(points) for c in self.of))

    def leaves(self, path: str) -> list[tuple[str, Condition]]:
        return [leaf for i, c in enumerate(self.of) for leaf in c.leaves(f"{path}.of.{i}")]


class AnyOf(Condition):
    """At least one of several."""

    label: ClassVar[str] = "Any of"
    test: Literal["any"] = "any"
    of: Annotated["tuple[AnyCondition, ...]", Nodes("Conditions", of="condition", bare=True)] = Field(
        min_length=1, max_length=100
    )

    def compile(self, path: str, world: World) -> Test:
        tests = [c.compile(f"{path}.of.{i}", world) for i, c in enumerate(self.of)]

        def test(event: Event, seen: list[Seen] | None) -> bool:
            ok = False
            for one in tests:
                if one(event, seen):
                    if seen is None:
                        return True
                    ok = True
            return ok

        return test

    def phrases(self, facts: Facts, kind: str, path: str) -> list[Phrase]:
        words = enumerated([c.phrases(facts, kind, f"{path}.of.{i}") for i, c in enumerate(self.of)], "or")
        return told("either {cases}", path, cases=list(words)) if len(self.of) > 1 else list(words)

    def concerns(self, points: set[str]) -> set[Pair]:
        return set().union(*(c.concerns(points) for c in self.of))

    def leaves(self, path: str) -> list[tuple[str, Condition]]:
        return [leaf for i, c in enumerate(self.of) for leaf in c.leaves(f"{path}.of.{i}")]


class Unless(Condition):
    """The opposite of one."""

    label: ClassVar[str] = "Not"
    test: Literal["not"] = "not"
    of: Annotated["AnyCondition", Nodes("Condition", of="condition", bare=True)]

    def compile(self, path: str, world: World) -> Test:
        inner = self.of.compile(f"{path}.of", world)
        return lambda event, seen: not inner(event, seen)

    def phrases(self, facts: Facts, kind: str, path: str) -> list[Phrase]:
        return told("not: {case}", path, case=self.of.phrases(facts, kind, f"{path}.of"))

    def concerns(self, points: set[str]) -> set[Pair]:
        return self.of.concerns(points)

    def leaves(self, path: str) -> list[tuple[str, Condition]]:
        return self.of.leaves(f"{path}.of")


CONDITIONS: Registry[type[Condition]] = Registry("condition")
CONDITIONS.add("field", FieldCondition)
CONDITIONS.add("state", StateCondition)
CONDITIONS.add("since", SinceCondition)
CONDITIONS.add("list", ListCondition)
CONDITIONS.add("mode", ModeCondition)
CONDITIONS.add("counter", CounterCondition)
CONDITIONS.add("all", Every)
CONDITIONS.add("any", AnyOf)
CONDITIONS.add("not", Unless)

if TYPE_CHECKING:
    AnyCondition = Condition
else:
    AnyCondition = Annotated[Union[tuple(CONDITIONS)], Field(discriminator="test")]

for _model in (Every, AnyOf, Unless):
    _model.model_rebuild(_types_namespace={"AnyCondition": AnyCondition})

__all__ = ["CONDITIONS", "OPERATORS", "AnyCondition", "AnyOf", "Every", "FieldCondition", "Unless"]
