"""What became of what was sent to intakes: counted by day and outcome, and who guesses is told from who sends."""

import asyncio
import contextlib
import time
from collections import defaultdict, deque
from collections.abc import Callable

from asgiref.sync import sync_to_async
from django.db import OperationalError, connection, transaction
from django.db.models import F

from dromikon.database import writer
from dromikon.sources.models import Intake, IntakeCount

#: So many wrong proofs within a minute from one address, and it is turned away.
MOST_FAILURES, MINUTE, MOST_CALLERS = 20, 60.0, 10_000
DAY = 86_400_000
#: Counts are written together at most so often, in seconds.
PAUSE = 0.5
#: What an intake is sent at once is at most so many seconds' worth.
BURST = 10


class Failures:
    """Wrong proofs by the address that they came from, within a minute."""

    def __init__(self) -> None:
        self._moments: dict[str, deque[float]] = {}

    def note(self, caller: str) -> bool:
        """Count a failure. Whether it is worth a line in the log: the first of an address, and the one too many."""
        now = time.monotonic()
        if len(self._moments) > MOST_CALLERS:
            self._moments = {c: m for c, m in self._moments.items() if m[-1] > now - MINUTE}
        known = self._moments.setdefault(caller, deque(maxlen=MOST_FAILURES))
        known.append(now)
        return len(known) in (1, MOST_FAILURES)

    def too_many(self, caller: str) -> bool:
        known = self._moments.get(caller)
        return known is not None and len(known) == MOST_FAILURES and known[0] > time.monotonic() - MINUTE


class Flows:
    """How much each intake is sent: so many messages a second in the long run, and ten seconds' worth at once. What is more waits
    with its sender, so that a flood at one intake holds up no other."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._left: dict[str, tuple[float, float]] = {}

    def lets(self, intake: str, rate: int) -> bool:
        """Whether one more is taken; it counts."""
        now = self._clock()
        left, since = self._left.get(intake, (rate * BURST, now))
        left = min(rate * BURST, left + (now - since) * rate)
        self._left[intake] = (left - 1 if left >= 1 else left, now)
        return left >= 1


class Counts:
    """Counts outcomes of intakes, where their pages show them. Nobody waits for it: what has gathered is written at once. What
    cannot be written is in the log all the same, or in the inbox."""

    def __init__(self) -> None:
        self._gathered: dict[tuple[str, str, int], list[int]] = defaultdict(lambda: [0, 0])
        self._writing: asyncio.Task[None] | None = None

    def note(self, intake: str, outcome: str, at: int) -> None:
        """One more; for an intake that is there."""
        found = self._gathered[intake, outcome, at // DAY]
        found[0], found[1] = found[0] + 1, at
        if self._writing is None or self._writing.done():
            self._writing = asyncio.get_running_loop().create_task(self._write())

    async def _write(self) -> None:
        while self._gathered:
            gathered, self._gathered = dict(self._gathered), defaultdict(lambda: [0, 0])
            # In a thread of its own: whoever is known must not wait behind somebody who is not.
            await sync_to_async(write_counts, thread_sensitive=False)(gathered)
            await asyncio.sleep(PAUSE)


def write_counts(gathered: dict[tuple[str, str, int], list[int]]) -> None:
    """Add to what is counted."""
    try:
        with contextlib.suppress(OperationalError), writer.turn(), transaction.atomic():
            there = set(Intake.objects.filter(id__in={i for i, _, _ in gathered}).values_list("id", flat=True))
            for (intake, outcome, day), (count, at) in gathered.items():
                if intake in there:
                    kept = IntakeCount.objects.filter(intake_id=intake, outcome=outcome, day=day)
                    if not kept.update(count=F("count") + count, last_at=at):
                        IntakeCount.objects.create(intake_id=intake, outcome=outcome, day=day, count=count, last_at=at)
    finally:
        connection.close()
