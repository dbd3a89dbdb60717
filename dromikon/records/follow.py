"""The index follows what happens: before each search as far as a moment allows, and every minute anyhow. What is new is read off behind
the place that was come to, what may still change is read again, all in one transaction a portion."""

import sqlite3
import time
from collections.abc import Iterator
from contextlib import closing

from dromikon.people.models import AuditEntry
from dromikon.records import index
from dromikon.records.sources import SOURCES
from dromikon.records.sources.base import Names, Source

#: So many rows are taken up in one transaction.
PORTION = 1_000
#: Acts on what is answered, handled or renamed name it so.
CHANGED = {"alarm": "alarm", "bookmark": "bookmark", "note": "note"}


def follow(seconds: float | None = None) -> int:
    """Take up what is new, for about so long, or to the end; how many rows are left. Raises sqlite3.Error."""
    ends = None if seconds is None else time.monotonic() + seconds
    with closing(index.connect()) as opened:
        while left := _portion(opened):
            if ends is not None and time.monotonic() > ends:
                return left
    return 0


def _portion(opened: sqlite3.Connection) -> int:
    """One transaction. How many rows are left, by their numbers."""
    names, left = Names(), 0
    # What is there now is asked before, so that nothing is left out that comes in between.
    ends = [source.end() for source in SOURCES]
    acts = AuditEntry.objects.order_by("-id").values_list("id", flat=True).first() or 0
    with index.writing(opened):
        _changed(opened, acts, names)
        for source, end in zip(SOURCES, ends, strict=True):
            _again(opened, source, names)
            after = index.position(opened, source.sort)
            if after < end:
                entries, come_to = source.fresh(after, end, PORTION, names)
                index.put(opened, entries)
                index.move(opened, source.sort, come_to)
                left += end - come_to
    return left


def _again(opened: sqlite3.Connection, source: Source, names: Names) -> None:
    """What may still change, once more."""
    after = ""
    while refs := index.still_open(opened, source.sort, after, PORTION):
        _put_again(opened, source, refs, names)
        after = refs[-1]


def _changed(opened: sqlite3.Connection, upto: int, names: Names) -> None:
    """What somebody has done something with since: also what was closed."""
    after = index.position(opened, "changed")
    if after == upto:
        return
    subjects = AuditEntry.objects.filter(pk__gt=after, pk__lte=upto).values_list("subject", flat=True)
    touched: dict[str, set[str]] = {}
    for about, _, number in (subject.partition(":") for subject in subjects):
        if about in CHANGED and number.isdigit():
            touched.setdefault(CHANGED[about], set()).add(number)
    for source in SOURCES:
        if refs := touched.get(source.sort):
            _put_again(opened, source, sorted(refs), names)
    index.move(opened, "changed", upto)


def _put_again(opened: sqlite3.Connection, source: Source, refs: list[str], names: Names) -> None:
    """As they are now, those that were taken up already; what is gone is gone."""
    behind = index.position(opened, source.sort)
    known = [ref for ref in refs if int(ref) <= behind]
    entries = source.again(known, names)
    index.put(opened, entries)
    index.drop(opened, source.sort, sorted(set(known) - {entry.ref for entry in entries}))


def forget_gone(before: int) -> Iterator[int]:
    """Drop records older than an instant whose rows are not kept any more, in groups; yields how many each time."""
    with closing(index.connect()) as opened:
        for source in SOURCES:
            beyond = 0
            while found := index.older(opened, source.sort, beyond, before, PORTION):
                beyond = found[-1][0]
                living = source.living([ref for _, ref in found])
                gone = [ref for _, ref in found if ref not in living]
                if gone:
                    with index.writing(opened):
                        index.drop(opened, source.sort, gone)
                    yield len(gone)


def make_anew() -> None:
    """Forget the index, so that it is followed from the beginning: after what stands in the rows was changed."""
    with closing(index.connect()) as opened:
        index.empty(opened)
