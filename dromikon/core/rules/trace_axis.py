"""The time axis of traces: zero on the left, seconds near it wide, hours behind it narrow; always the same, so that traces
can be read beside one another."""

from math import log1p

#: What has its own tick, in seconds.
TICKS = (1, 10, 60, 600, 3600, 28_800)
#: Within so many seconds the axis is nearly even.
NEAR = 2.0


def place(seconds: float, reach: float) -> float:
    """Where a moment after zero stands, as a share of the axis from 0 to 1. `reach`: the last moment that is shown."""
    if reach <= 0:
        return 0.0
    return min(1.0, log1p(max(0.0, seconds) / NEAR) / log1p(reach / NEAR))


def reach_of(moments: list[float]) -> float:
    """The end of an axis on which some moments, in seconds after zero, can all be read: the next tick behind the last."""
    last = max(moments, default=0.0)
    return (
        float(next((tick for tick in TICKS if tick >= last * 1.2), last * 1.2 or TICKS[0])) if last else float(TICKS[1])
    )


def ticks(reach: float) -> list[tuple[int, float]]:
    """The ticks within a reach, in seconds, and where they stand."""
    return [(tick, place(tick, reach)) for tick in TICKS if tick <= reach]
