"""Lanes: which step may go out next. Pure bookkeeping: no sockets, no database, time is an argument (ms UTC).

A lane of width one keeps order: its first step goes before all others, and while that one pauses between two attempts
the others wait. A wider lane takes several at a time, in the order in which they are due, and a step that pauses holds up
nobody.
"""

import heapq
from dataclasses import dataclass, field

#: A call may wait behind others of its lane at most this long, in ms, however well the lane gets on.
LONGEST_IN_LINE = 60_000


@dataclass(slots=True)
class Waiting:
    """A step that is to be sent. `expires` is None for releases. `attempts` counts those that failed."""

    pk: int
    lane: str
    due: int
    next_try: int
    expires: int | None
    attempts: int = 0


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
    _heap: list[tuple[int, int, Waiting]] = field(default_factory=list)

    def add(self, step: Waiting) -> None:
        heapq.heappush(self._heap, (step.due if self.width == 1 else step.next_try, step.pk, step))

    def __len__(self) -> int:
        return len(self._heap)

    def take(self, now: int) -> list[Waiting]:
        """The steps that may be sent now; they count as busy until `done`."""
        taken: list[Waiting] = []
        while self._heap and self.busy < self.width and now >= self.free_at:
            step = self._heap[0][2]
            if max(step.due, step.next_try) > now:
                break
            heapq.heappop(self._heap)
            taken.append(step)
            self.busy += 1
        return taken

    def done(self, now: int, gap: int, answered: bool) -> None:
        """One that was taken is over. `gap` is what the device wants before the next, in ms."""
        self.busy -= 1
        self.free_at = max(self.free_at, now + gap) if gap else self.free_at
        if answered:
            self.progress = now

    def drop_expired(self, now: int) -> list[Waiting]:
        """Take out what is too late to be sent."""
        gone = [step for _, _, step in self._heap if self.too_late(step, now)]
        if gone:
            lost = {step.pk for step in gone}
            self._heap = [entry for entry in self._heap if entry[1] not in lost]
            heapq.heapify(self._heap)
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
        if not self._heap or self.busy >= self.width:
            return None
        step = self._heap[0][2]
        return max(step.due, step.next_try, self.free_at, now)
