"""What holds for all detectors of a camera."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field, field_validator

from dromikon.core.rules.controls import Choice, Number
from dromikon.core.rules.parts import Part
from dromikon.core.scene.shapes import Corner, checked_area
from dromikon.core.words import N_, t

#: A camera has at most so many masks.
MOST_MASKS = 20


class Seeing(Part):
    """How a camera's objects are followed. `masks`: areas in which nothing counts; `life`: after how long an object that is not
    seen is gone; `shape`: of the picture, width by height."""

    drawn: ClassVar[tuple[str, ...]] = ("masks",)

    masks: tuple[tuple[Corner, ...], ...] = ()
    life: Annotated[
        float, Field(ge=0.2, le=30),
        Number(N_("Who is not seen for so long is gone"), unit="s", hint=N_("longer where things pass behind others")),
    ] = 2.0  # fmt: skip
    shape: Annotated[Literal["16:9", "4:3", "5:4", "1:1", "9:16"], Choice(N_("The picture is"))] = "16:9"

    @property
    def wider(self) -> float:
        """How many times wider than tall the picture is."""
        wide, tall = self.shape.split(":")
        return int(wide) / int(tall)

    @field_validator("masks")
    @classmethod
    def _drawn(cls, masks: tuple[tuple[Corner, ...], ...]) -> tuple[tuple[Corner, ...], ...]:
        if len(masks) > MOST_MASKS:
            raise ValueError(t("A camera has at most {most} masks.", most=MOST_MASKS))
        return tuple(checked_area(mask) for mask in masks)
