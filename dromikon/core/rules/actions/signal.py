"""Action: sound a siren and light its light."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field, model_validator

from dromikon.core.facts import Facts, Signal, Siren
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order, for_how_long
from dromikon.core.rules.controls import Choice, Held, Inner, Name, When
from dromikon.core.rules.parts import Phrase, Ref, told
from dromikon.core.rules.target import Target
from dromikon.core.words import t

#: Light and sound are held each for itself: parts of a step.
LIGHT, SOUND = 0, 1


class SignalOrder(TypedDict):
    """`output`: token of a relay of the siren's device. `state` is on or off. `held`: it is let go of by itself."""

    output: str
    state: str
    held: bool


class SignalAction(Action):
    """Give a `signal` of a siren: its light and its sound for as long as the signal says of each, or both for `held`
    seconds or while the state lasts. The last holder's end silences it."""

    label: ClassVar[str] = "Siren and light"
    group: ClassVar[str] = "at the place"
    icon: ClassVar[str] = "alert-triangle"
    delivery: ClassVar[Delivery] = Delivery.ONCE_ONLY
    nobody: ClassVar[str] = "the siren has no such signal"

    do: Literal["signal"] = "signal"
    target: Annotated[Target, Inner("Siren", kinds=("siren",))]
    signal: Annotated[str, Name("Signal", of="signal")] = Field(min_length=1, max_length=40)
    lasts: Annotated[
        Literal["own", "held"], Choice("For how long", words={"own": "as the signal says", "held": "as said here"})
    ] = "own"
    held: Annotated[float | Literal["state"], Held("For", when=When("lasts", ("held",)))] = 20

    @model_validator(mode="after")
    def _held_long_enough(self) -> "SignalAction":
        if isinstance(self.held, float) and not 0.5 <= self.held <= 3_600:
            raise ValueError(t("sound a siren for 0.5 s to an hour, or while the state lasts"))
        return self

    def orders(self, firing: Firing) -> list[Order]:
        found: list[Order] = []
        for point in self.target.resolve(firing):
            known = firing.facts.point_by_id.get(point)
            signal = signal_of(known.siren, self.signal) if known and known.siren else None
            if known is not None and known.siren is not None and signal is not None:
                found += self._of(point, known.siren, signal)
        return found

    def _of(self, point: str, siren: Siren, signal: Signal) -> list[Order]:
        parts = ((LIGHT, siren.light, signal.light), (SOUND, siren.sound, signal.sound))
        return [
            Order(
                point, _told(output, "on"), part, hold=self.held if self.lasts == "held" else own,
                let_go=_told(output, "off"),
            )
            for part, output, own in parts
            if output and own > 0
        ]  # fmt: skip

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        words = told(
            "give {siren} the signal {signal}", part, siren=self.target.phrases(facts, part), signal=f"“{self.signal}”"
        )
        return words + for_how_long(self.held if self.lasts == "held" else None, part)

    def named(self) -> list[tuple[str, str, Ref]]:
        return self.target.named("target")

    def drives(self) -> tuple[Ref, str] | None:
        return (self.target.point, self.signal) if self.target.point else None

    @property
    def hold(self) -> float | Literal["state"] | None:
        return self.held if self.lasts == "held" else 20.0


def _told(output: str, state: str) -> SignalOrder:
    return {"output": output, "state": state, "held": state == "on"}


def signal_of(siren: Siren, name: str) -> Signal | None:
    """A siren's signal by its name; None when it has none such."""
    return next((s for s in siren.signals if s.name.casefold() == name.casefold()), None)


def silenced(point: str, siren: Siren) -> tuple[Order, ...]:
    """What makes a siren dark and still, whoever has sounded it."""
    outputs = ((LIGHT, siren.light), (SOUND, siren.sound))
    return tuple(Order(point, _told(output, "off"), part) for part, output in outputs if output)
