"""Action: raise an event that other rules can be about."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field

from dromikon.core.events import Scalar
from dromikon.core.facts import Facts
from dromikon.core.kinds import DERIVED
from dromikon.core.rules.actions.base import Action, Firing, Order
from dromikon.core.rules.controls import Inner, Words
from dromikon.core.rules.parts import Phrase, Ref, told
from dromikon.core.rules.target import Target


class DeriveOrder(TypedDict):
    """The event that is raised. `chain`: the rules that led here."""

    kind: str
    fields: dict[str, Scalar]
    chain: list[str]


class DeriveAction(Action):
    """Raise a `rule.raised` with a name and a text at the source or a named point. It carries the chain of rules that
    led to it; no rule is set off by its own chain."""

    label: ClassVar[str] = "Raise an event"
    group: ClassVar[str] = "inside Dromikon"
    icon: ClassVar[str] = "flag"

    do: Literal["derive"] = "derive"
    name: Annotated[str, Words("Name of the event, for other rules", start="something")] = Field(
        min_length=1, max_length=60
    )
    text: Annotated[str, Words("Text", places=True)] = Field(default="", max_length=300)
    at: Annotated[Target, Inner("Where")] = Target(of="source")

    def orders(self, firing: Firing) -> list[Order]:
        payload: DeriveOrder = {
            "kind": DERIVED,
            "fields": {"name": self.name, "text": firing.said(self.text)},
            "chain": [*firing.event.chain, firing.rule],
        }
        return [Order(point, payload) for point in self.at.resolve(firing)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        return told("raise {event} at {point}", part, event=f"“{self.name}”", point=self.at.phrases(facts, part))

    def named(self) -> list[tuple[str, str, Ref]]:
        return self.at.named("at")

    def texts(self) -> list[tuple[str, str]]:
        return [("text", self.text)]
