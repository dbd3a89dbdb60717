"""What left the building: each step that a deliverer carries out, where to, how long it took, and what it answered."""

from typing import Any

from django.db.models import Count, Q, QuerySet

from dromikon.clock import now_ms
from dromikon.core.rules.actions.base import Delivery
from dromikon.daybook.models import Resting, RunRow, Step
from dromikon.daybook.receivers import SHARED

#: What may be asked for by name; everything else is asked for by a status of its own.
SHOWN = {
    "waiting": Q(status__in=(Step.Status.DUE, Step.Status.SENDING)),
    "sent": Q(status=Step.Status.DONE),
    "trouble": Q(status__in=(Step.Status.FAILED, Step.Status.UNCONFIRMED, Step.Status.EXPIRED)),
}
_TROUBLE = (Step.Status.FAILED, Step.Status.UNCONFIRMED, Step.Status.EXPIRED)
#: What is called from outside a device, and was not if it failed.
_CALLS = ("http", "script")
#: Deliveries of so many ms are looked at.
REACH = 7 * 86_400_000
#: Deliveries into our own database are none.
OUTSIDE = ~Q(delivery__in=(Delivery.INSIDE, "")) & ~Q(action="evidence")


def deliveries_of(site: str, shown: str = "", text: str = "", limit: int = 200) -> list[dict[str, Any]]:
    """The latest deliveries of a site, newest first, as far as they are `shown` (see `SHOWN`; empty for all) and a text
    stands in step, target or answer."""
    found = _latest(site).filter(SHOWN.get(shown, Q()))
    for word in text.split()[:5]:
        found = found.filter(Q(action__icontains=word) | Q(target__icontains=word) | Q(answer__icontains=word))
    steps = list(found.order_by("-due", "-id")[:limit])
    runs = {run.ref: run for run in RunRow.objects.filter(ref__in={step.run for step in steps})}
    return [
        {"step": step, "run": runs.get(step.run), "took": _took(step), "again": may_be_sent_again(step)}
        for step in steps
    ]


def resting_of(site: str) -> list[dict[str, Any]]:
    """Targets that do not answer and are left alone for a while, the longest first, with how much of this site waits for
    each. What the installation has one of is everybody's."""
    found = list(Resting.objects.order_by("since"))
    counted = Step.objects.filter(site=site, lane__in=[r.lane for r in found], status=Step.Status.DUE).values("lane")
    waiting = dict(counted.annotate(n=Count("id")).values_list("lane", "n"))
    return [
        # An answer may name somebody of the site that it was for.
        {"rest": r, "waiting": waiting.get(r.lane, 0), "answer": r.answer if r.site == site else ""}
        for r in found
        if r.site == site or r.lane in SHARED
    ]


def may_be_sent_again(step: Step) -> bool:
    """Whether sending it once more does no harm: what may come twice, or what was surely not carried out; never a device's
    command, which would move late."""
    if step.delivery == Delivery.REPEATABLE:
        return step.status in _TROUBLE
    return step.action in _CALLS and step.status in (Step.Status.FAILED, Step.Status.EXPIRED)


def counts_of(site: str) -> dict[str, int]:
    """How many deliveries there are of each sort in `SHOWN`."""
    return {name: _latest(site).filter(wanted).count() for name, wanted in SHOWN.items()}


def _latest(site: str) -> QuerySet[Step]:
    return Step.objects.filter(OUTSIDE, site=site, due__gt=now_ms() - REACH)


def _took(step: Step) -> int | None:
    """From its last sending to its answer, in ms; None for what was never sent."""
    if step.done_at is None or step.sent_at is None:
        return None
    return step.done_at - step.sent_at
