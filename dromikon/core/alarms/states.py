"""Alarm states after IEC 62682 (management of alarm systems for the process industries).

An alarm is a few facts: whether its condition has an end of its own and is over, whether somebody has answered, until when it
is shelved, whether the site's mode suppresses it by design, and who has taken it on. Its state follows from these and from the
time; nothing else changes it. A momentary cause has no end of its own; its alarm stays unacknowledged until it is answered and
then closes. What a mode suppresses is put before nobody: once the mode is left, it is put before people if it is still so, and
otherwise it is closed unheard.
"""

from dataclasses import dataclass, replace
from enum import StrEnum

from dromikon.core.instants import Instant
from dromikon.core.words import N_, t


class AlarmState(StrEnum):
    """How an alarm stands."""

    UNACKNOWLEDGED = "unacknowledged"
    ACKNOWLEDGED = "acknowledged"
    #: The condition is over (returned to normal), but nobody has answered.
    RETURNED = "returned"
    #: Put away by somebody, with a reason and an end; then it stands as it would have without.
    SHELVED = "shelved"
    #: Put before nobody, since the site is in a mode in which its rule says so.
    SUPPRESSED = "suppressed"
    CLOSED = "closed"


#: States in which a person has still to answer.
OPEN_TO_ANSWER = (AlarmState.UNACKNOWLEDGED, AlarmState.RETURNED)

#: What it was in the end, as far as somebody has said so.
OUTCOMES = {
    "real": N_("real"),
    "false": N_("false"),
    "test": N_("a test"),
    "own": N_("our own people"),
}

#: An alarm is shelved for a minute at least and a shift's length at most, in ms.
SHORTEST_SHELF, LONGEST_SHELF = 60_000, 12 * 3_600_000


class NotPossible(ValueError):
    """The act does not fit how the alarm stands; the message says why."""


@dataclass(frozen=True, slots=True)
class Standing:
    """The facts of an alarm. `lasting`: its condition has an end of its own that is still to come; `over`: that end has
    come. `taken_by`: who deals with it, by their id; empty: nobody. `suppressed`: the site's mode keeps it from people;
    `unheard`: it has passed meanwhile."""

    lasting: bool = False
    over: bool = False
    answered: bool = False
    shelved_until: Instant | None = None
    taken_by: str = ""
    suppressed: bool = False
    unheard: bool = False

    def state(self, now: Instant) -> AlarmState:
        """How it stands at an instant."""
        if self.answered:
            return AlarmState.ACKNOWLEDGED if self.lasting else AlarmState.CLOSED
        if self.unheard or (self.suppressed and self.over):
            return AlarmState.CLOSED
        if self.suppressed:
            return AlarmState.SUPPRESSED
        if self.shelved_until is not None and now < self.shelved_until:
            return AlarmState.SHELVED
        return AlarmState.RETURNED if self.over else AlarmState.UNACKNOWLEDGED


def acknowledge(alarm: Standing) -> Standing:
    """Somebody answers; also one that is shelved, which is then on no shelf any more. Raises NotPossible."""
    if alarm.answered or alarm.unheard:
        raise NotPossible(t("This alarm has already been answered.") if alarm.answered else t("This alarm is closed."))
    return replace(alarm, answered=True, shelved_until=None)


def end(alarm: Standing) -> Standing:
    """The condition returns to normal; nothing is over twice."""
    return replace(alarm, lasting=False, over=True)


def take(alarm: Standing, person: str, over_from: bool = False) -> Standing:
    """Somebody takes it on, so that nobody else does the same work; from somebody else only when they say so (`over_from`).
    Raises NotPossible."""
    if alarm.answered:
        raise NotPossible(t("This alarm has already been answered."))
    if alarm.taken_by not in ("", person) and not over_from:
        raise NotPossible(t("Somebody else deals with it already."))
    return replace(alarm, taken_by=person)


def give_back(alarm: Standing, person: str) -> Standing:
    """Whoever has taken it on leaves it to others. Raises NotPossible."""
    if alarm.answered or alarm.taken_by != person:
        raise NotPossible(t("You do not deal with this alarm."))
    return replace(alarm, taken_by="")


def shelve(alarm: Standing, until: Instant, now: Instant) -> Standing:
    """Put it away until an instant. Raises NotPossible."""
    if alarm.answered:
        raise NotPossible(t("This alarm has already been answered."))
    if not SHORTEST_SHELF <= until - now <= LONGEST_SHELF:
        raise NotPossible(t("An alarm is shelved for a minute at least, and for twelve hours at most."))
    return replace(alarm, shelved_until=until)


def unshelve(alarm: Standing, now: Instant) -> Standing:
    """Have it back before its time. Raises NotPossible."""
    if alarm.state(now) is not AlarmState.SHELVED:
        raise NotPossible(t("This alarm is on no shelf."))
    return replace(alarm, shelved_until=None)


def suppress(alarm: Standing) -> Standing:
    """The site goes into a mode in which it is put before nobody. What somebody deals with already, or has answered, stays
    as it is."""
    return alarm if alarm.answered or alarm.taken_by else replace(alarm, suppressed=True)


def bring_forward(alarm: Standing) -> Standing:
    """The mode that suppressed it is left: it is put before people if its condition goes on, else it has passed unheard."""
    if not alarm.suppressed:
        return alarm
    return replace(alarm, suppressed=False, unheard=not alarm.answered and not alarm.lasting)
