"""Sending a step once more, by hand."""

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.rules.document import Problem
from dromikon.daybook.deliveries import may_be_sent_again
from dromikon.daybook.models import Requeued, Step
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused

#: What has no limit of its own is tried for so long, in ms.
TRIED_FOR = 3_600_000


def send_again(access: Access, pk: int) -> Step:
    """Have a step sent once more, under its own id, so that whoever got it already can tell. Raises Refused,
    PermissionDenied, Step.DoesNotExist."""
    access.need(May.EDIT_RULES)
    at = now_ms()
    with transaction.atomic():
        step = Step.objects.get(pk=pk, site=access.site.id)
        if not may_be_sent_again(step):
            raise Refused([Problem(path="id", message="It cannot be sent again: it might be done twice, or too late.")])
        step.expires = at + (step.expires - step.due if step.expires else TRIED_FOR)
        step.status, step.next_try, step.due, step.done_at, step.attempts = Step.Status.DUE, at, at, None, 0
        step.save(update_fields=["status", "next_try", "due", "done_at", "expires", "attempts"])
        Requeued.objects.update_or_create(step=step.pk)
        record(access.site, access.person, "sent again", f"step:{step.pk}", at, action=step.action, target=step.target)
    return step
