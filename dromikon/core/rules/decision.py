"""What a rule decides once its cause has fired: provided, hours, hold-off. Live running, rehearsal and each value of a
sweep decide here."""

from typing import Any

from dromikon.core.events import Event
from dromikon.core.instants import Instant
from dromikon.core.rules.compile import CompiledRule
from dromikon.core.rules.condition import Seen
from dromikon.core.rules.document import HoldOff


def refusal(rule: CompiledRule, event: Event, at: Instant, seen: list[Seen] | None) -> str | None:
    """Why the rule does not even come to its hold-off; None when conditions and hours let it."""
    if rule.id in event.chain:
        return "circular"
    provided = rule.provided is None or rule.provided(event, seen)
    if rule.within_hours is None:
        return None if provided else "not_provided"
    if not provided and seen is None:
        return "not_provided"
    in_hours = rule.within_hours(at)
    if seen is not None:
        seen.append(("hours", in_hours, at))
    return "not_provided" if not provided else None if in_hours else "outside_hours"


def quiet_until(part: HoldOff, row: dict[str, Any] | None, at: Instant) -> Instant | None:
    """Until when a hold-off keeps firings back; None when one may follow."""
    if row is None:
        return None
    window = round(part.seconds * 1000)
    moments: list[Instant] = row["at"]
    if len(moments) < part.most:
        return None
    # Moments stand in order: the firing that is `most` back decides.
    decides = moments[-part.most]
    return decides + window if decides > at - window else None


def after_firing(part: HoldOff, row: dict[str, Any] | None, at: Instant) -> dict[str, Any]:
    """The row of a hold-off after a firing."""
    window = round(part.seconds * 1000)
    before = row["at"] if row is not None else ()
    moments = [moment for moment in before if moment > at - window][-part.most + 1 :] if part.most > 1 else []
    return {"at": [*moments, at], "due": at + window}


def after_repeat(part: HoldOff, row: dict[str, Any], at: Instant) -> dict[str, Any]:
    """The row of a hold-off after a repeat that joins: what goes on and on stays one alarm."""
    return {**row, "at": [at], "due": at + round(part.seconds * 1000)}
