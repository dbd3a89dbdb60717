"""What a camera's own analytics watch: lines and areas on the ground, each with its settings."""

import json
from dataclasses import asdict, dataclass
from typing import Any

from dromikon.standins.world.tracks import Place


@dataclass(frozen=True)
class LineDetector:
    """A line on the ground (or on a deck at `height`); crossing it from left to right of a→b is direction "Right".
    `direction`: which crossings are told: Any, Left or Right. `classes`: of what; none means everything. `confidence`: from
    how sure on."""

    name: str
    a: Place
    b: Place
    height: float = 0.0
    direction: str = "Any"
    classes: tuple[str, ...] = ()
    confidence: float = 0.0

    @property
    def points(self) -> tuple[Place, ...]:
        return self.a, self.b


@dataclass(frozen=True)
class StayDetector:
    """An area; somebody who stays for `threshold` seconds is reported."""

    name: str
    zone: tuple[Place, ...]
    threshold: int
    height: float = 0.0
    classes: tuple[str, ...] = ("Human",)
    confidence: float = 0.0

    @property
    def points(self) -> tuple[Place, ...]:
        return self.zone


@dataclass(frozen=True)
class Region:
    """A part of the picture in which something is read, counted or measured, by corners (x, y) from -1 to 1, y upwards. `sort`:
    plates, count, heat, heat along a line, heat at a spot. `point`: what the garden's other systems call it, whose signals it tells; none for one that was
    made afterwards."""

    name: str
    seen: tuple[Place, ...]
    sort: str
    point: str = ""


Detector = LineDetector | StayDetector | Region


def written(detector: Detector) -> str:
    """A detector as a line of the kept journal has it."""
    return json.dumps({"is": type(detector).__name__, **asdict(detector)})


def read(text: str) -> Detector:
    """The inverse of `written`."""
    said: dict[str, Any] = json.loads(text)
    kind = said.pop("is")
    if kind == "Region":
        return Region(**{**said, "seen": tuple((x, y) for x, y in said["seen"])})
    said["classes"] = tuple(said["classes"])
    if kind == "LineDetector":
        return LineDetector(**{**said, "a": tuple(said["a"]), "b": tuple(said["b"])})
    return StayDetector(**{**said, "zone": tuple((x, y) for x, y in said["zone"])})
