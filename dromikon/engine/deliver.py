"""Deliverers: they work off the outbox, lane by lane, woken by whoever commits.

*Repeatable* steps are tried again with back-off until they expire. *Once-only* steps are marked before sending and never
repeated. *Releases* never expire and are repeated until confirmed. One slow lane holds up no other.
"""

import asyncio
import contextlib
import logging
from collections.abc import Callable, Coroutine
from dataclasses import replace
from functools import partial
from typing import Any

from django.db import OperationalError

from dromikon.core.rules.actions.base import Delivery
from dromikon.daybook.models import Step
from dromikon.daybook.storage import WaitingRow, waiting_in_lane, waiting_steps
from dromikon.daybook.trial import ASKED, TEST
from dromikon.engine.effects import EFFECTS, OutsideEffect
from dromikon.engine.effects.base import Sent
from dromikon.engine.lanes import FRESH, Lane, Waiting
from dromikon.engine.ledger import Ledger, Outcome, after_a_crash, again_at, note_answer, note_rest, requeued
from dromikon.wire import calls

log = logging.getLogger("dromikon.engine")

#: The outbox is looked at this often even when nobody wakes, in seconds.
LOOK = 1.0
#: New rows are read in portions; a lane keeps at most so many in memory and reads on when they are through.
PORTION, MOST_IN_LANE = 1_000, 2_000
#: Beyond that, so many that only just came are taken in besides: a backlog does not keep them out.
MOST_FRESH = 500
#: A clock that differs by less was not set back but corrected, in ms.
SET_BACK = 1_000
EXPIRED = "Its moment had passed before it could be sent."
BROKEN = "It could not be carried out; the log says why."


