"""What left the building: each step that a deliverer carries out, where to, how long it took, and what it answered."""

from typing import Any

from django.db.models import Q, QuerySet

from dromikon.clock import now_ms
from dromikon.core.rules.actions.base import Delivery
from dromikon.daybook.models import RunRow, Step

#: What may be asked for by name; everything else is asked for by a status of its own.
SHOWN = {
    "waiting": Q(status__in=(Step.Status.DUE, Step.Status.SENDING)),
    "sent": Q(status=Step.Status.DONE),
    "trouble": Q(status__in=(Step.Status.FAILED, Step.Status.UNCONFIRMED, Step.Status.EXPIRED)),
}
#: Deliveries of so many ms are looked at.
REACH = 7 * 86_400_000
#: Deliveries into our own database are none.
_OUTSIDE = ~Q(delivery__in=(Delivery.INSIDE, "")) & ~Q(action="evidence")


def deliveries_of(site: str, shown: str = "", limit: int = 200) -> list[dict[str, Any]]:
    """The latest deliveries of a site, newest first, as far as they are `shown` (see `SHOWN`; empty for all)."""
    steps = list(_latest(site).filter(SHOWN.get(shown, Q())).order_by("-due", "-id")[:limit])
    runs = {run.ref: run for run in RunRow.objects.filter(ref__in={step.run for step in steps})}
    return [{"step": step, "run": runs.get(step.run), "took": _took(step)} for step in steps]


def counts_of(site: str) -> dict[str, int]:
    """How many deliveries there are of each sort in `SHOWN`."""
    return {name: _latest(site).filter(wanted).count() for name, wanted in SHOWN.items()}


def _latest(site: str) -> QuerySet[Step]:
    return Step.objects.filter(_OUTSIDE, site=site, due__gt=now_ms() - REACH)


def _took(step: Step) -> int | None:
    """From its last sending to its answer, in ms; None for what was never sent."""
    if step.done_at is None or step.sent_at is None:
        return None
    return step.done_at - step.sent_at
