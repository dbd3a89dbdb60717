"""Alarm states after IEC 62682 (management of alarm systems for the process industries).

An alarm has two facts: whether its condition still holds, and whether somebody has answered. A momentary cause has no
end of its own; its alarm stays unacknowledged until it is answered and then closes.
"""

from enum import StrEnum

from dromikon.core.words import t


class AlarmState(StrEnum):
    """The four states of an alarm that is not shelved."""

    UNACKNOWLEDGED = "unacknowledged"
    ACKNOWLEDGED = "acknowledged"
    #: The condition is over (returned to normal), but nobody has answered.
    RETURNED = "returned"
    CLOSED = "closed"


#: States in which a person has still to answer.
OPEN_TO_ANSWER = (AlarmState.UNACKNOWLEDGED, AlarmState.RETURNED)


class NotPossible(ValueError):
    """The act does not fit the state; the message says why."""


def acknowledge(state: AlarmState, lasting: bool) -> AlarmState:
    """The state after somebody answers. `lasting`: the condition has an end of its own that is still to come."""
    if state is AlarmState.RETURNED:
        return AlarmState.CLOSED
    if state is AlarmState.UNACKNOWLEDGED:
        return AlarmState.ACKNOWLEDGED if lasting else AlarmState.CLOSED
    raise NotPossible(t("This alarm has already been answered."))


def end(state: AlarmState) -> AlarmState:
    """The state after the condition returns to normal; an alarm that is over stays as it is."""
    if state is AlarmState.UNACKNOWLEDGED:
        return AlarmState.RETURNED
    if state is AlarmState.ACKNOWLEDGED:
        return AlarmState.CLOSED
    return state
