"""The ledger of deliveries: claims before sending and outcomes after it, written in groups.

Whatever has gathered while one transaction ran is the next one, so that a thousand steps cost some dozens of flushes,
and a single step waits for nobody.
"""

import asyncio
import contextlib
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from typing import Any, TypeVar

from django.db import DatabaseError, OperationalError, connection, transaction

from dromikon import wake
from dromikon.clock import now_ms
from dromikon.core.rules.actions.base import Delivery
from dromikon.database import writer
from dromikon.daybook import feed, storage
from dromikon.daybook.models import EventRow, Requeued, Resting, RunRow, Step
from dromikon.daybook.services import record_act
from dromikon.daybook.trial import ASKED, TEST
from dromikon.engine.effects.base import Sent
from dromikon.engine.lanes import Breaker
from dromikon.logs import flow, tell

T = TypeVar("T")
FIRST_PAUSE, LONGEST_PAUSE = 1_000, 60_000
#: The database is asked again after this many seconds when it is locked or full.
AGAIN = 0.5
#: Outcomes wait so long for claims to be written together with, in seconds: nobody waits for an outcome.
GATHER = 0.010
#: What is made for an alarm and not ordered by a rule tells nobody that it expired.
SILENT = ("evidence", "snapshot")
#: What rules can make loud. A test is told on the page that sent it.
LOUD = (Step.Status.EXPIRED, Step.Status.FAILED)


@dataclass(frozen=True, slots=True)
class Outcome:
    """How one delivery ended. `step`: the row as it was claimed; what nobody claimed is read when it is written."""

    pk: int
    sent: Sent
    at: int
    step: Step | None = None


class Ledger:
    """One group after another, in a thread of its own."""

    def __init__(self) -> None:
        self._pool = ThreadPoolExecutor(1, "ledger")
        self._claims: list[tuple[int, asyncio.Future[Step | None]]] = []
        self._outcomes: list[tuple[Outcome, asyncio.Future[None]]] = []
        self._writing: asyncio.Task[None] | None = None
        self._claimed = asyncio.Event()

    async def ask(self, question: Callable[[], T]) -> T:
        """Run something in the ledger's thread."""
        return await asyncio.get_running_loop().run_in_executor(self._pool, question)

    def claim(self, pk: int) -> "asyncio.Future[Step | None]":
        """Mark a step as being sent. None when it is not to be sent any more. What was told to `finish` before is
        written by then."""
        future: asyncio.Future[Step | None] = asyncio.get_running_loop().create_future()
        self._claims.append((pk, future))
        self._claimed.set()
        self._start()
        return future

    def finish(self, outcome: Outcome) -> "asyncio.Future[None]":
        """Write down how a delivery ended."""
        future: asyncio.Future[None] = asyncio.get_running_loop().create_future()
        self._outcomes.append((outcome, future))
        self._start()
        return future

    async def close(self) -> None:
        """When what was asked is written."""
        if self._writing is not None:
            await asyncio.gather(self._writing, return_exceptions=True)
        await self.ask(_close_connection)
        self._pool.shutdown()

    def _start(self) -> None:
        if self._writing is None or self._writing.done():
            self._writing = asyncio.get_running_loop().create_task(self._write_all())

    async def _write_all(self) -> None:
        while self._claims or self._outcomes:
            if not self._claims:
                with contextlib.suppress(TimeoutError):
                    async with asyncio.timeout(GATHER):
                        await self._claimed.wait()
            self._claimed.clear()
            claims, self._claims = self._claims, []
            outcomes, self._outcomes = self._outcomes, []
            group = [pk for pk, _ in claims], [o for o, _ in outcomes]
            while True:
                try:
                    claimed = await self.ask(partial(write_group, *group))
                    break
                except OperationalError:
                    await asyncio.sleep(AGAIN)
            for pk, claim in claims:
                _answer(claim, claimed.get(pk))
            for _, finish in outcomes:
                _answer(finish, None)


def _answer(future: "asyncio.Future[Any]", value: Any) -> None:
    if not future.done():
        future.set_result(value)


def write_group(claims: Sequence[int], outcomes: Sequence[Outcome]) -> dict[int, Step]:
    """Write a group in one transaction. Returns the steps that were claimed, by their keys."""
    with writer.turn(), transaction.atomic():
        if outcomes:
            _finish(outcomes)
        claimed = _claim(claims, now_ms()) if claims else {}
    if outcomes:
        wake.wake(wake.PAGES)
        # What is committed is not undone by a line that could not be written.
        with contextlib.suppress(DatabaseError, OSError):
            _log(outcomes)
    return claimed


