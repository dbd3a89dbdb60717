"""The evaluator's memory: rows of JSON keyed by (rule, key), so that a change touches one row.

* ``hold|<join key>``: a hold-off, with the moments of recent firings
* ``joined|<run>``: the hold-off whose repeats are joined to a run's alarm
* ``run|<run>``: a run with steps still pending or outputs held
* ``again|<point>``: the runs that a repeat of the cause at a point may meet
* ``ends|<kind>@<point>``: the runs that end when a state does
* ``test|<run>``: a run that a person tests with, whose state ends by itself
* ``clock``: when the clock sets the rule off next
* keys of causes (``lasting|<point>``)
* rule ``""``: ``<kind>@<point>`` the last told state of a point, ``last|<kind>@<point>`` when a kind last came,
  ``mode`` (with `due` and `then` where it has an end), ``counter|<id>`` and ``pause|<rule>|<camera>``: a rule that is
  paused there

A row with `due` is woken at that moment.
"""

import heapq
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from dromikon.core.instants import Instant
from dromikon.core.rules.causes.base import Memory

#: A row, whose shape goes by its key (`rows`).
Row = Mapping[str, Any]
RowKey = tuple[str, str]

#: Version of the row format; rows of another version are not read.
STATE_FORMAT = 3
#: The most subjects (plates, persons, points …) that one rule remembers at a time, for causes and hold-off together.
CAP = 10_000
FORGOTTEN = "forgotten"
_KEPT = ("run|", "ends|", "again|", "joined|", "test|", "clock", FORGOTTEN)


class State:
    """Rows, what changed in them since last asked, and when the next one is due."""

    def __init__(self, rows: Iterable[tuple[RowKey, Row]] = ()) -> None:
        self.rules: dict[str, dict[str, Row]] = {}
        self._changed: set[RowKey] = set()
        self._due: list[tuple[Instant, str, str]] = []
        self._rebuild_at = 4096
        for (rule, key), row in rows:
            self.put(rule, key, row)
        self._changed.clear()

    def put(self, rule: str, key: str, row: Row) -> None:
        rows = self.rules.get(rule)
        if rows is None:
            rows = self.rules[rule] = {}
        rows[key] = row
        self._changed.add((rule, key))
        due = row.get("due")
        if due is not None:
            heapq.heappush(self._due, (due, rule, key))
            if len(self._due) > self._rebuild_at:
                self._rebuild()

    def remember(self, rule: str, key: str, row: Row) -> None:
        """Keep a row of one of many subjects; the oldest is forgotten, and counted, when there are too many."""
        rows = self.rules.get(rule)
        if rows is not None and len(rows) >= CAP and key not in rows:
            oldest = next((k for k in rows if not k.startswith(_KEPT)), None)
            if oldest is not None:
                self.drop(rule, oldest)
            count = rows.get(FORGOTTEN, {"count": 0})["count"]
            self.put(rule, FORGOTTEN, {"count": count + 1})
        self.put(rule, key, row)

    def get(self, rule: str, key: str) -> Row | None:
        rows = self.rules.get(rule)
        return rows.get(key) if rows is not None else None

    def drop(self, rule: str, key: str) -> Row | None:
        rows = self.rules.get(rule)
        row = rows.pop(key, None) if rows else None
        if row is not None:
            self._changed.add((rule, key))
        return row

    def forgotten(self, rule: str) -> int:
        """How many subjects a rule had to forget early."""
        return int((self.get(rule, FORGOTTEN) or {"count": 0})["count"])

    def next_due(self) -> Instant | None:
        waiting = self._due
        while waiting:
            due, rule, key = waiting[0]
            row = self.get(rule, key)
            if row is not None and row.get("due") == due:
                return due
            heapq.heappop(waiting)
        return None

    def something_due(self, at: Instant) -> bool:
        """Whether a row may be due by an instant; cheap, and sometimes wrongly yes."""
        return bool(self._due) and self._due[0][0] <= at

    def pop_due(self, at: Instant) -> RowKey | None:
        """Take the next row that is due by `at` off the clock (the row itself stays)."""
        due = self.next_due()
        if due is None or due > at:
            return None
        _, rule, key = heapq.heappop(self._due)
        return rule, key

    def take_changes(self) -> dict[RowKey, Row | None]:
        """Rows changed since the last call; None for those that are gone."""
        changes = {(rule, key): self.get(rule, key) for rule, key in self._changed}
        self._changed.clear()
        return changes

    def all_rows(self) -> Iterator[tuple[RowKey, Row]]:
        for rule, rows in self.rules.items():
            for key, row in rows.items():
                yield (rule, key), row

    def _rebuild(self) -> None:
        """Leave out moments that rows were moved away from: a row that is put often would fill the clock."""
        self._due = [(row["due"], rule, key) for (rule, key), row in self.all_rows() if row.get("due") is not None]
        heapq.heapify(self._due)
        self._rebuild_at = max(4096, 4 * len(self._due))


class RuleMemory(Memory):
    """One rule's view of the state."""

    def __init__(self, state: State, rule: str) -> None:
        self._state, self._rule = state, rule

    def __getitem__(self, key: str) -> Row:
        row = self._state.get(self._rule, key)
        if row is None:
            raise KeyError(key)
        return row

    def get(self, key: str, default: Any = None) -> Any:
        row = self._state.get(self._rule, key)
        return default if row is None else row

    def __setitem__(self, key: str, row: Row) -> None:
        self._state.put(self._rule, key, row)

    def __delitem__(self, key: str) -> None:
        if self._state.drop(self._rule, key) is None:
            raise KeyError(key)

    def __iter__(self) -> Iterator[str]:
        return iter(list(self._state.rules.get(self._rule, {})))

    def __len__(self) -> int:
        return len(self._state.rules.get(self._rule, {}))

    def remember(self, key: str, row: Row) -> None:
        self._state.remember(self._rule, key, row)
