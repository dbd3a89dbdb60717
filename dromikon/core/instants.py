"""Moments in time, as whole milliseconds since 1970-01-01T00:00:00Z.

Integers make the evaluator exact and its state plain JSON; conversion happens at the surface.
"""

from datetime import UTC, datetime

Instant = int
SECOND = 1000


def from_datetime(moment: datetime) -> Instant:
    """Milliseconds of an aware datetime; a naive one is refused with ValueError."""
    if moment.tzinfo is None:
        raise ValueError("a moment needs a time zone")
    return round(moment.timestamp() * 1000)


def to_datetime(instant: Instant) -> datetime:
    """The aware UTC datetime of an instant."""
    return datetime.fromtimestamp(instant / 1000, UTC)


def parse(text: str) -> Instant:
    """Read ISO 8601 / xs:dateTime; without an offset it is taken as UTC. Raises ValueError."""
    moment = datetime.fromisoformat(text.strip())
    return from_datetime(moment if moment.tzinfo else moment.replace(tzinfo=UTC))


def iso(instant: Instant) -> str:
    """ISO 8601 in UTC with milliseconds, ending in Z."""
    return to_datetime(instant).isoformat(timespec="milliseconds").replace("+00:00", "Z")
