"""The shapes of the evaluator's rows, by key. They are stored as JSON, and read back after a restart or update (`upgrade`).

Those of causes are the business of each cause; the others are here. A row with `due` is woken at that moment.
"""

from typing import Any, NotRequired, TypedDict

from dromikon.core.instants import Instant


class Told(TypedDict):
    """``<kind>@<point>``: the last told state of a point."""

    on: bool


class Came(TypedDict):
    """``last|<kind>@<point>``: when a kind came last, as [instant, place in the journal]."""

    came: list[list[int]]


class ModeNow(TypedDict):
    """``mode``: the site's mode; where it has an end, when it is `due` and which comes `then`."""

    mode: str
    due: NotRequired[Instant]
    then: NotRequired[str]


class CounterNow(TypedDict):
    """``counter|<id>``: where a counter stands."""

    value: int


class Clock(TypedDict):
    """``clock``: when the clock sets the rule off next."""

    due: Instant


class Quiet(TypedDict):
    """``hold|<join key>``: a hold-off. `at`: the moments of recent firings. `run`: the last run that was let through.
    `more`, `point`, `since`: how many firings were kept back to be summed up, where the last was, and since when."""

    at: list[Instant]
    due: NotRequired[Instant]
    run: NotRequired[str]
    more: NotRequired[int]
    point: NotRequired[str]
    since: NotRequired[Instant]


class JoinedTo(TypedDict):
    """``joined|<run>``: the key of the hold-off whose repeats are joined to a run's alarm."""

    hold: str


class Refs(TypedDict):
    """``again|<point>``: runs that a repeat of the cause may meet. ``ends|<kind>@<point>``: those that end with a state."""

    runs: list[str]


class Pending(TypedDict):
    """A step still to come. `step` is its place in the response, `part` tells its repeats apart."""

    step: int
    do: str
    anchor: str
    due: Instant
    part: int


class HeldOutput(TypedDict):
    """An output that is held. `until`: None while a state lasts. `let_go`: what undoes it; missing: it is switched off."""

    step: int
    do: str
    target: str
    part: int
    until: Instant | None
    let_go: NotRequired[dict[str, Any]]


class Going(TypedDict):
    """``run|<run>``: a run that goes on. `state`: the state whose end it waits for. `listed`: the list entry that was
    found. `forget`: when an answer is no longer waited for. `asked`: an alarm has been raised; `answered`: answered."""

    event: dict[str, Any]
    state: str | None
    pending: list[Pending]
    held: list[HeldOutput]
    listed: str
    due: NotRequired[Instant | None]
    forget: NotRequired[Instant | None]
    asked: NotRequired[bool]
    answered: NotRequired[bool]
