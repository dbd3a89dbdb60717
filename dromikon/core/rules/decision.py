"""What a rule decides once its cause has fired: provided, hours, hold-off. Live running, rehearsal and each value of a
sweep decide here."""

from dromikon.core.events import Event
from dromikon.core.instants import Instant
from dromikon.core.rules.compile import CompiledRule
from dromikon.core.rules.condition import Seen
from dromikon.core.rules.document import HoldOff
from dromikon.core.rules.rows import Quiet


def refusal(rule: CompiledRule, event: Event, at: Instant, seen: list[Seen] | None) -> str | None:
    """Why the rule does not even come to its hold-off; None when conditions and hours let it."""
    if event.chain and rule.id in event.chain:
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


def quiet_until(part: HoldOff, row: Quiet | None, at: Instant) -> Instant | None:
    """Until when a hold-off keeps firings back; None when one may follow."""
    if row is None:
        return None
    window = round(part.seconds * 1000)
    moments = row["at"]
    if len(moments) < part.most:
        return None
    # Moments stand in order: the firing that is `most` back decides.
    decides = moments[-part.most]
    return decides + window if decides > at - window else None


def after_firing(part: HoldOff, before: Quiet | None, at: Instant) -> Quiet:
    """The row of a hold-off after a firing."""
    window = round(part.seconds * 1000)
    known = before["at"] if before is not None and part.most > 1 else ()
    moments = [moment for moment in known if moment > at - window][-part.most + 1 :]
    row: Quiet = {"at": [*moments, at]}
    if part.per == "field" or part.then != "ignore":
        # Points and areas are few and may be remembered; fields have ever new values.
        row["due"] = at + window
    return row


def after_repeat(part: HoldOff, row: Quiet, at: Instant) -> Quiet:
    """The row of a hold-off after a repeat that joins: what goes on and on stays one alarm."""
    return {**row, "at": [at], "due": at + round(part.seconds * 1000)}
