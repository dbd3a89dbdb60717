"""Action: count."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Firing, Order
from dromikon.core.rules.controls import Choice, Number, Pick
from dromikon.core.rules.parts import Phrase, Ref, told
from dromikon.core.words import N_


class CounterOrder(TypedDict):
    """How a counter changes. `chain`: the rules that led here."""

    change: str
    by: int
    chain: list[str]


class CounterAction(Action):
    """A counter goes up or down by `by`, never below zero, or is set to `by`."""

    label: ClassVar[str] = "Count"
    group: ClassVar[str] = "inside Dromikon"
    icon: ClassVar[str] = "calculator"

    do: Literal["counter"] = "counter"
    counter: Annotated[Ref, Pick("Counter", of="counter")]
    change: Annotated[
        Literal["up", "down", "set"], Choice("Change", words={"up": "up by", "down": "down by", "set": "set to"})
    ] = "up"
    by: Annotated[int, Number("How much")] = Field(default=1, ge=0, le=1_000_000)

    def orders(self, firing: Firing) -> list[Order]:
        payload: CounterOrder = {
            "change": self.change, "by": self.by, "chain": [*firing.event.chain, firing.rule],
        }  # fmt: skip
        return [Order(self.counter.id, payload)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        name = facts.name_of("counter", self.counter.id) or self.counter.name or self.counter.id
        by = Phrase(str(self.by), part)
        if self.change == "set":
            return told("set {counter} to {number}", part, counter=name, number=by)
        message = (
            N_("count {counter} up by {number}") if self.change == "up" else N_("count {counter} down by {number}")
        )
        return told(message, part, counter=name, number=by)

    def named(self) -> list[tuple[str, str, Ref]]:
        return [("counter", "counter", self.counter)]


def counted(before: int, change: str, by: int) -> int:
    """Where a counter stands after a step."""
    return by if change == "set" else max(0, before + (by if change == "up" else -by))
