"""The index of records: a database file of its own, with a full-text index (SQLite FTS5). A record's id is its moment with a number
behind it, so that whatever goes by id goes by time: pages are read off without sorting, however many records there are."""

import logging
import sqlite3
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from heapq import merge
from itertools import islice

from dromikon import config
from dromikon.core.records.entry import Entry
from dromikon.core.records.search import FACETS, Search
from dromikon.core.records.words import expression

log = logging.getLogger("dromikon.records")

FILE = "records.sqlite3"
#: So many records of one millisecond have a number.
A_MOMENT = 4_096
COLUMNS = (
    "site", "sort", "ref", "title", "more", "area", "point", "kind", "rule", "person", "outcome", "seq", "groups", "open", "words",
)  # fmt: skip
_NAMES, _MARKS, _SET = ", ".join(COLUMNS), ",".join("?" * len(COLUMNS)), ", ".join(f"{name} = ?" for name in COLUMNS)
#: What pages are read off by, in the order of time.
ORDERED = ("sort", "kind", "point", "rule")
SCHEMA = (
    f"CREATE TABLE IF NOT EXISTS record (id INTEGER PRIMARY KEY, {_NAMES})",
    "CREATE UNIQUE INDEX IF NOT EXISTS record_ref ON record (sort, ref)",
    "CREATE INDEX IF NOT EXISTS record_open ON record (sort, ref) WHERE open = 1",
    "CREATE INDEX IF NOT EXISTS record_time ON record (site, id)",
    *(f"CREATE INDEX IF NOT EXISTS record_{name} ON record (site, {name}, id)" for name in ORDERED),
    "CREATE TABLE IF NOT EXISTS position (name TEXT PRIMARY KEY, at INTEGER NOT NULL)",
    "CREATE VIRTUAL TABLE IF NOT EXISTS word USING fts5(words, content='record', content_rowid='id', "
    "tokenize='unicode61 remove_diacritics 2', prefix='2 3')",
    "CREATE TRIGGER IF NOT EXISTS word_new AFTER INSERT ON record BEGIN "
    "INSERT INTO word (rowid, words) VALUES (new.id, new.words); END",
    "CREATE TRIGGER IF NOT EXISTS word_gone AFTER DELETE ON record BEGIN "
    "INSERT INTO word (word, rowid, words) VALUES ('delete', old.id, old.words); END",
    "CREATE TRIGGER IF NOT EXISTS word_other AFTER UPDATE OF words ON record WHEN old.words IS NOT new.words BEGIN "
    "INSERT INTO word (word, rowid, words) VALUES ('delete', old.id, old.words); "
    "INSERT INTO word (rowid, words) VALUES (new.id, new.words); END",
)
#: Another form of the file is made anew.
FORM = 1
#: So many are counted; of more it is said that there are more. Facets are of so many, the nearest to where the list begins.
MOST_COUNTED, MOST_FACETED, MOST_VALUES = 10_000, 20_000, 40


def connect() -> sqlite3.Connection:
    """Open the file, making it when it is new, or anew when it is broken. Raises sqlite3.Error."""
    try:
        return _opened()
    except sqlite3.OperationalError:
        raise
    except sqlite3.DatabaseError as error:
        log.warning("the index of records is broken, and is made anew: %s", error)
        discard()
        return _opened()


def discard() -> None:
    """Take the file away; it is followed from the beginning."""
    for beside in ("", "-wal", "-shm"):
        (config.data() / f"{FILE}{beside}").unlink(missing_ok=True)


def _opened() -> sqlite3.Connection:
    opened = sqlite3.connect(config.data() / FILE, timeout=10, isolation_level=None, check_same_thread=False)
    try:
        opened.execute("PRAGMA journal_mode=WAL")
        # It can be made anew; what is lost in a power cut is followed again.
        opened.execute("PRAGMA synchronous=NORMAL")
        if opened.execute("PRAGMA user_version").fetchone()[0] != FORM:
            _make(opened)
    except BaseException:
        opened.close()
        raise
    return opened


