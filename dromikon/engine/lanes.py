"""Lanes: which step may go out next. Pure bookkeeping: no sockets, no database, time is an argument (ms UTC).

A lane of width one keeps order: its first step goes before all others, and while that one pauses between two attempts
the others wait. A wider lane takes several at a time, in the order in which they are due, and a step that pauses holds up
nobody; what has only just come due does not wait behind a backlog, but takes turns with it.
"""

import heapq
from dataclasses import dataclass, field, replace

#: A call may wait behind others of its lane at most this long, in ms, however well the lane gets on.
LONGEST_IN_LINE = 60_000
#: What is due for no longer than this is fresh, in ms: it does not stand behind a backlog.
FRESH = 10_000
#: A target that has not answered so often on end is left alone for a while.
GIVES_UP_AFTER = 5
#: For so long at first, and at most, in ms.
FIRST_REST, LONGEST_REST = 2_000, 60_000


@dataclass(slots=True)
class Waiting:
    """A step that is to be sent. `expires` is None for releases. `attempts` counts those that failed."""

    pk: int
    lane: str
    due: int
    next_try: int
    expires: int | None
    attempts: int = 0


@dataclass(slots=True)
class Breaker:
    """Whether a target is asked at all. After some calls without an answer it is left alone; then one call tries, and what
    comes of that decides for all."""

    failures: int = 0
    #: Since when it is left alone; None while it answers.
    since: int | None = None
    #: When one call may try.
    tries_at: int = 0
    #: When the last one tried in vain.
    failed_at: int = 0

    def answered(self) -> bool:
        """The other side has answered, whatever. Whether that is news."""
        news = self.since is not None
        self.failures, self.since, self.tries_at = 0, None, 0
        return news

    def failed(self, now: int) -> bool:
        """No answer came. Whether the target is left alone because of it, from now on or for longer."""
        self.failures, self.failed_at = self.failures + 1, now
        if self.failures < GIVES_UP_AFTER:
            return False
        doublings = min(self.failures - GIVES_UP_AFTER, 10)
        self.since = now if self.since is None else self.since
        self.tries_at = now + min(LONGEST_REST, FIRST_REST << doublings)
        return True

    @property
    def rests(self) -> bool:
        return self.since is not None


@dataclass
class Lane:
    """The steps of one target. `patient`: what expires is put off while the lane gets on, up to `LONGEST_IN_LINE`."""

    name: str
    width: int = 1
    patient: bool = False
    busy: int = 0
    #: Not before this moment is the next one sent: the device's minimum gap.
    free_at: int = 0
    #: When the other side last answered.
    progress: int = 0
    breaker: Breaker = field(default_factory=Breaker)
    _heap: list[tuple[int, int, Waiting]] = field(default_factory=list)
    #: What came due only lately, the newest last; a lane that keeps order has none.
    _fresh: list[tuple[int, int, Waiting]] = field(default_factory=list)
    _known: set[int] = field(default_factory=set)
    _turn: bool = False

    def add(self, step: Waiting) -> None:
        """One more; one that is known already is not taken twice."""
        if step.pk in self._known:
            return
        self._known.add(step.pk)
        moment = step.due if self.width == 1 else step.next_try
        fresh = self.width > 1 and not step.attempts
        heapq.heappush(self._fresh if fresh else self._heap, (moment, step.pk, step))

    def __len__(self) -> int:
        return len(self._heap) + len(self._fresh)

    @property
    def fresh(self) -> int:
        """How many wait that have never been tried."""
        return len(self._fresh)

    def take(self, now: int) -> list[Waiting]:
        """The steps that may be sent now; they count as busy until `done`."""
        taken: list[Waiting] = []
        while self.busy < self._room(now) and now >= self.free_at:
            heap = self._next_heap(now)
            if heap is None:
                break
            step = heapq.heappop(heap)[2]
            self._known.discard(step.pk)
            taken.append(step)
            self.busy += 1
        return taken

    def _room(self, now: int) -> int:
        """How many may be under way: one that tries, while the target is left alone."""
        if not self.breaker.rests:
            return self.width
        return 1 if now >= self._tries_at() else 0

    def _tries_at(self) -> int:
        """When one call may try a target that is left alone: sooner, where one waits that would be too late otherwise."""
        planned = self.breaker.tries_at
        firsts = (heap[0][2] for heap in (self._heap, self._fresh) if heap)
        pressing = any(s.expires is not None and s.expires < planned and not s.attempts for s in firsts)
        return min(planned, self.breaker.failed_at + FIRST_REST) if pressing else planned

    def _next_heap(self, now: int) -> list[tuple[int, int, Waiting]] | None:
        """From where the next is taken: by turns, where there is a backlog of what was tried or has waited long."""
        if self._fresh and self._fresh[0][0] < now - FRESH:
            # What has waited long is backlog like the rest.
            while self._fresh and self._fresh[0][0] < now - FRESH:
                heapq.heappush(self._heap, heapq.heappop(self._fresh))
        ready = [h for h in (self._heap, self._fresh) if h and max(h[0][2].due, h[0][2].next_try) <= now]
        if not ready:
            return None
        self._turn = not self._turn
        return ready[-1] if self._turn else ready[0]

    def done(self, now: int, gap: int, answered: bool) -> None:
        """One that was taken is over. `gap` is what the device wants before the next, in ms."""
        self.busy -= 1
        self.free_at = max(self.free_at, now + gap) if gap else self.free_at
        if answered:
            self.progress = now

    def shift(self, by: int) -> None:
        """The clock was set back by so many ms: what waits goes by the new one, so that nothing comes late by it."""
        for heap in (self._heap, self._fresh):
            heap[:] = [
                (moment - by, pk, replace(
                    s, due=s.due - by, next_try=s.next_try - by, expires=None if s.expires is None else s.expires - by
                ))
                for moment, pk, s in heap
            ]  # fmt: skip
        self.free_at, self.progress = self.free_at - by, self.progress - by
        known = self.breaker
        known.tries_at, known.failed_at = known.tries_at - by, known.failed_at - by
        known.since = None if known.since is None else known.since - by

    def drop_expired(self, now: int) -> list[Waiting]:
        """Take out what is too late to be sent."""
        gone: list[Waiting] = []
        for heap in (self._heap, self._fresh):
            late = [step for _, _, step in heap if self.too_late(step, now)]
            if late:
                lost = {step.pk for step in late}
                heap[:] = [entry for entry in heap if entry[1] not in lost]
                heapq.heapify(heap)
                self._known -= lost
                gone += late
        return gone

    def too_late(self, step: Waiting, now: int) -> bool:
        """Whether a step's moment is over. Its limit counts from its due time; for one that has only stood in line it
        counts from the lane's last answer: our own queueing is no reason to give a call up."""
        if step.expires is None:
            return False
        limit = step.expires
        if self.patient and not step.attempts:
            lifetime = step.expires - step.due
            limit = max(limit, min(self.progress + lifetime, step.due + LONGEST_IN_LINE))
        return limit < now

    def next_moment(self, now: int) -> int | None:
        """When to look again, unless a step is done before; None when nothing waits or the lane is full."""
        firsts = [heap[0][2] for heap in (self._heap, self._fresh) if heap]
        if not firsts or self.busy >= self.width or (self.breaker.rests and self.busy):
            return None
        first = min(max(step.due, step.next_try) for step in firsts)
        return max(first, self.free_at, self._tries_at() if self.breaker.rests else 0, now)
