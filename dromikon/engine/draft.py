"""What adapters make of messages."""

from dataclasses import dataclass

from dromikon.core.events import Phase, Scalar


@dataclass(frozen=True, slots=True)
class Draft:
    """An event before it has its place in the journal."""

    site: str
    kind: str
    point: str
    phase: Phase
    received_at: int
    occurred_at: int
    device_at: int | None
    fields: dict[str, Scalar]
    told_on_request: bool
    inbox: int
    #: What begins ends by itself after so many seconds.
    ends_after: float | None = None
