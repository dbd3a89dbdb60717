"""Which readings are events: those that differ enough from the last that was one, and one at least every so often."""

from dataclasses import dataclass

#: An instant in ms, and what was read then.
Last = tuple[int, float]


@dataclass(frozen=True, slots=True)
class Thinning:
    """`deadband`: a value that differs by less from the last that was told tells nothing new. `every`: one is told at least so
    often all the same, in s; 0: only when it differs."""

    deadband: float = 0.0
    every: float = 0.0

    def lets(self, last: Last | None, at: int, value: float) -> bool:
        """Whether a reading is told."""
        if last is None or not self.deadband:
            return True
        since, before = last
        return abs(value - before) >= self.deadband or (self.every > 0 and at - since >= self.every * 1000)
