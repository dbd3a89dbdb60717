"""Examples: events at which somebody has said that a rule should fire, or should not. Later revisions are measured by them."""

from collections.abc import Mapping
from typing import NamedTuple

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.instants import Instant
from dromikon.core.rules.document import Problem
from dromikon.core.rules.outcome import Verdict
from dromikon.daybook.models import EventRow
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.rulebook.models import Example, Rule

MOST = 100


class Measured(NamedTuple):
    """A marked event, and whether a draft does there what was wanted; None where nothing can be said of it any more."""

    event: int
    point: str
    zero: Instant
    fires: bool
    held: bool | None


def mark(access: Access, rule: Rule, event: int, fires: bool | None) -> None:
    """Say of an event whether the rule should fire at it; None takes that back. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_RULES)
    if fires is None:
        Example.objects.filter(rule=rule, event=event).delete()
        return
    row = EventRow.objects.filter(site=access.site.id, seq=event).first()
    if row is None:
        raise Refused(
            [Problem(path="event", message="There is no such event at this site, or it is not kept any more.")]
        )
    known = Example.objects.filter(rule=rule)
    if known.exclude(event=event).count() >= MOST:
        raise Refused([Problem(path="event", message=f"A rule has at most {MOST} examples. Take one away first.")])
    at = now_ms()
    with transaction.atomic():
        kept = {"point": row.point, "zero": row.occurred_at, "fires": fires, "by": access.person, "at": at}
        known.update_or_create(rule=rule, event=event, defaults=kept)
        record(
            access.site, access.person, "marked event", f"rule:{rule.id}", at, name=rule.name, event=event, fires=fires
        )


def marked_of(rule: Rule, since: Instant) -> list[Example]:
    """The examples of a rule from an instant on, the newest first."""
    return list(Example.objects.filter(rule=rule, zero__gte=since))


def measured(marked: list[Example], verdicts: Mapping[int, Verdict]) -> list[Measured]:
    """How a draft does by the examples. An event that its cause is not about any more does not fire."""
    there = set(EventRow.objects.filter(seq__in=[e.event for e in marked]).values_list("seq", flat=True))
    return [
        Measured(e.event, e.point, e.zero, e.fires, _held(e, verdicts) if e.event in there else None) for e in marked
    ]


def _held(example: Example, verdicts: Mapping[int, Verdict]) -> bool:
    verdict = verdicts.get(example.event)
    return (verdict is not None and verdict.outcome == "fired") is example.fires
