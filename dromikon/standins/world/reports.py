"""What devices tell of the world."""

from dataclasses import dataclass

Items = tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class Report:
    """One thing a device tells: an ONVIF topic with its items, or the change of a property."""

    at: int
    topic: str
    source: Items
    data: Items
    property: bool = False
