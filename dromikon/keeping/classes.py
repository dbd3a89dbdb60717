"""The classes of what is kept: how the oldest group of each is forgotten, and how much of it there is.

Bare SQL, since it goes over millions of rows. Each group is one short transaction, in line with the engine and the
deliveries; files go after the rows that name them, so that a row never names a file that is not there any more.
"""

import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import dataclass
from typing import Any

from django.db import connection, transaction

from dromikon import config
from dromikon.archive.stills import forget_stills
from dromikon.clock import now_ms
from dromikon.core.kinds import KINDS, PERSONAL
from dromikon.core.words import N_
from dromikon.database import writer
from dromikon.daybook.tally import KEPT as KEPT_TALLIES
from dromikon.daybook.tally import day_of
from dromikon.intake import inbox
from dromikon.keeping.contents import named
from dromikon.keeping.policy import Keeping
from dromikon.people.audit import forget_before
from dromikon.scene import store

#: So many rows are forgotten in one transaction.
GROUP = 300
#: Of each site so many messages that nobody understood are kept.
MOST_UNCLAIMED = 20_000
#: What is put where a still was.
GONE = "It was past keeping."
_NOT_HELD = (
    "NOT EXISTS (SELECT 1 FROM keeping_hold h WHERE h.site_id = {site} AND h.lifted_at IS NULL "
    "AND (h.until IS NULL OR h.until > %s) AND {moment} BETWEEN h.start AND h.end)"
)


@dataclass(frozen=True, slots=True)
class Kept:
    """One class: `forget` deletes what is older than an instant, group by group, and yields how much each time; `amount`
    says how many there are, and of when the oldest is."""

    name: str
    label: str
    days: Callable[[Keeping], int]
    forget: Callable[[int], Iterator[int]]
    amount: Callable[[], tuple[int, int | None]]
    #: It goes before its time when the disk is short of room.
    for_room: bool = False


def _rows(sql: str, *values: Any) -> list[tuple[Any, ...]]:
    with connection.cursor() as cursor:
        cursor.execute(sql, values)
        found: list[tuple[Any, ...]] = cursor.fetchall()
    return found


def _do(*statements: tuple[str, list[Any]]) -> None:
    """Statements of one transaction; each has one place, {marks}, for as many values as it is given."""
    with writer.turn(), transaction.atomic():
        for sql, values in statements:
            _write(sql, values)


def _write(sql: str, values: list[Any]) -> None:
    if values:
        with connection.cursor() as cursor:
            cursor.execute(sql.format(marks=",".join(["%s"] * len(values))), values)


def _sites() -> list[str]:
    return [id for (id,) in _rows("SELECT id FROM sites_site")]


def _amount(table: str, moment: str, where: str = "1") -> Callable[[], tuple[int, int | None]]:
    def ask() -> tuple[int, int | None]:
        (count, oldest) = _rows(f"SELECT COUNT(*), MIN({moment}) FROM {table} WHERE {where}")[0]
        return count, oldest

    return ask


# -- messages ----------------------------------------------------------------------------------------------------------


def _messages(before: int) -> Iterator[int]:
    """What the engine has worked off, from the inbox; and what nobody understood."""
    ((position,),) = _rows("SELECT COALESCE(MAX(inbox), 0) FROM daybook_engineposition")
    with closing(inbox.connect(config.inbox_path())) as opened:
        while count := inbox.prune(opened, position, before, GROUP):
            yield count
    yield from _simple("sources_unclaimed", "inbox", "at", "site_id")(before)
    yield from _crowd()
    yield from _simple("sources_search", "id", "began_at", "site_id")(before)


def _crowd() -> Iterator[int]:
    """Of what nobody understood, each site keeps so much, the newest: a sender that says the same for ever fills nothing."""
    for site in _sites():
        newest = "SELECT inbox FROM sources_unclaimed WHERE site_id = %s ORDER BY inbox DESC LIMIT %s OFFSET %s"
        while rows := _rows(newest, site, GROUP, MOST_UNCLAIMED):
            _do(("DELETE FROM sources_unclaimed WHERE inbox IN ({marks})", [id for (id,) in rows]))
            yield len(rows)


def _messages_amount() -> tuple[int, int | None]:
    try:
        with closing(sqlite3.connect(f"file:{config.inbox_path()}?mode=ro", uri=True, timeout=5)) as opened:
            count, oldest = opened.execute("SELECT COUNT(*), MIN(received_at) FROM message").fetchone()
    except sqlite3.Error:
        return 0, None
    return count, oldest


