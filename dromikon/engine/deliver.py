"""Deliverers: they work off the outbox, one lane per target.

Within a lane order is kept, with a minimum gap; one slow lane holds up no other. *Repeatable* steps are tried again
with back-off until they expire. *Once-only* steps are marked before sending and never repeated. *Releases* never
expire and are repeated until confirmed.
"""

import asyncio
import logging
import time
from collections.abc import Callable

from asgiref.sync import sync_to_async
from django.db import OperationalError, transaction
from django.db.models import Q

from dromikon.core.rules.actions.base import Delivery
from dromikon.daybook.models import Feed, Step
from dromikon.engine.effects import EFFECTS, OutsideEffect
from dromikon.engine.effects.base import Sent

log = logging.getLogger("dromikon.engine")

#: How often the outbox is looked at, in seconds.
LOOK = 0.05
FIRST_PAUSE, LONGEST_PAUSE = 1_000, 60_000


class Deliverers:
    """All lanes of an installation, in one event loop."""

    def __init__(self, clock: Callable[[], int]) -> None:
        self.clock = clock
        self._lanes: dict[str, asyncio.Task[None]] = {}
        self._free_at: dict[str, float] = {}

    async def run(self) -> None:
        """Until cancelled."""
        await sync_to_async(after_a_crash)(self.clock())
        while True:
            try:
                await self.look()
            except OperationalError as error:
                log.warning("the outbox cannot be read just now: %s", error)
            await asyncio.sleep(LOOK)

    async def look(self) -> None:
        """Start one step in each lane that is free."""
        self._lanes = {lane: task for lane, task in self._lanes.items() if not task.done()}
        for step in await sync_to_async(heads_of_lanes)(self.clock(), set(self._lanes)):
            if self._free_at.get(step.lane, 0) <= time.monotonic():
                self._lanes[step.lane] = asyncio.create_task(self._guarded(step))

    async def settle(self) -> None:
        """Wait for the steps that are being sent (for tests and at the end)."""
        await asyncio.gather(*self._lanes.values(), return_exceptions=True)

    async def _guarded(self, step: Step) -> None:
        try:
            await self._work(step)
        except OperationalError as error:
            log.warning("step %d waits for the database: %s", step.pk, error)
        except Exception:
            log.exception("step %d failed", step.pk)
            await sync_to_async(finish)(
                step.pk, Sent("failed", "It could not be carried out; the log says why."), self.clock()
            )

    async def _work(self, step: Step) -> None:
        effect = EFFECTS[step.action]
        assert isinstance(effect, OutsideEffect)
        if not await sync_to_async(claim)(step.pk, self.clock()):
            return
        sent = await effect.deliver(step)
        await sync_to_async(finish)(step.pk, sent, self.clock())
        self._free_at[step.lane] = time.monotonic() + await sync_to_async(effect.gap)(step.lane)


def after_a_crash(now: int) -> None:
    """Steps that were being sent when we died: once-only ones are unconfirmed for ever, the rest go out again."""
    Step.objects.filter(status=Step.Status.SENDING, delivery=Delivery.ONCE_ONLY).update(
        status=Step.Status.UNCONFIRMED, done_at=now, answer="Dromikon stopped while sending; not sent again."
    )
    Step.objects.filter(status=Step.Status.SENDING).update(status=Step.Status.DUE, next_try=now)


def heads_of_lanes(now: int, busy: set[str]) -> list[Step]:
    """The first waiting step of each lane that is not busy, when it is due. Expired ones are closed on the way."""
    expired = Q(expires__lt=now) & ~Q(delivery=Delivery.RELEASE)
    waiting = Step.objects.filter(status=Step.Status.DUE).exclude(delivery=Delivery.INSIDE)
    gone = list(waiting.filter(expired).values_list("pk", flat=True)[:200])
    for pk in gone:
        finish(pk, Sent("expired", "Its moment had passed before it could be sent."), now)
    heads: dict[str, Step] = {}
    for step in waiting.filter(due__lte=now).exclude(lane__in=busy).order_by("due", "id")[:400]:
        heads.setdefault(step.lane, step)
    return [step for step in heads.values() if step.next_try is None or step.next_try <= now]


def claim(pk: int, now: int) -> bool:
    """Mark a step as being sent, before it is. False when it is not to be sent any more."""
    with transaction.atomic():
        step = Step.objects.filter(pk=pk, status=Step.Status.DUE).first()
        if step is None:
            return False
        step.status = Step.Status.SENDING
        step.attempts += 1
        step.save(update_fields=["status", "attempts"])
        return True


def finish(pk: int, sent: Sent, now: int) -> None:
    """Write down how it went, and when to try again."""
    with transaction.atomic():
        step = Step.objects.get(pk=pk)
        step.answer = sent.answer[:500]
        again = sent.outcome == "retry" or (sent.outcome == "unconfirmed" and step.delivery != Delivery.ONCE_ONLY)
        again = again or (sent.outcome == "failed" and step.delivery == Delivery.RELEASE)
        if again:
            step.status = Step.Status.DUE
            step.next_try = now + min(LONGEST_PAUSE, FIRST_PAUSE * 2 ** min(step.attempts - 1, 8))
        else:
            step.status, step.done_at = Step.Status(sent.outcome), now
        step.save(update_fields=["status", "answer", "next_try", "done_at"])
        Feed.objects.create(
            site=step.site, topic="step", subject=step.run, at=now, data={"run": step.run, "status": step.status}
        )