def _make(opened: sqlite3.Connection) -> None:
    with writing(opened):
        # Somebody else may have made it meanwhile.
        if opened.execute("PRAGMA user_version").fetchone()[0] == FORM:
            return
        for name in ("word", "record", "position"):
            opened.execute(f"DROP TABLE IF EXISTS {name}")
        for statement in SCHEMA:
            opened.execute(statement)
        opened.execute(f"PRAGMA user_version={FORM}")


@contextmanager
def writing(opened: sqlite3.Connection) -> Iterator[None]:
    """A transaction that nobody else writes beside."""
    opened.execute("BEGIN IMMEDIATE")
    try:
        yield
    except BaseException:
        opened.execute("ROLLBACK")
        raise
    opened.execute("COMMIT")


# -- written -----------------------------------------------------------------------------------------------------------


def put(opened: sqlite3.Connection, entries: Iterable[Entry]) -> int:
    """Put records in, each in place of what stood under its sort and number. How many."""
    count = 0
    for entry in entries:
        known = opened.execute("SELECT id FROM record WHERE sort = ? AND ref = ?", (entry.sort, entry.ref)).fetchone()
        values = [getattr(entry, name) for name in COLUMNS]
        if known is not None:
            # Most of what is read again is as it was.
            opened.execute(
                f"UPDATE record SET {_SET} WHERE id = ? AND ({_NAMES}) IS NOT ({_MARKS})", [*values, *known, *values]
            )
        else:
            opened.execute(
                f"INSERT INTO record (id, {_NAMES}) VALUES (?, {_MARKS})", [_free(opened, entry.at), *values]
            )
        count += 1
    return count


def _free(opened: sqlite3.Connection, at: int) -> int:
    """The first number of a moment, or of the next, that is not taken."""
    while True:
        first = at * A_MOMENT
        query = "SELECT MAX(id) FROM record WHERE id >= ? AND id < ?"
        last: int | None = opened.execute(query, (first, first + A_MOMENT)).fetchone()[0]
        if last is None or last + 1 < first + A_MOMENT:
            return first if last is None else last + 1
        at += 1


def drop(opened: sqlite3.Connection, sort: str, refs: Sequence[str]) -> None:
    opened.executemany("DELETE FROM record WHERE sort = ? AND ref = ?", [(sort, ref) for ref in refs])


def empty(opened: sqlite3.Connection) -> None:
    """Forget everything; it is followed anew from the beginning."""
    with writing(opened):
        opened.execute("DROP TABLE word")
        opened.execute("DROP TABLE record")
        opened.execute("DELETE FROM position")
        for statement in SCHEMA:
            opened.execute(statement)


def position(opened: sqlite3.Connection, name: str) -> int:
    """How far something was followed."""
    found = opened.execute("SELECT at FROM position WHERE name = ?", (name,)).fetchone()
    return int(found[0]) if found else 0


def move(opened: sqlite3.Connection, name: str, at: int) -> None:
    opened.execute(
        "INSERT INTO position (name, at) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET at = excluded.at", (name, at)
    )


def still_open(opened: sqlite3.Connection, sort: str, after: str, limit: int) -> list[str]:
    """The numbers of records of a sort that may still change, in order."""
    query = "SELECT ref FROM record WHERE open = 1 AND sort = ? AND ref > ? ORDER BY ref LIMIT ?"
    return [ref for (ref,) in opened.execute(query, (sort, after, limit))]


def older(opened: sqlite3.Connection, sort: str, beyond: int, before: int, limit: int) -> list[tuple[int, str]]:
    """Records of a sort behind an id and older than an instant, in order: id and number."""
    query = "SELECT id, ref FROM record WHERE id > ? AND id < ? AND +sort = ? ORDER BY id LIMIT ?"
    return opened.execute(query, (beyond, before * A_MOMENT, sort, limit)).fetchall()


# -- searched ----------------------------------------------------------------------------------------------------------


