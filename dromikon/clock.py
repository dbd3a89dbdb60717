"""The wall clock, in one place."""

import time
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_moment: ContextVar[int | None] = ContextVar("moment", default=None)


def now_ms() -> int:
    """The present, in ms UTC; or the instant that `as_of` says."""
    moment = _moment.get()
    return time.time_ns() // 1_000_000 if moment is None else moment


@contextmanager
def as_of(instant: int) -> Iterator[None]:
    """What is done inside is done at an instant: how a past is set up that was never lived."""
    token = _moment.set(instant)
    try:
        yield
    finally:
        _moment.reset(token)
