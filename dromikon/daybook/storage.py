"""The SQL that is written by hand: what the engine and the deliverers write for each event, in groups.

Django's own inserts cost several times what the database does; everything else goes through the ORM. Call inside a
transaction of Django's: these statements share its connection.
"""

import json
import sqlite3
from collections.abc import Callable, Iterable, Sequence
from functools import cached_property
from operator import attrgetter
from typing import Any, NamedTuple

from django.db import connection, models

from dromikon.core.rules.actions.base import Delivery
from dromikon.daybook.feed import News
from dromikon.daybook.models import (
    ActRow,
    CountRow,
    EnginePosition,
    EvaluatorRow,
    EventRow,
    Feed,
    Journal,
    LineRow,
    RunRow,
    Step,
    TallyRow,
    VerdictRow,
)

Row = Sequence[Any]


def dumps(value: Any) -> str | None:
    """A value as a JSON column keeps it. Text outside ASCII stays as it is, as in the columns that the ORM writes."""
    return None if value is None else json.dumps(value, separators=(", ", ": "))


# Names of tables and columns come from the models, values are bound: nothing here is put together from outside.
# ruff: noqa: S608


#: What makes a field's value of what the database gives.
_READ: dict[type[Any], Callable[[Any], Any]] = {models.JSONField: json.loads, models.BooleanField: bool}


class Table:
    """Rows of one model, written by one prepared statement. Columns are all but the automatic key, in the order of the
    model's fields; JSON is given as text (`dumps`)."""

    def __init__(self, model: type[models.Model], conflict: str = "") -> None:
        self.model, self._conflict = model, conflict

    @cached_property
    def fields(self) -> tuple[str, ...]:
        return tuple(f.attname for f in self.model._meta.concrete_fields if not isinstance(f, models.AutoField))

    @cached_property
    def _sql(self) -> str:
        columns = ", ".join(f'"{name}"' for name in self.fields)
        places = ", ".join("?" * len(self.fields))
        return f'INSERT INTO "{self.model._meta.db_table}" ({columns}) VALUES ({places}) {self._conflict}'

    @cached_property
    def _of(self) -> Callable[[models.Model], Row]:
        json_fields = {f.attname for f in self.model._meta.concrete_fields if isinstance(f, models.JSONField)}
        places = [i for i, name in enumerate(self.fields) if name in json_fields]
        values = attrgetter(*self.fields)

        def row(instance: models.Model) -> Row:
            found = list(values(instance))
            for place in places:
                found[place] = dumps(found[place])
            return found

        return row

    @cached_property
    def _columns(self) -> tuple[tuple[str, Callable[[Any], Any] | None], ...]:
        """Each column with what makes its value of what the database gives; None when it is that already."""
        return tuple((f.attname, _READ.get(type(f))) for f in self.model._meta.concrete_fields)

    def returning(self, sql: str, values: Row) -> list[Any]:
        """Rows that a statement touches, as instances."""
        names = [name for name, _ in self._columns]
        wanted = ", ".join(f'"{name}"' for name in names)
        rows = query(f"{sql} RETURNING {wanted}", values)
        return [self.model.from_db(None, names, self._read(row)) for row in rows]

    def _read(self, row: Row) -> list[Any]:
        return [
            value if made is None or value is None else made(value)
            for (_, made), value in zip(self._columns, row, strict=True)
        ]

    def insert(self, rows: Iterable[Row]) -> None:
        """Write rows."""
        execute_many(self._sql, rows)

    def insert_models(self, instances: Iterable[models.Model]) -> None:
        """Write rows that are model instances already. Their keys are not read back."""
        self.insert(map(self._of, instances))


JOURNAL, EVENTS, VERDICTS, RUNS, LINES, FEED = map(Table, (Journal, EventRow, VerdictRow, RunRow, LineRow, Feed))
STEPS = Table(Step, "ON CONFLICT DO NOTHING")
STATE = Table(
    EvaluatorRow,
    'ON CONFLICT ("site", "rule", "key") DO UPDATE SET "format" = excluded."format", "row" = excluded."row"',
)

TALLY = Table(
    TallyRow,
    'ON CONFLICT ("site", "point", "kind", "day") DO UPDATE SET "count" = "count" + excluded."count", '
    '"last_at" = MAX("last_at", excluded."last_at")',
)

COUNTS = Table(
    CountRow,
    'ON CONFLICT ("site", "counter", "start") DO UPDATE SET "came" = "came" + excluded."came", '
    '"went" = "went" + excluded."went", "most" = COALESCE(MAX("most", excluded."most"), "most", excluded."most"), '
    '"stands" = COALESCE(excluded."stands", "stands")',
)


