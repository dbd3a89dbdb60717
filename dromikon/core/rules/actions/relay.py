"""Action: switch an output of a device."""

from typing import ClassVar, Literal

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.parts import Phrase, Ref, seconds


class RelayAction(Action):
    """Switch a relay on and hold it: for some seconds, or while the state lasts. The last holder's end releases it."""

    label: ClassVar[str] = "Relay"
    icon: ClassVar[str] = "bulb"
    delivery: ClassVar[Delivery] = Delivery.ONCE_ONLY

    do: Literal["relay"] = "relay"
    target: Ref
    held: float | Literal["state"] = Field(default=30)

    def orders(self, firing: Firing) -> list[Order]:
        return [Order(self.target.id, {"state": "on"})]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        known = facts.point_by_id.get(self.target.id)
        held = "while it lasts" if self.held == "state" else f"for {seconds(float(self.held))}"
        return [
            Phrase("switch on ", part),
            Phrase(known.name if known else self.target.name or self.target.id, part, name=True),
            Phrase(f" {held}", part),
        ]

    def points(self) -> list[tuple[str, Ref]]:
        return [("target", self.target)]

    @property
    def hold(self) -> float | Literal["state"]:
        return self.held