def _claim(pks: Sequence[int], now: int) -> dict[int, Step]:
    return {step.pk: step for step in storage.claim_steps(pks, now)}


def _finish(outcomes: Sequence[Outcome]) -> None:
    unread = Step.objects.in_bulk([o.pk for o in outcomes if o.step is None])
    settled, told = [], []
    for outcome in outcomes:
        step = outcome.step or unread[outcome.pk]
        _note(step, outcome)
        settled.append(step)
        told.append(feed.step(step.site, step.run, step.status, outcome.at))
        if step.status in LOUD and step.action not in SILENT and not step.run.startswith((TEST, ASKED)):
            record_act(step.site, str(step.status), outcome.at, run=step.run, action=step.action, answer=step.answer)
    storage.settle_steps(settled)
    storage.FEED.insert(map(storage.feed_row, told))


def _log(outcomes: Sequence[Outcome]) -> None:
    """A line for each delivery, with the message that began it."""
    if not flow.hasHandlers():
        return
    steps = [o.step for o in outcomes if o.step is not None]
    events = dict(RunRow.objects.filter(ref__in={s.run for s in steps}).values_list("ref", "event"))
    messages = dict(EventRow.objects.filter(seq__in=events.values()).values_list("seq", "inbox"))
    for step in steps:
        event = events.get(step.run)
        tell(
            "step", messages.get(event or 0), event, run=step.run, step=step.pk, action=step.action, target=step.target,
            outcome=step.status, answer=step.answer[:120],
        )  # fmt: skip


def _note(step: Step, outcome: Outcome) -> None:
    """What becomes of a step: it is over, or tried again."""
    step.answer = outcome.sent.answer[:500]
    step.next_try = again_at(step, outcome.sent, outcome.at)
    if step.next_try is not None:
        step.status = Step.Status.DUE
    else:
        step.status, step.done_at = Step.Status(outcome.sent.outcome), outcome.at


def again_at(step: Step, sent: Sent, now: int) -> int | None:
    """When a step is tried again after an attempt, with a pause that grows; None when it is over."""
    again = sent.outcome == "retry" or (sent.outcome == "unconfirmed" and step.delivery != Delivery.ONCE_ONLY)
    again = again or (sent.outcome == "failed" and step.delivery == Delivery.RELEASE)
    pause = min(LONGEST_PAUSE, FIRST_PAUSE * 2 ** min(max(0, step.attempts - 1), 8))
    return now + round(pause * jitter(step.pk, step.attempts)) if again else None


def jitter(pk: int, attempt: int) -> float:
    """From 0.8 to 1.2, the same for the same attempt: what failed together does not come again together."""
    mixed = (pk * 2_654_435_761 + attempt * 40_503) & 0xFFFFFFFF
    return 0.8 + 0.4 * mixed / 0xFFFFFFFF


def after_a_crash(now: int) -> None:
    """Steps that were being sent when we died: once-only ones are unconfirmed for ever, the rest go out again."""
    Step.objects.filter(status=Step.Status.SENDING, delivery=Delivery.ONCE_ONLY).update(
        status=Step.Status.UNCONFIRMED, done_at=now, answer="Dromikon stopped while sending; not sent again."
    )
    Step.objects.filter(status=Step.Status.SENDING).update(status=Step.Status.DUE, next_try=now)
    # Who delivers now knows of none that rests.
    Resting.objects.all().delete()


def note_rest(lane: str, breaker: Breaker, step: Step, answer: str) -> None:
    """Write down that a target is left alone, for the page."""
    with writer.turn():
        Resting.objects.update_or_create(
            lane=lane,
            defaults={
                "site": step.site, "target": step.target, "action": step.action, "since": breaker.since or 0,
                "tries_at": breaker.tries_at, "failures": breaker.failures, "answer": answer[:500],
            },
        )  # fmt: skip


def note_answer(lane: str) -> None:
    """Write down that a target answers again."""
    with writer.turn():
        Resting.objects.filter(lane=lane).delete()


def requeued() -> list[storage.WaitingRow]:
    """Steps that somebody wants to be sent again, which are taken up now."""
    wanted = list(Requeued.objects.values_list("step", flat=True)[:500])
    if not wanted:
        return []
    with writer.turn():
        Requeued.objects.filter(step__in=wanted).delete()
    return storage.waiting_by_key(wanted)


def _close_connection() -> None:
    """The connection of the thread that asks."""
    connection.close()