# -- what cameras saw ---------------------------------------------------------------------------------------------------


def _scenes(before: int) -> Iterator[int]:
    query = (
        'SELECT p.id, h.start, h."end" FROM keeping_hold h JOIN sources_point p ON p.site_id = h.site_id '
        "WHERE p.kind = 'camera' AND h.lifted_at IS NULL AND (h.until IS NULL OR h.until > %s)"
    )
    yield from store.forget_before(before, [(camera, start, end) for camera, start, end in _rows(query, now_ms())])


# -- events ------------------------------------------------------------------------------------------------------------


def _events(readings: bool) -> Callable[[int], Iterator[int]]:
    """Events (or readings) with what each rule made of them, and their entries in the journal."""
    what = "phase = 'reading'" if readings else "phase != 'reading'"
    held = _NOT_HELD.format(site="e.site", moment="e.occurred_at")
    query = (
        f"SELECT seq, occurred_at FROM daybook_event e WHERE site = %s AND occurred_at >= %s AND occurred_at < %s AND {what} "
        f"AND {held} ORDER BY occurred_at LIMIT {GROUP}"
    )

    def forget(before: int) -> Iterator[int]:
        for site in _sites():
            begun = 0
            while found := _rows(query, site, begun, before, now_ms()):
                seqs, begun = [seq for seq, _ in found], found[-1][1]
                _do(
                    ("DELETE FROM daybook_verdict WHERE event IN ({marks})", seqs),
                    ("DELETE FROM daybook_journal WHERE seq IN ({marks}) AND type = 'event'", seqs),
                    ("DELETE FROM daybook_event WHERE seq IN ({marks})", seqs),
                )
                yield len(seqs)
            if not readings:
                yield from _others_of_journal(site, before)
        if not readings:
            yield from _acts(before)
            yield from _contents()
            yield from forget_tallies()
            yield from _counts_of_intakes()

    return forget


def forget_tallies() -> Iterator[int]:
    """Counts of days long past. The last day on which a kind came from a point stays, so that it is known when."""
    later = "SELECT 1 FROM daybook_tally n WHERE n.site = t.site AND n.point = t.point AND n.kind = t.kind AND n.day > t.day"
    query = f"SELECT id FROM daybook_tally t WHERE t.day < %s AND EXISTS ({later}) ORDER BY t.day LIMIT {GROUP}"
    while found := [id for (id,) in _rows(query, day_of(now_ms()) - KEPT_TALLIES)]:
        _do(("DELETE FROM daybook_tally WHERE id IN ({marks})", found))
        yield len(found)


def _counts_of_intakes() -> Iterator[int]:
    """What became of messages on days long past."""
    while found := [
        id
        for (id,) in _rows(
            f"SELECT id FROM sources_intakecount WHERE day < %s LIMIT {GROUP}", day_of(now_ms()) - KEPT_TALLIES
        )
    ]:
        _do(("DELETE FROM sources_intakecount WHERE id IN ({marks})", found))
        yield len(found)


def _acts(before: int) -> Iterator[int]:
    """Acts that the engine has worked off: what came of them is in the journal. What a site was last told to be silent is kept,
    since it is told again only when it changes."""
    ((position,),) = _rows("SELECT COALESCE(MAX(act), 0) FROM daybook_engineposition")
    standing = "SELECT MAX(id) FROM daybook_act WHERE type = 'silent' GROUP BY site"
    query = f"SELECT id FROM daybook_act WHERE id < %s AND at < %s AND id NOT IN ({standing}) ORDER BY id LIMIT {GROUP}"
    while found := [id for (id,) in _rows(query, position, before)]:
        _do(("DELETE FROM daybook_act WHERE id IN ({marks})", found))
        yield len(found)


def _contents() -> Iterator[int]:
    """Contents of lists that no list has and no facts of the journal name any more."""
    unused = "digest NOT IN (SELECT content_id FROM lists_watchlist)"
    spare = {digest for (digest,) in _rows(f"SELECT digest FROM lists_content WHERE {unused}")}
    if not spare:
        return
    ((last,),) = _rows("SELECT COALESCE(MAX(seq), 0) FROM daybook_journal")
    spare -= named(_sites())
    for start in range(0, len(spare), GROUP):
        group = sorted(spare)[start : start + GROUP]
        with writer.turn(), transaction.atomic():
            # A list, or facts that were written meanwhile, may have taken one up again.
            free = sorted(set(group) - named(_sites(), last))
            _write(f"DELETE FROM lists_content WHERE digest IN ({{marks}}) AND {unused}", free)
        yield len(group)


