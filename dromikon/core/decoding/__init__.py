"""How a message becomes an event. Decoders are pure: they are given parsed content and answer with a `Decoded`."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from dromikon.core.events import Phase, Scalar


@dataclass(frozen=True, slots=True)
class Decoded:
    """An event that has not met its point yet. `token` is the device's own address of the point."""

    kind: str
    token: str
    phase: Phase
    fields: Mapping[str, Scalar] = field(default_factory=dict)
    #: Told because we asked (a synchronization), not because it happened now.
    told_on_request: bool = False
    #: What begins ends by itself after so many seconds; 0: at once, None: when it is told so.
    ends_after: float | None = None


class NotDecoded(ValueError):
    """No decoder can make an event of this message; the message says why, for the list of unclaimed."""
