"""A search over a million records: its first page, with counts and facets, against bare sqlite3 that answers the same questions."""

import os
import random
import sqlite3
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

from bench.report import Result
from dromikon.core.records.entry import Entry
from dromikon.core.records.search import FACETS, Search
from dromikon.records import index

RECORDS, DAYS = 1_000_000, 90
NOW = 1_795_000_000_000
KINDS = ("scene.line_crossed", "door.opened", "button.pressed", "access.granted", "scene.temperature")
NAMES = ("Jetty line", "Vault door", "Service gate", "Wicket", "Boiler flue", "Palm house", "Freezer", "Lodge")
ROWS = 51


def measure() -> Iterator[Result]:
    with tempfile.TemporaryDirectory() as folder:
        os.environ["DROMIKON_DATA"] = folder
        yield from _over(Path(folder))


def _over(folder: Path) -> Iterator[Result]:
    began = time.perf_counter()
    with closing(index.connect()) as opened:
        _fill(opened)
        filled = time.perf_counter() - began
        size = sum(f.stat().st_size for f in folder.iterdir()) / 1e6
        for what, search in (
            ("all of it", Search(last=0)),
            ("a word", Search(last=0, words="vault")),
            ("a word that few have, a kind and a week", Search(words="ab1234", kind=("access.granted",))),
            ("two points", Search(last=0, point=("p1", "p6"))),
        ):
            finder = index.Finder(opened, "s", search, NOW)
            page, rest = _bare(folder / index.FILE, search)
            mine, theirs = _in_turns(lambda finder=finder: finder.page(ROWS), page)
            yield Result(
                f"first page of {what} ({mine * 1000:.1f} ms), against bare sqlite3", mine / theirs, 3.0, "times"
            )
            mine, theirs = _in_turns(lambda finder=finder: (finder.count(), finder.facets()), rest)
            yield Result(
                f"counts and facets of {what} ({mine * 1000:.0f} ms), against bare sqlite3", mine / theirs, 3.0, "times"
            )
    print(f"  taken up in {filled:.0f} s ({RECORDS / filled:,.0f} a second), {size:,.0f} MB")


def _fill(opened: sqlite3.Connection) -> None:
    chance = random.Random(7)
    step = DAYS * 86_400_000 // RECORDS
    for start in range(0, RECORDS, 10_000):
        entries = []
        for i in range(start, start + 10_000):
            point = chance.randrange(len(NAMES))
            plate = f"AB{chance.randrange(10_000)} human {chance.randrange(100)} %"
            made = Entry(
                "s", "event", str(i), NOW - (RECORDS - i) * step, more=plate, area=f"a{point % 3}", point=f"p{point}",
                kind=KINDS[chance.randrange(len(KINDS))], seq=i,
            )  # fmt: skip
            entries.append(made.found_by(NAMES[point]))
        with index.writing(opened):
            index.put(opened, entries)


def _bare(path: Path, search: Search) -> tuple[Callable[[], None], Callable[[], None]]:
    """The same first page, asked by hand as well as it can be; and its counts and facets besides."""
    where, values = ["record.site = 's'"], []
    for name in ("kind", "point"):
        if wanted := search.values(name):
            where.append(f"record.{name} IN ({','.join('?' * len(wanted))})")
            values += wanted
    source, place = "record", "record.id"
    if search.words:
        source, place = "word CROSS JOIN record ON record.id = word.rowid", "word.rowid"
        where.append("word MATCH ?")
        values.append(f'"{search.words}"*')
    fits = f"FROM {source} WHERE {' AND '.join(where)}"
    ordered = f"{fits} ORDER BY {place} DESC LIMIT"
    questions = [
        f"SELECT count(*) FROM (SELECT 1 {fits} LIMIT {index.MOST_COUNTED + 1})",
        *(
            f"SELECT f, count(*) FROM (SELECT record.{name} f {ordered} {index.MOST_FACETED}) GROUP BY f"
            for name in FACETS
        ),
    ]
    opened = sqlite3.connect(path)
    page = lambda: opened.execute(f"SELECT record.* {ordered} {ROWS}", values).fetchall()  # noqa: E731
    rest = lambda: [opened.execute(question, values).fetchall() for question in questions]  # noqa: E731
    return page, rest


def _in_turns(ours: Callable[[], object], bare: Callable[[], object]) -> tuple[float, float]:
    """The best time of each, asked in turns."""
    pairs = [(_timed(ours), _timed(bare)) for _ in range(9)]
    mine, theirs = (min(times) for times in zip(*pairs, strict=True))
    return mine, theirs


def _timed(do: Callable[[], object]) -> float:
    began = time.perf_counter()
    do()
    return time.perf_counter() - began
