"""Action: a text message to the recipients' telephones."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order, groups_phrases
from dromikon.core.rules.controls import Pick, Words
from dromikon.core.rules.parts import Phrase, Ref, told


class TextOrder(TypedDict):
    """The words of a text message."""

    text: str


class TextAction(Action):
    """Text everybody in the groups. The message id stays the same over attempts, so a gateway can tell repeats."""

    label: ClassVar[str] = "Text message"
    icon: ClassVar[str] = "send"
    nobody: ClassVar[str] = "nobody of its groups has a number"
    delivery: ClassVar[Delivery] = Delivery.REPEATABLE

    do: Literal["text"] = "text"
    text: Annotated[str, Words("Text", places=True, start="{rule}: {point}")] = Field(min_length=1, max_length=300)
    groups: Annotated[tuple[Ref, ...], Pick("Who gets it", of="group")] = Field(default=(), max_length=20)

    def orders(self, firing: Firing) -> list[Order]:
        payload: TextOrder = {"text": firing.fill(self.text)}
        members = firing.facts.members_of(g.id for g in self.groups)
        return [Order(f"person:{m.id}", payload) for m in members]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        who = groups_phrases(self.groups, facts, part)
        return told("text {text} for {who}", part, text=f"“{self.text}”", who=who)

    def recipients(self) -> tuple[Ref, ...]:
        return self.groups

    def texts(self) -> list[tuple[str, str]]:
        return [("text", self.text)]
