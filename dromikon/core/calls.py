"""Calls at door stations, pure: how one stands, and what may be done to it."""

from dataclasses import dataclass, replace
from enum import StrEnum

from dromikon.core.instants import Instant
from dromikon.core.words import t

#: Whoever has rung waits so long before we take it that they have gone, in ms; ringing again begins anew.
WAITS = 60_000
#: A call of which nothing more is told is taken to be over after so long, in ms.
LONGEST = 15 * 60_000


class CallState(StrEnum):
    """How a call stands."""

    RINGING = "ringing"
    TALKING = "talking"
    ENDED = "ended"
    #: Nobody answered.
    MISSED = "missed"


class NotPossible(ValueError):
    """The act does not fit how the call stands; the message says why."""


@dataclass(frozen=True, slots=True)
class Standing:
    """The facts of a call."""

    rung_at: Instant
    answered_at: Instant | None = None
    ended_at: Instant | None = None

    @property
    def state(self) -> CallState:
        if self.ended_at is not None:
            return CallState.ENDED if self.answered_at is not None else CallState.MISSED
        return CallState.TALKING if self.answered_at is not None else CallState.RINGING

    @property
    def gives_up(self) -> Instant | None:
        """When it is over by itself; None once it is."""
        if self.ended_at is not None:
            return None
        return self.rung_at + WAITS if self.answered_at is None else self.answered_at + LONGEST


def ring_again(call: Standing, at: Instant) -> Standing:
    """They ring once more, which is the same call while it goes on. Raises NotPossible."""
    if call.ended_at is not None:
        raise NotPossible(t("That call is over."))
    return replace(call, rung_at=max(call.rung_at, at))


def answer(call: Standing, at: Instant) -> Standing:
    """Somebody speaks with them. Raises NotPossible."""
    if call.ended_at is not None:
        raise NotPossible(t("That call is over."))
    if call.answered_at is not None:
        raise NotPossible(t("Somebody has answered already."))
    return replace(call, answered_at=at)


def end(call: Standing, at: Instant) -> Standing:
    """It is over; nothing is over twice."""
    return call if call.ended_at is not None else replace(call, ended_at=at)
