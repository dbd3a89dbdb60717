"""What a camera's picture suffices for: from how it hangs, its sensor and its lens to pixels a metre. A pinhole over level ground:
distances are along the ground from below the lens, in metres; places in the picture are shares from its left and its top."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from dromikon.core.rules.controls import Number
from dromikon.core.rules.parts import Part
from dromikon.core.scene.shapes import Corner
from dromikon.core.words import N_, t

#: What a picture can be asked for, with the pixels a metre that it takes (IEC 62676-4), the least first.
PURPOSES = {
    "monitor": (N_("monitor"), 12.5),
    "detect": (N_("detect"), 25.0),
    "observe": (N_("observe"), 62.5),
    "recognise": (N_("recognise"), 125.0),
    "identify": (N_("identify"), 250.0),
}
#: A person, a face and a plate, in metres: how tall, how wide, and at what height they are.
PERSON, FACE, FACE_AT, PLATE, PLATE_AT = 1.75, 0.16, 1.6, 0.52, 0.5
#: Templates are made of faces, and plates are read, that are so many pixels wide, and seen from no steeper than this, in degrees.
FACE_PIXELS, PLATE_PIXELS, STEEPEST = 40.0, 100.0, 30.0
#: Nothing is said of what is farther than this.
FARTHEST = 500.0


class Mounting(Part):
    """How a camera hangs, and what it sees with. `dark`: the light of a night at the place."""

    high: Annotated[float, Field(ge=0.3, le=60), Number(N_("Lens above the ground"), unit="m", start=3.0)]
    tilt: Annotated[
        float,
        Field(ge=0, le=90),
        Number(N_("Looks down by"), unit="°", start=15.0, hint=N_("0: level, 90: straight down")),
    ]
    sensor: Annotated[
        float, Field(ge=1, le=60),
        Number(N_("Width of the sensor"), unit="mm", start=5.4, hint=N_("1/2.8 inch: 5.4; 1/1.8 inch: 7.2; 1 inch: 12.8")),
    ]  # fmt: skip
    focal: Annotated[float, Field(ge=0.5, le=1_000), Number(N_("Focal length"), unit="mm", start=2.8)]
    across: Annotated[int, Field(ge=160, le=16_384), Number(N_("Pixels across"), start=1920)] = 1920
    down: Annotated[int, Field(ge=120, le=16_384), Number(N_("Pixels down"), start=1080)] = 1080
    needs: Annotated[
        float,
        Field(ge=0, le=1_000),
        Number(N_("Sees down to"), unit="lx", hint=N_("0: in the dark, by a light of its own")),
    ] = 0.0
    dark: Annotated[
        float, Field(ge=0, le=100_000),
        Number(N_("Light there at night"), unit="lx", hint=N_("a lit path: 5; the full moon: 0.2")),
    ] = 5.0  # fmt: skip


@dataclass(frozen=True, slots=True)
class Band:
    """Ground on which a picture suffices for a purpose: from near to far, in metres."""

    purpose: str
    near: float
    far: float


class Optics:
    """The geometry of a mounting."""

    def __init__(self, mounting: Mounting) -> None:
        self.mounting = mounting
        self.high = mounting.high
        #: In pixels; they are square.
        self.focal = mounting.focal / mounting.sensor * mounting.across
        tilt = math.radians(mounting.tilt)
        self._sin, self._cos = math.sin(tilt), math.cos(tilt)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Optics) and self.mounting == other.mounting

    def __hash__(self) -> int:
        return hash(self.mounting)

    @property
    def view(self) -> float:
        """How wide it sees, in degrees."""
        return 2 * math.degrees(math.atan(self.mounting.across / 2 / self.focal))

    # -- picture and ground ------------------------------------------------------------------------------------------------

    def ground(self, x: float, y: float, height: float = 0.0) -> tuple[float, float] | None:
        """What is seen at a place of the picture at a height: metres to the right of where it looks, and ahead; None above the
        horizon, and for what is too far to tell."""
        right, down = self._ray(x, y)
        sinks = self._sin + down * self._cos
        if sinks <= 1e-6:
            return None
        along = (self.high - height) / sinks
        ahead = along * (self._cos - down * self._sin)
        return (along * right, ahead) if along > 0 and abs(ahead) <= FARTHEST else None

    def place(self, right: float, ahead: float, height: float = 0.0) -> Corner | None:
        """Where in the picture a place is seen, which may be outside of it; None behind the lens."""
        below = self.high - height
        depth = ahead * self._cos + below * self._sin
        if depth <= 0.01:
            return None
        m = self.mounting
        x, y = self.focal * right / depth, self.focal * (below * self._cos - ahead * self._sin) / depth
        return 0.5 + x / m.across, 0.5 + y / m.down

    def tall(self, box: tuple[float, float, float, float]) -> float | None:
        """How tall a thing is that stands on the ground in a box (left, top, right, bottom), in metres; None where its foot is at
        the horizon or cut off by the picture's edge."""
        left, top, right, bottom = box
        x = (left + right) / 2
        foot = self.ground(x, bottom) if bottom < 0.995 else None
        if foot is None:
            return None
        _, down = self._ray(x, top)
        sinks, ahead = self._sin + down * self._cos, self._cos - down * self._sin
        return self.high - foot[1] * sinks / ahead if ahead > 1e-6 and foot[1] > 0 else None

    def person(self, x: float, y: float, tall: float = PERSON) -> tuple[float, float, float, float] | None:
        """The box of somebody who stands at a place of the picture: left, top, right, bottom; None where nobody can stand."""
        foot = self.ground(x, y)
        head = self.place(*foot, tall) if foot else None
        if foot is None or head is None or head[1] >= y:
            return None
        half = 0.3 * tall / 2 * self.density(foot[1], tall / 2) / self.mounting.across
        return x - half, head[1], x + half, y

    def _ray(self, x: float, y: float) -> tuple[float, float]:
        """To the right and downwards, for one ahead."""
        m = self.mounting
        return (x - 0.5) * m.across / self.focal, (y - 0.5) * m.down / self.focal

    # -- what it suffices for ----------------------------------------------------------------------------------------------

    def density(self, ahead: float, height: float = 0.0) -> float:
        """Pixels a metre of what is so far ahead, at a height, across the line of sight."""
        depth = ahead * self._cos + (self.high - height) * self._sin
        return self.focal / depth if depth > 0 else math.inf

    def reach(self, density: float, height: float = 0.0) -> float:
        """Up to what distance so many pixels a metre are there; negative where they are nowhere."""
        far = self.focal / density - (self.high - height) * self._sin
        return min(FARTHEST, far / self._cos) if self._cos > 1e-6 else math.copysign(FARTHEST, far)

    @property
    def near(self) -> float:
        """The blind ground: how far ahead the picture's lower edge meets the ground."""
        foot = self.ground(0.5, 1.0)
        return max(0.0, foot[1]) if foot else FARTHEST

    @property
    def far(self) -> float:
        """How far ahead the picture's upper edge meets the ground."""
        foot = self.ground(0.5, 0.0)
        return foot[1] if foot else FARTHEST

    def bands(self) -> Iterator[Band]:
        """The ground by what it suffices for, the nearest first; each reaches to where the next one begins."""
        near = self.near
        for purpose, (_, density) in reversed(PURPOSES.items()):
            far = min(self.far, self.reach(density))
            if far > near:
                yield Band(purpose, near, far)
                near = far

    def purpose_at(self, ahead: float) -> str:
        """The most that is possible at a distance; empty for nothing."""
        density = self.density(ahead)
        return next((name for name, (_, least) in reversed(PURPOSES.items()) if density >= least), "")

    def steepness(self, ahead: float, height: float) -> float:
        """From how far above something is looked at, in degrees."""
        return math.degrees(math.atan2(self.high - height, max(ahead, 0.01)))

    def stretch(self, width: float, pixels: float, height: float) -> tuple[float, float] | None:
        """From where to where something of a width at a height has so many pixels and is not looked at too steeply; None for
        nowhere."""
        above = abs(self.high - height)
        near = max(self.near, above / math.tan(math.radians(STEEPEST)))
        far = min(self.far, self.reach(pixels / width, height))
        return (near, far) if far > near else None


