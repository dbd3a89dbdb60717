"""What devices tell of the world."""

from dataclasses import dataclass

Items = tuple[tuple[str, str], ...]
#: Sides of a rectangle in the picture: left, top, right, bottom, from -1 to 1, upwards.
Rectangle = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class Report:
    """One thing a device tells: an ONVIF topic with its items, or the change of a property."""

    at: int
    topic: str
    source: Items
    data: Items
    property: bool = False
    #: Where in the picture the thing is.
    box: Rectangle | None = None