class Deliverers:
    """All lanes of an installation, in one event loop."""

    def __init__(self, clock: Callable[[], int]) -> None:
        self.clock = clock
        self.ledger = Ledger()
        self._lanes: dict[str, Lane] = {}
        self._unread: set[str] = set()
        self._sending: set[asyncio.Task[None]] = set()
        self._read_up_to = 0
        self._looked_at = 0
        self._woken = asyncio.Event()
        self._loop: asyncio.AbstractEventLoop | None = None

    def wake(self) -> None:
        """New steps are committed. May be called from any thread."""
        if self._loop is not None and not self._loop.is_closed():
            with contextlib.suppress(RuntimeError):
                self._loop.call_soon_threadsafe(self._woken.set)

    async def run(self) -> None:
        """Until cancelled; then what is being sent is seen through for a moment."""
        self._loop = asyncio.get_running_loop()
        await self.ledger.ask(lambda: after_a_crash(self.clock()))
        try:
            while True:
                self._woken.clear()
                try:
                    await self.look()
                except OperationalError as error:
                    log.warning("the outbox cannot be read just now: %s", error)
                except Exception:
                    # A fault of ours must not end all deliveries; it is met again at the next look, and said again.
                    log.exception("the outbox could not be worked off")
                with contextlib.suppress(TimeoutError):
                    async with asyncio.timeout(self._pause()):
                        await self._woken.wait()
        finally:
            await self.close()

    async def close(self) -> None:
        """See through what is being sent, for two seconds at most."""
        if self._sending:
            await asyncio.wait(self._sending, timeout=2)
        await self.ledger.close()
        await calls.close()

    async def look(self) -> None:
        """Read what is new, close what has expired, and start what may go out."""
        self._mind_the_clock()
        await self._read()
        for lane in list(self._lanes.values()):
            self._expire(lane)
            self._start(lane)
            idle = not lane and not lane.busy and lane.name not in self._unread and not lane.breaker.failures
            if idle and lane.free_at <= self.clock():
                del self._lanes[lane.name]

    def _mind_the_clock(self) -> None:
        """A clock that was set back would have everything that waits come late by as much."""
        now = self.clock()
        if now < self._looked_at - SET_BACK:
            log.warning("the clock was set back by %.0f s", (self._looked_at - now) / 1000)
            for lane in self._lanes.values():
                lane.shift(self._looked_at - now)
        self._looked_at = now

    async def settle(self) -> None:
        """Wait until nothing is being sent and nothing more is due (for tests and measures)."""
        while self._sending:
            await asyncio.gather(*self._sending, return_exceptions=True)

    # -- reading -------------------------------------------------------------------------------------------------------

    async def _read(self) -> None:
        more = True
        while more:
            # Most rows are carried out inside: what has been looked at is not looked at again.
            rows, self._read_up_to = await self.ledger.ask(lambda: waiting_steps(self._read_up_to, PORTION))
            for step in rows:
                self._take_in(step)
            more = len(rows) == PORTION
        for row in await self.ledger.ask(requeued):
            self._take_in(row)
        for name in list(self._unread):
            if not self._lanes[name] and not self._lanes[name].busy:
                self._unread.discard(name)
                rows = await self.ledger.ask(partial(waiting_in_lane, name, MOST_IN_LANE))
                for step in rows:
                    self._take_in(step)
                if len(rows) == MOST_IN_LANE:
                    self._unread.add(name)

    def _take_in(self, row: WaitingRow) -> None:
        lane = self._lanes.get(row.lane)
        if lane is None:
            effect = EFFECTS[row.action]
            assert isinstance(effect, OutsideEffect)
            lane = Lane(row.lane, effect.width(row.lane), effect.patient)
            self._lanes[row.lane] = lane
        if len(lane) >= MOST_IN_LANE or row.lane in self._unread:
            self._unread.add(row.lane)
            fresh = lane.width > 1 and not row.attempts and row.due > self.clock() - FRESH
            if not fresh or lane.fresh >= MOST_FRESH:
                return
        lane.add(_waiting(row, self.clock()))

    # -- sending -------------------------------------------------------------------------------------------------------

    def _expire(self, lane: Lane) -> None:
        for step in lane.drop_expired(self.clock()):
            lane.busy += 1
            self._begin(self._close(lane, step))

    def _start(self, lane: Lane) -> None:
        for step in lane.take(self.clock()):
            self._begin(self._guarded(lane, step))

    def _begin(self, work: Coroutine[Any, Any, None]) -> None:
        task = asyncio.get_running_loop().create_task(work)
        self._sending.add(task)
        task.add_done_callback(self._sending.discard)

    async def _close(self, lane: Lane, step: Waiting) -> None:
        log.warning("step %d expired unsent in lane %s", step.pk, step.lane)
        try:
            await self.ledger.finish(Outcome(step.pk, Sent("expired", EXPIRED), self.clock()))
        finally:
            lane.done(self.clock(), 0, answered=False)
            self._start(lane)

    async def _guarded(self, lane: Lane, step: Waiting) -> None:
        try:
            row = await self.ledger.claim(step.pk)
            sent, gap = await self._send(lane, row) if row is not None else (None, 0.0)
        except BaseException:
            lane.done(self.clock(), 0, answered=False)
            raise
        now = self.clock()
        written = self.ledger.finish(Outcome(step.pk, sent, now, row)) if sent is not None else None
        if row is not None and sent is not None and (again := again_at(row, sent, now)) is not None:
            lane.add(replace(step, next_try=again, attempts=row.attempts))
        answered = sent is not None and sent.outcome in ("done", "failed")
        lane.done(now, round(gap * 1000), answered=answered)
        resting = self._reckon(lane, row, sent, now) if row is not None and sent is not None else None
        # The next of this lane goes out while the outcome is being written; nobody waits for the next look.
        self._start(lane)
        if gap or lane or lane.name in self._unread:
            # Something of this lane has its moment later: the pause until the next look is reckoned anew.
            self._woken.set()
        if written is not None:
            await written
        if resting is not None:
            await self.ledger.ask(resting)

    def _reckon(self, lane: Lane, row: Step, sent: Sent, now: int) -> Callable[[], None] | None:
        """What the outcome says of the target; answers with what is to be written down of it."""
        # A test says nothing that a page does not show at once.
        if sent.ours or row.run.startswith((TEST, ASKED)):
            return None
        if sent.outcome in ("done", "failed"):
            return partial(note_answer, lane.name) if lane.breaker.answered() else None
        if not lane.breaker.failed(now):
            return None
        log.warning("lane %s rests: %s", lane.name, sent.answer)
        self._woken.set()
        return partial(note_rest, lane.name, replace(lane.breaker), row, sent.answer)

    async def _send(self, lane: Lane, row: Step) -> tuple[Sent, float]:
        """Carry out a step. How it went, and the gap that the device wants, in seconds."""
        effect = EFFECTS[row.action]
        assert isinstance(effect, OutsideEffect)
        try:
            return await effect.deliver(row), await effect.gap(lane.name)
        except OperationalError as error:
            log.warning("step %d waits for the database: %s", row.pk, error)
            return Sent("unconfirmed", "The database could not be asked while it was sent."), 0.0
        except Exception:
            log.exception("step %d failed", row.pk)
            return Sent("failed", BROKEN), 0.0

    def _pause(self) -> float:
        """Seconds until a step is due or may be tried again, at most `LOOK`."""
        now = self.clock()
        moments = [moment for lane in self._lanes.values() if (moment := lane.next_moment(now)) is not None]
        return min(LOOK, max(0.001, (min(moments, default=now + 60_000) - now) / 1000))


def _waiting(row: WaitingRow, now: int) -> Waiting:
    """What is to be carried out at once has been due when it was written: a moment that lies ahead is that of a clock that
    was set back since, or of the journal, whose time does not run back."""
    ahead = max(0, row.due - now) if row.delivery in (Delivery.ONCE_ONLY, Delivery.RELEASE) else 0
    expires = None if row.delivery == Delivery.RELEASE or row.expires is None else row.expires - ahead
    return Waiting(row.id, row.lane, row.due - ahead, (row.next_try or row.due) - ahead, expires, row.attempts)