def _others_of_journal(site: str, before: int) -> Iterator[int]:
    """Ticks and acts; and facts before the last whole ones, from which the later changes go on."""
    whole = _rows(
        "SELECT COALESCE(MAX(seq), 0) FROM daybook_journal WHERE site = %s AND NOT (type = 'event') AND type = 'facts' "
        "AND at < %s AND json_extract(body, '$.change') IS NULL",
        site, before,
    )[0][0]  # fmt: skip
    query = (
        "SELECT seq FROM daybook_journal j WHERE site = %s AND NOT (type = 'event') AND at < %s "
        f"AND (type != 'facts' OR seq < %s) AND {_NOT_HELD.format(site='j.site', moment='j.at')} ORDER BY seq LIMIT {GROUP}"
    )
    while found := [seq for (seq,) in _rows(query, site, before, whole, now_ms())]:
        _do(("DELETE FROM daybook_journal WHERE seq IN ({marks})", found))
        yield len(found)


def _personal(before: int) -> Iterator[int]:
    """Face templates in events: the event stays, who it showed does not."""
    fields = [(kind.name, field.name) for kind in KINDS for field in kind.fields if field.type in PERSONAL]
    for site in _sites():
        for kind, field in fields:
            place = f"$.{field}"
            query = (
                "SELECT seq FROM daybook_event e WHERE site = %s AND kind = %s AND occurred_at < %s AND "
                f"json_extract(fields, %s) IS NOT NULL AND {_NOT_HELD.format(site='e.site', moment='e.occurred_at')} LIMIT {GROUP}"
            )
            while found := [seq for (seq,) in _rows(query, site, kind, before, place, now_ms())]:
                _do(
                    (
                        f"UPDATE daybook_event SET fields = json_remove(fields, '{place}') WHERE seq IN ({{marks}})",
                        found,
                    )
                )
                yield len(found)


# -- runs, alarms, bookmarks -------------------------------------------------------------------------------------------


def _runs(before: int) -> Iterator[int]:
    """Runs with their steps, once nothing of them is still to be done; and lines."""
    query = (
        "SELECT r.ref FROM daybook_run r WHERE r.site = %s AND r.zero < %s AND NOT EXISTS (SELECT 1 FROM daybook_step s "
        f"WHERE s.run = r.ref AND s.status IN ('due', 'sending')) AND {_NOT_HELD.format(site='r.site', moment='r.zero')} "
        f"ORDER BY r.zero LIMIT {GROUP}"
    )
    for site in _sites():
        while found := [ref for (ref,) in _rows(query, site, before, now_ms())]:
            _do(
                ("DELETE FROM daybook_step WHERE run IN ({marks})", found),
                ("DELETE FROM daybook_run WHERE ref IN ({marks})", found),
            )
            yield len(found)
    yield from _by_hand(before)
    yield from _simple("daybook_line", "id", "at", "site")(before)
    yield from _simple("sources_cataloguechange", "id", "at", "site_id")(before)
    yield from _simple("desk_notice", "id", "until", "site_id")(before)
    yield from _simple("desk_showing", "id", "until", "site_id")(before)


def _by_hand(before: int) -> Iterator[int]:
    """Steps that belong to no run: tests, and what people asked for at a desk."""
    query = (
        "SELECT id FROM daybook_step s WHERE (s.run LIKE 'test-%%' OR s.run LIKE 'asked-%%') AND s.due < %s "
        f"AND s.status NOT IN ('due', 'sending') AND {_NOT_HELD.format(site='s.site', moment='s.due')} LIMIT {GROUP}"
    )
    while found := [id for (id,) in _rows(query, before, now_ms())]:
        _do(("DELETE FROM daybook_step WHERE id IN ({marks})", found))
        yield len(found)


