"""Action: tell a door something."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field, model_validator

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order, for_how_long
from dromikon.core.rules.controls import Choice, Flag, Held, Inner, When
from dromikon.core.rules.parts import Phrase, Ref, told
from dromikon.core.rules.target import Target
from dromikon.core.words import N_, t

#: What lasts until it is undone, and what undoes it.
LASTING = {"hold_open": "end_hold_open", "unlock": "lock", "block": "lock"}
_WORDS = {
    "release": N_("let {door} be opened once"),
    "hold_open": N_("hold {door} open"),
    "unlock": N_("unlock {door}"),
    "block": N_("block {door}"),
    "lock": N_("lock {door}"),
}


class DoorOrder(TypedDict):
    """`verb`: release, hold_open, end_hold_open, unlock, block, lock. `held`: it is undone at the end of a hold."""

    verb: str
    held: bool


class DoorAction(Action):
    """Let a door be opened once (`release`), hold it open, unlock, block or lock it. What lasts is undone after `held`
    seconds or with the state (the last holder's end undoes it), unless it is to `stay`."""

    label: ClassVar[str] = "Door"
    group: ClassVar[str] = "at the place"
    icon: ClassVar[str] = "door"
    delivery: ClassVar[Delivery] = Delivery.ONCE_ONLY

    do: Literal["door"] = "door"
    target: Annotated[Target, Inner("Door", kinds=("door",))]
    set: Annotated[
        Literal["release", "hold_open", "unlock", "block", "lock"],
        Choice(
            "What it is told",
            words={
                "release": "open once",
                "hold_open": "hold open",
                "unlock": "unlock",
                "block": "block",
                "lock": "lock",
            },
        ),
    ] = "release"
    stay: Annotated[bool, Flag("until further notice", when=When("set", tuple(LASTING)))] = False
    held: Annotated[float | Literal["state"], Held("For", when=When("set", tuple(LASTING)))] = Field(default=30)

    @model_validator(mode="after")
    def _held_long_enough(self) -> "DoorAction":
        if isinstance(self.held, float) and not 1 <= self.held <= 86_400:
            raise ValueError(t("hold a door for 1 s to a day, or while the state lasts"))
        return self

    @property
    def carried(self) -> Delivery:
        # Locking is a release: it never expires, and is repeated until the controller confirms.
        return Delivery.RELEASE if self.set == "lock" else self.delivery

    def orders(self, firing: Firing) -> list[Order]:
        order: DoorOrder = {"verb": self.set, "held": self.hold is not None}
        undo: DoorOrder = {"verb": LASTING.get(self.set, "lock"), "held": False}
        return [Order(door, order, let_go=undo) for door in self.target.resolve(firing)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        words = told(_WORDS[self.set], part, door=self.target.phrases(facts, part))
        return words + for_how_long(self.hold, part)

    def named(self) -> list[tuple[str, str, Ref]]:
        return self.target.named("target")

    def drives(self) -> tuple[Ref, str] | None:
        return (self.target.point, self.set) if self.target.point else None

    @property
    def hold(self) -> float | Literal["state"] | None:
        return self.held if self.set in LASTING and not self.stay else None
