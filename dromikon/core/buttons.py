"""Desk buttons: how one is pressed, by whom, when, and where it stands."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from dromikon.core.rules.controls import Choice, Flag, Pick, When, Words
from dromikon.core.rules.parts import Part, Ref
from dromikon.core.words import N_

CAMERA = ("camera",)
#: What a button may look like: what it is for.
ICONS = {
    "hand-click": N_("a hand"), "bell": N_("a bell"), "bulb": N_("a lamp"), "door": N_("a door"), "volume": N_("a speaker"),
    "alert-triangle": N_("a warning"), "user": N_("a person"), "car": N_("a vehicle"), "video": N_("a camera"),
}  # fmt: skip
Icon = Literal["hand-click", "bell", "bulb", "door", "volume", "alert-triangle", "user", "car", "video"]
TWO = ("two",)


class ButtonPart(Part):
    """How a desk button is pressed."""

    positions: Annotated[
        Literal["one", "two"],
        Choice(N_("It is"), words={"one": N_("pressed for a moment"), "two": N_("switched between two positions")}),
    ] = "one"
    on: Annotated[str, Field(max_length=40), Words(N_("Word for on"), when=When("positions", TWO))] = ""
    off: Annotated[str, Field(max_length=40), Words(N_("Word for off"), when=When("positions", TWO))] = ""
    icon: Annotated[Icon, Choice(N_("It shows"), words=ICONS)] = "hand-click"
    asks: Annotated[
        str, Field(max_length=200), Words(N_("It asks first"), hint=N_("for what is dangerous; empty: it does not ask"))
    ] = ""
    groups: Annotated[
        tuple[Ref, ...], Field(max_length=20), Pick(N_("Pressed by"), of="group", hint=N_("none: by whoever may"))
    ] = ()
    hours: Annotated[Ref | None, Pick(N_("In the hours"), of="hours", hint=N_("none: at any time"))] = None
    cameras: Annotated[
        tuple[Ref, ...],
        Field(max_length=50),
        Pick(
            N_("Stands under the cameras"), of="point", kinds=CAMERA, hint=N_("the one it is pressed at is the source")
        ),
    ] = ()
    row: Annotated[bool, Flag(N_("It also stands in the row of buttons"))] = False

    @model_validator(mode="after")
    def _has_words(self) -> "ButtonPart":
        if self.positions == "two" and not (self.on.strip() and self.off.strip()):
            raise ValueError("Give both positions a word.")
        return self

    @property
    def two(self) -> bool:
        return self.positions == "two"

    def word(self, on: bool) -> str:
        """What a position is called."""
        return self.on if on else self.off