def feed_row(news: News) -> Row:
    """A message to pages as a row."""
    groups = None if news.groups is None else list(news.groups)
    return news.site, news.topic, news.subject, dumps(groups), dumps(dict(news.data)), news.at


def execute_many(sql: str, rows: Iterable[Row]) -> None:
    """One statement for many rows."""
    with connection.wrap_database_errors:
        _bare().executemany(sql, rows)


def query(sql: str, values: Row = ()) -> list[tuple[Any, ...]]:
    """Rows of a statement."""
    with connection.wrap_database_errors:
        return _bare().execute(sql, values).fetchall()


def _bare() -> sqlite3.Connection:
    connection.ensure_connection()
    bare: sqlite3.Connection = connection.connection
    return bare


def delete_state(keys: Iterable[Row]) -> None:
    """Delete evaluator rows by site, rule and key."""
    table = EvaluatorRow._meta.db_table
    execute_many(f'DELETE FROM "{table}" WHERE "site" = ? AND "rule" = ? AND "key" = ?', keys)


def some_act_after(position: int) -> bool:
    """Whether an act waits behind a place."""
    return bool(query(f'SELECT 1 FROM "{ActRow._meta.db_table}" WHERE "id" > ? LIMIT 1', (position,)))


def move_position(before: tuple[int, int, int], after: tuple[int, int, int, int, int]) -> bool:
    """Move the engine's position (inbox, act, seq) by compare-and-set; `after` has time and delay besides. Whether it
    stood where we thought."""
    sql = (
        f'UPDATE "{EnginePosition._meta.db_table}" SET "inbox" = ?, "act" = ?, "seq" = ?, "at" = ?, "delay_ms" = ? '
        'WHERE "id" = 1 AND "inbox" = ? AND "act" = ? AND "seq" = ?'
    )
    with connection.wrap_database_errors:
        return _bare().execute(sql, (*after, *before)).rowcount == 1


def claim_steps(pks: Sequence[int], now: int) -> list[Step]:
    """Mark steps as being sent, those that still wait. Returns them."""
    sql = (
        f'UPDATE "{Step._meta.db_table}" SET "status" = \'sending\', "attempts" = "attempts" + 1, "sent_at" = ? '
        f'WHERE "id" IN ({", ".join("?" * len(pks))}) AND "status" = \'due\''
    )
    return STEPS.returning(sql, (now, *pks))


class WaitingRow(NamedTuple):
    """What a deliverer must know of a step before its turn comes."""

    id: int
    lane: str
    due: int
    next_try: int | None
    expires: int | None
    attempts: int
    delivery: str
    action: str


_WAITING = (
    f'SELECT {", ".join(WaitingRow._fields)} FROM "{Step._meta.db_table}" '
    f"WHERE \"status\" = 'due' AND \"delivery\" <> '{Delivery.INSIDE}'"
)


def waiting_steps(after: int, most: int) -> tuple[list[WaitingRow], int]:
    """The outbox behind a key, in the order of keys; and the key of the last row that was looked at. Rows are made one
    transaction after another, so keys grow."""
    newest = int(query(f'SELECT COALESCE(MAX("id"), 0) FROM "{Step._meta.db_table}"')[0][0])
    if newest <= after:
        return [], after
    rows = query(f'{_WAITING} AND "id" > ? AND "id" <= ? ORDER BY "id" LIMIT ?', (after, newest, most))
    found = [WaitingRow(*row) for row in rows]
    return found, found[-1].id if len(found) == most else newest


def waiting_in_lane(lane: str, most: int) -> list[WaitingRow]:
    """What waits in one lane, the first first."""
    return [WaitingRow(*row) for row in query(f'{_WAITING} AND "lane" = ? ORDER BY "due", "id" LIMIT ?', (lane, most))]


def waiting_by_key(keys: Sequence[int]) -> list[WaitingRow]:
    """Some steps by their keys, as far as they wait."""
    marks = ", ".join("?" * len(keys))
    return [WaitingRow(*row) for row in query(f'{_WAITING} AND "id" IN ({marks}) ORDER BY "due", "id"', tuple(keys))]


def settle_steps(steps: Iterable[Step]) -> None:
    """Write what became of steps after an attempt."""
    sql = f'UPDATE "{Step._meta.db_table}" SET "status" = ?, "answer" = ?, "next_try" = ?, "done_at" = ? WHERE "id" = ?'
    execute_many(sql, [(str(s.status), s.answer, s.next_try, s.done_at, s.pk) for s in steps])
