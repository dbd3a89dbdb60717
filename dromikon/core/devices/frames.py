"""What a camera's analytics see in one picture, as the object metadata stream tells it (ONVIF Analytics, tt:Frame)."""

from dataclasses import dataclass

from dromikon.core.instants import Instant


@dataclass(frozen=True, slots=True)
class Seen:
    """One thing. `kind`: its likeliest class as the device names it ("Human"), empty when it names none; `likelihood`: of that,
    0 to 1. `box`: left, top, right and bottom in the picture, from -1 to 1, y upwards (ONVIF's normalised coordinates)."""

    object: str
    kind: str
    likelihood: float | None
    box: tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class SceneFrame:
    """Everything that is seen at one moment of the device's clock."""

    at: Instant
    seen: tuple[Seen, ...]
