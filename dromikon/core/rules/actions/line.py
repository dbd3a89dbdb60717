"""Action: a line in the daybook."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Firing, Order
from dromikon.core.rules.controls import Words
from dromikon.core.rules.parts import Phrase, told


class LineOrder(TypedDict):
    """A line of the daybook."""

    text: str


class LineAction(Action):
    """Write a line into the daybook, for whoever looks back."""

    label: ClassVar[str] = "Daybook line"
    group: ClassVar[str] = "inside Dromikon"
    icon: ClassVar[str] = "note"
    repeats: ClassVar[bool] = True

    do: Literal["line"] = "line"
    text: Annotated[str, Words("What the daybook says", places=True, start="{rule}: {point}")] = Field(
        min_length=1, max_length=500
    )

    def orders(self, firing: Firing) -> list[Order]:
        payload: LineOrder = {"text": firing.said(self.text)}
        return [Order(firing.event.point, payload)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        return told("write {text} into the daybook", part, text=f"“{self.text}”")

    def texts(self) -> list[tuple[str, str]]:
        return [("text", self.text)]
