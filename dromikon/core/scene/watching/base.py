"""What a detector is. One more kind is one file here and one line in `__init__`."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import inf
from typing import Annotated, ClassVar, Literal

from pydantic import Field, field_validator

from dromikon.core.events import Phase, Scalar
from dromikon.core.instants import Instant
from dromikon.core.kinds import CLASSES
from dromikon.core.rules.controls import Choice, Number
from dromikon.core.rules.parts import Part
from dromikon.core.scene.shapes import Corner, checked_area, checked_line
from dromikon.core.scene.tracks import Track
from dromikon.core.words import N_

Class = Literal["human", "vehicle", "animal", "bicycle", "other"]
#: Which part of a thing counts: where it stands, or the share of an area that its box covers.
Shape = Literal["line", "area"]


@dataclass(frozen=True, slots=True)
class Told:
    """Something that a detector tells: an event of its kind, in a phase, at the moment of the picture that showed it."""

    at: Instant
    phase: Phase
    track: Track | None = None
    fields: tuple[tuple[str, Scalar], ...] = ()


NOTHING: tuple[Told, ...] = ()


class Watching:
    """A detector at work. It is asked about an object that is in its area (or, for a line, about every object), and about those
    that it holds on to; `held`: the numbers of these."""

    __slots__ = ("held",)

    def __init__(self) -> None:
        self.held: set[int] = set()

    def seen(self, at: Instant, track: Track, share: float) -> Sequence[Told]:
        """`share`: for an area, how much of it the object's box covers when that is what counts, else 1 where it stands
        inside and 0 where it does not; 0 for a line."""
        return NOTHING

    def passed_over(self, track: Track) -> None:
        """An object is inside which the detector is not about, so far."""

    def gone(self, at: Instant, track: Track) -> Sequence[Told]:
        """An object is not seen any more."""
        return NOTHING

    def looked(self, at: Instant, seen: Sequence[Track]) -> Sequence[Told]:
        """A picture was looked at whole; `seen`: all that is in it."""
        return NOTHING


class Detector(Part):
    """What all kinds have in common. Sizes are shares of the picture's height, in percent, or metres where it is known how the
    camera hangs; whose size is not known counts."""

    drawn: ClassVar[tuple[str, ...]] = ("corners", "detects")
    label: ClassVar[str]
    #: The kind of event that it tells, and what is drawn for it.
    tells: ClassVar[str]
    shape: ClassVar[Shape] = "area"
    #: It goes by the share of the area that is covered, not by where things stand.
    covers: ClassVar[bool] = False
    #: What counts is the rest of the picture.
    inverse: ClassVar[bool] = False

    corners: tuple[Corner, ...]
    classes: Annotated[
        tuple[Class, ...], Choice(N_("Of class"), words={c: c for c in CLASSES}, hint=N_("none: anything that moves"))
    ] = ()
    sure: Annotated[float, Field(ge=0, le=100), Number(N_("At least"), unit=N_("% sure"))] = 50.0
    smallest: Annotated[float, Field(ge=0, le=100), Number(N_("Not smaller than"), unit=N_("% of the height"))] = 0.0
    largest: Annotated[float, Field(gt=0, le=100), Number(N_("Not larger than"), unit=N_("% of the height"))] = 100.0
    shortest: Annotated[float, Field(ge=0, le=30), Number(N_("Not shorter than"), unit="m", hint=N_("0: any"))] = 0.0
    tallest: Annotated[float, Field(ge=0, le=30), Number(N_("Not taller than"), unit="m", hint=N_("0: any"))] = 0.0

    @field_validator("corners")
    @classmethod
    def _drawn(cls, corners: tuple[Corner, ...]) -> tuple[Corner, ...]:
        return checked_line(corners) if cls.shape == "line" else checked_area(corners)

    def begin(self) -> Watching:
        """It at work, from nothing."""
        raise NotImplementedError

    @property
    def by_metres(self) -> bool:
        """Whether it asks how tall things are."""
        return bool(self.shortest or self.tallest)

    def concerns(self, track: Track) -> bool:
        """Whether it is about an object at all."""
        tall = 100 * (track.box[3] - track.box[1])
        return (
            (not self.classes or track.kind in self.classes)
            and track.sure >= self.sure
            and self.smallest <= tall <= self.largest
            and (track.metres is None or self.shortest <= track.metres <= (self.tallest or inf))
        )
