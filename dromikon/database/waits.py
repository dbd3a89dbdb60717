"""How long transactions of this process waited for the database's writer."""

from collections import deque
from threading import Lock

#: So many are remembered.
REMEMBERED = 1_000


class Waits:
    """The last waits, in seconds, and the sum of all there were."""

    def __init__(self) -> None:
        self._lock, self._last = Lock(), deque[float](maxlen=REMEMBERED)
        self.count, self.total = 0, 0.0

    def note(self, seconds: float) -> None:
        with self._lock:
            self._last.append(seconds)
            self.count += 1
            self.total += seconds

    def figures(self) -> tuple[float, float, float]:
        """Median, 99th and longest of the last, in ms."""
        with self._lock:
            ordered = sorted(self._last)
        if not ordered:
            return 0.0, 0.0, 0.0
        places = (len(ordered) // 2, min(len(ordered) - 1, int(len(ordered) * 0.99)), len(ordered) - 1)
        median, high, longest = (ordered[place] * 1000 for place in places)
        return median, high, longest


WAITS = Waits()