def concerns(mounting: Mounting, reads_faces: bool = False, reads_plates: bool = False) -> Iterator[str]:
    """What a camera is asked for and cannot give, in words."""
    optics = Optics(mounting)
    if mounting.needs > mounting.dark:
        yield t(
            "By night there are {dark} lx, and it wants {needs}: light the place, or choose a camera that sees with less.",
            dark=f"{mounting.dark:g}", needs=f"{mounting.needs:g}",
        )  # fmt: skip
    if optics.near >= optics.reach(PURPOSES["detect"][1]):
        yield t(
            "Nowhere on the ground are there pixels enough to detect a person: hang it lower, or give it a longer lens."
        )
    for asked, wanted, unmet in (
        (reads_faces, (FACE, FACE_PIXELS, FACE_AT), N_("It reads faces, but nowhere are they large enough and seen straight enough.")),
        (reads_plates, (PLATE, PLATE_PIXELS, PLATE_AT), N_("It reads plates, but nowhere are they large enough and seen straight enough.")),
    ):  # fmt: skip
        if asked and optics.stretch(*wanted) is None:
            yield t(unmet)


def too_far(optics: Optics, corners: tuple[Corner, ...]) -> str:
    """What is wrong with watching people in what is drawn; empty for nothing."""
    feet = [optics.ground(x, y) for x, y in corners]
    if any(foot is None for foot in feet):
        return t("It reaches above the horizon, where nobody stands.")
    farthest = max(foot[1] for foot in feet if foot is not None)
    density = optics.density(farthest)
    if density >= PURPOSES["detect"][1]:
        return ""
    return t(
        "At its far end, {metres} m away, a person is {pixels} pixels tall; to detect one takes {wanted}.",
        metres=f"{farthest:.0f}", pixels=f"{density * PERSON:.0f}", wanted=f"{PURPOSES['detect'][1] * PERSON:.0f}",
    )  # fmt: skip