def _alarms(before: int) -> Iterator[int]:
    """Alarms that were answered and are over, with their stills; and calls, notes and hand-overs of those days."""
    query = (
        "SELECT a.id FROM desk_alarm a WHERE a.site_id = %s AND a.zero < %s AND a.state = 'closed' AND "
        f"{_NOT_HELD.format(site='a.site_id', moment='a.zero')} ORDER BY a.zero LIMIT {GROUP}"
    )
    for site in _sites():
        while found := [id for (id,) in _rows(query, site, before, now_ms())]:
            marks = ",".join(["%s"] * len(found))
            files = _rows(f"SELECT file FROM desk_evidence WHERE file != '' AND alarm_id IN ({marks})", *found)
            _do(
                ("DELETE FROM desk_evidence WHERE alarm_id IN ({marks})", found),
                ("DELETE FROM desk_alarmact WHERE alarm_id IN ({marks})", found),
                ("DELETE FROM desk_alarm WHERE id IN ({marks})", found),
            )
            forget_stills("evidence", [file for (file,) in files])
            yield len(found)
    for table, moment in (("desk_call", "rung_at"), ("desk_shiftnote", "at"), ("desk_handover", "at")):
        yield from _simple(table, "id", moment, "site_id")(before)


def _stills(before: int) -> Iterator[int]:
    """Stills of alarms, in whose place stands why they are gone, and stills that rules had kept."""
    held = _NOT_HELD.format(site="a.site_id", moment="e.at")
    query = (
        "SELECT e.id, e.file FROM desk_evidence e JOIN desk_alarm a ON a.id = e.alarm_id WHERE e.file != '' AND e.at < %s "
        f"AND a.state = 'closed' AND {held} LIMIT {GROUP}"
    )
    while found := _rows(query, before, now_ms()):
        gone = f"UPDATE desk_evidence SET file = '', sha256 = '', missing = '{GONE}' WHERE id IN ({{marks}})"
        _do((gone, [id for id, _ in found]))
        forget_stills("evidence", [file for _, file in found])
        yield len(found)
    query = (
        f"SELECT s.id, s.file FROM archive_snapshot s WHERE s.at < %s AND {_NOT_HELD.format(site='s.site_id', moment='s.at')} "
        # The picture of somebody on a list stays as long as they are on it.
        f"AND NOT EXISTS (SELECT 1 FROM lists_picture p WHERE p.run = s.run) LIMIT {GROUP}"
    )
    while found := _rows(query, before, now_ms()):
        _do(("DELETE FROM archive_snapshot WHERE id IN ({marks})", [id for id, _ in found]))
        forget_stills("snapshots", [file for _, file in found])
        yield len(found)


def _simple(table: str, key: str, moment: str, site: str) -> Callable[[int], Iterator[int]]:
    """Rows of a table of their own."""
    query = (
        f"SELECT t.{key} FROM {table} t WHERE t.{moment} < %s AND {_NOT_HELD.format(site=f't.{site}', moment=f't.{moment}')} "
        f"ORDER BY t.{moment} LIMIT {GROUP}"
    )

    def forget(before: int) -> Iterator[int]:
        while found := [id for (id,) in _rows(query, before, now_ms())]:
            _do((f"DELETE FROM {table} WHERE {key} IN ({{marks}})", found))
            yield len(found)

    return forget


CLASSES: tuple[Kept, ...] = (
    Kept("messages", N_("Messages as they came"), lambda k: k.messages, _messages, _messages_amount),
    Kept(
        "stills", N_("Evidence and stills"), lambda k: k.stills, _stills, _amount("desk_evidence", "at", "file != ''"), True
    ),
    Kept(
        "readings", N_("Readings of sensors"), lambda k: k.readings, _events(readings=True),
        _amount("daybook_event", "occurred_at", "phase = 'reading'"), True,
    ),
    Kept(
        "events", N_("Events with their traces"), lambda k: k.events, _events(readings=False),
        _amount("daybook_event", "occurred_at", "phase != 'reading'"), True,
    ),
    Kept("runs", N_("Runs, steps and lines"), lambda k: k.runs, _runs, _amount("daybook_run", "zero")),
    Kept("alarms", N_("Answered alarms"), lambda k: k.alarms, _alarms, _amount("desk_alarm", "zero")),
    Kept(
        "bookmarks", N_("Bookmarks"), lambda k: k.bookmarks, _simple("archive_bookmark", "id", "zero", "site_id"),
        _amount("archive_bookmark", "zero"),
    ),
    Kept("counts", N_("Counts by the quarter hour"), lambda k: k.counts, _simple("daybook_count", "id", "start", "site"), _amount("daybook_count", "start")),
    Kept("scenes", N_("What cameras saw"), lambda k: k.scenes, _scenes, store.amount, True),
    Kept("personal", N_("Face templates in events"), lambda k: k.personal, _personal, lambda: (0, None)),
    Kept("audit", N_("Audit trail"), lambda k: k.audit, forget_before, _amount("people_auditentry", "at")),
)  # fmt: skip
