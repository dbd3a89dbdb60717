"""What waits to be copied into a case is copied at once."""

from dromikon.cases.fetching import fetch, waiting
from dromikon.clock import now_ms


def cases_every() -> int | None:
    """At once while something waits."""
    return 1 if waiting(now_ms()).exists() else None


def fetch_pieces() -> str:
    return fetch(now_ms())