class Finder:
    """Records of a site that fit a search and that somebody may see. `seen`: a condition in SQL with its values."""

    def __init__(
        self,
        opened: sqlite3.Connection,
        site: str,
        search: Search,
        now: int,
        seen: tuple[str, Sequence[str]] = ("1", ()),
    ) -> None:
        self.opened, self.site, self.search, self.seen = opened, site, search, seen
        start, end = search.stretch(now)
        self.first, self.last = start * A_MOMENT, end * A_MOMENT
        self.match = expression(search.words)
        self.way = "DESC" if search.order == "newest" else "ASC"

    def page(self, limit: int, beyond: int | None = None) -> list[sqlite3.Row]:
        """The first `limit` records, or those that follow the one with the id `beyond`."""
        newest = self.search.order == "newest"
        first = self.first if beyond is None or newest else beyond + 1
        last = self.last if beyond is None or not newest else min(beyond, self.last)
        runs = [self._rows(f"record.id, {_named(COLUMNS)}", limit, first, last, *one) for one in self._driven()]
        return list(islice(merge(*runs, key=lambda row: row["id"], reverse=newest), limit))

    def count(self) -> int:
        """How many there are; one more than `MOST_COUNTED` means: more than that."""
        total = 0
        for one in self._driven():
            total += sum(1 for _ in self._rows("1", MOST_COUNTED + 1 - total, self.first, self.last, *one))
        return total

    def facets(self) -> dict[str, list[tuple[str, int]]]:
        """For each facet its values with how many records have them, the most frequent first: as if nothing were chosen of that facet
        itself, and of the first `MOST_FACETED` records."""
        chosen = [name for name in FACETS if self.search.values(name)]
        free = [name for name in FACETS if name not in chosen]
        found = dict(zip(free, self._counted(free), strict=True))
        for name in chosen:
            without = Finder(self.opened, self.site, self.search.model_copy(update={name: ()}), 0, self.seen)
            without.first, without.last = self.first, self.last
            (found[name],) = without._counted([name])
        return {name: _most(found[name], self.search.values(name)) for name in FACETS}

    def _counted(self, names: Sequence[str]) -> list[Counter[str]]:
        counters: list[Counter[str]] = [Counter() for _ in names]
        for one in self._driven():
            for row in self._rows(_named(names) or "1", MOST_FACETED, self.first, self.last, *one):
                for counter, value in zip(counters, row, strict=False):
                    counter[value] += 1
        return counters

    def _driven(self) -> list[tuple[str, str]]:
        """The facet, and each of its values, by which records are read off in order; none where words lead."""
        if self.match is None:
            name = next((n for n in reversed(ORDERED) if self.search.values(n)), None)
            if name is not None:
                return [(name, value) for value in self.search.values(name)]
        return [("", "")]

    def _rows(self, columns: str, limit: int, first: int, last: int, driving: str, value: str) -> Iterator[sqlite3.Row]:
        where, values = ["record.site = ?"], [self.site]
        if driving:
            where.append(f"record.{driving} = ?")
            values.append(value)
        for name in FACETS:
            if name != driving and (wanted := self.search.values(name)):
                # The plus keeps the planner from leaving the order of time.
                where.append(f"+record.{name} IN ({','.join('?' * len(wanted))})")
                values += wanted
        where.append(self.seen[0])
        values += self.seen[1]
        place = "record.id"
        source = "record"
        if self.match is not None:
            source, place = "word CROSS JOIN record ON record.id = word.rowid", "word.rowid"
            where.append("word MATCH ?")
            values.append(self.match)
        query = (
            f"SELECT {columns} FROM {source} WHERE {' AND '.join(where)} AND {place} >= ? AND {place} < ? "
            f"ORDER BY {place} {self.way} LIMIT ?"
        )
        cursor = self.opened.cursor()
        cursor.row_factory = sqlite3.Row
        return cursor.execute(query, (*values, first, last, limit))


def _named(names: Sequence[str]) -> str:
    return ", ".join(f"record.{name}" for name in names)


def _most(counter: Counter[str], chosen: Sequence[str]) -> list[tuple[str, int]]:
    """The most frequent values, and those that are chosen even where nothing has them."""
    found = [(value, count) for value, count in counter.most_common(MOST_VALUES) if value]
    return found + [(value, counter[value]) for value in chosen if value not in dict(found)]


def at_of(id: int) -> int:
    """The moment of a record (ms UTC)."""
    return id // A_MOMENT
