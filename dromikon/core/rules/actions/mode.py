"""Action: set the site's mode."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Firing, Order
from dromikon.core.rules.controls import Name
from dromikon.core.rules.parts import Phrase, Ref, told


class ModeOrder(TypedDict):
    """The mode that the site goes to."""

    mode: str


class ModeAction(Action):
    """The site goes to a mode."""

    label: ClassVar[str] = "Set mode"
    group: ClassVar[str] = "inside Dromikon"
    icon: ClassVar[str] = "toggle-left"

    do: Literal["mode"] = "mode"
    mode: Annotated[str, Name("Mode", of="mode")] = Field(min_length=1, max_length=60)

    def orders(self, firing: Firing) -> list[Order]:
        payload: ModeOrder = {"mode": self.mode}
        return [Order("", payload)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        return told("set the mode to {mode}", part, mode=self.mode)

    def named(self) -> list[tuple[str, str, Ref]]:
        return [("mode", "mode", Ref.model_construct(id=self.mode, name=self.mode))]
