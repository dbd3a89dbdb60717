"""Action: switch an output of a device."""

from typing import Annotated, ClassVar, Literal, NotRequired, TypedDict

from pydantic import Field, model_validator

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order, for_how_long
from dromikon.core.rules.controls import Choice, Held, Inner, When
from dromikon.core.rules.parts import Phrase, Ref, told
from dromikon.core.rules.target import Target
from dromikon.core.words import t


class RelayOrder(TypedDict):
    """`state` is on, off or toggle. `held`: it is let go of at the end of a hold."""

    state: str
    held: NotRequired[bool]


class RelayAction(Action):
    """Switch a relay: `hold` it on for `held` seconds or while the state lasts (the last holder's end releases it), leave
    it `on`, switch it `off`, or `toggle` it from how it was last switched. A pulse is a short hold."""

    label: ClassVar[str] = "Relay"
    group: ClassVar[str] = "at the place"
    icon: ClassVar[str] = "bulb"
    delivery: ClassVar[Delivery] = Delivery.ONCE_ONLY
    repeats: ClassVar[bool] = True

    do: Literal["relay"] = "relay"
    target: Annotated[Target, Inner("Output", kinds=("relay",))]
    set: Annotated[Literal["hold", "on", "off", "toggle"], Choice("How it is switched")] = "hold"
    held: Annotated[float | Literal["state"], Held("Held", when=When("set", ("hold",)))] = Field(default=30)

    @model_validator(mode="after")
    def _held_long_enough(self) -> "RelayAction":
        if isinstance(self.held, float) and not 0.1 <= self.held <= 86_400:
            raise ValueError(t("hold an output for 0.1 s to a day, or while the state lasts"))
        if self.times > 1 and (self.set != "hold" or self.held == "state" or float(self.held) >= self.gap):
            raise ValueError(t("a repeated relay step holds for a shorter time than its gap"))
        return self

    @property
    def carried(self) -> Delivery:
        # Off is a release: it never expires, and is repeated until the device confirms.
        return Delivery.RELEASE if self.set == "off" else self.delivery

    def orders(self, firing: Firing) -> list[Order]:
        state = self.set if self.set in ("off", "toggle") else "on"
        payload: RelayOrder = {"state": state, "held": self.set == "hold"}
        return [Order(point, payload) for point in self.target.resolve(firing)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        target = self.target.phrases(facts, part)
        if self.set == "off":
            return told("switch off {output}", part, output=target)
        if self.set == "toggle":
            return told("toggle {output}", part, output=target)
        return told("switch on {output}", part, output=target) + for_how_long(self.hold, part)

    def named(self) -> list[tuple[str, str, Ref]]:
        return self.target.named("target")

    def drives(self) -> tuple[Ref, str] | None:
        return (
            (self.target.point, "off" if self.set == "off" else "toggle" if self.set == "toggle" else "on")
            if self.target.point
            else None
        )

    @property
    def hold(self) -> float | Literal["state"] | None:
        return self.held if self.set == "hold" else None
