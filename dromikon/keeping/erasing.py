"""Erasing a person everywhere: somebody who logged in, or somebody on a list with their face or plate.

What happened stays, and so does the audit trail's chain: an entry that loses a name keeps the digest of what it was, and
is marked. Pictures that were kept because of them are deleted.
"""

import json
from collections.abc import Callable, Iterable, Iterator
from typing import Any

from django.db import connection, transaction
from django.db.models import Q

from dromikon.archive.models import Snapshot
from dromikon.archive.stills import forget_stills
from dromikon.clock import now_ms
from dromikon.core.erasure import ERASED, without
from dromikon.core.kinds import KINDS, PERSONAL
from dromikon.core.lists.similarity import Templates
from dromikon.database import writer
from dromikon.daybook.models import EventRow, RunRow
from dromikon.desk.models import Alarm, Arrangement, Evidence, OwnDesk
from dromikon.keeping.contents import named
from dromikon.lists.entries import entries_of
from dromikon.lists.models import Content, WatchList
from dromikon.lists.services import store
from dromikon.people.access import Access, Everywhere
from dromikon.people.audit import record
from dromikon.people.models import AuditEntry, Person
from dromikon.people.roles import May
from dromikon.people.services import log_out_everywhere, tell_sites
from dromikon.records.follow import make_anew
from dromikon.records.models import KeptSearch

PICTURE = "It was erased."
#: A face this similar, in percent, is taken for the same person's.
SAME_FACE = 60.0
GROUP = 500
#: Tables with the column of their site, and their columns of JSON and of text in which a name or value may stand.
COLUMNS = (
    ("daybook_event", "site", ("fields",), ()),
    ("daybook_verdict", "site", ("seen",), ()),
    ("daybook_step", "site", ("payload",), ("answer",)),
    ("daybook_act", "site", ("body",), ()),
    ("daybook_journal", "site", ("body",), ()),
    ("daybook_evaluatorrow", "site", ("row",), ()),
    ("daybook_checkpoint", "site", ("rows",), ()),
    ("daybook_feed", "site", ("data",), ()),
    ("daybook_line", "site", (), ("text",)),
    ("desk_alarm", "site_id", (), ("title", "note", "words", "taken_name", "shelved_name", "shelved_why")),
    ("desk_alarmact", "site", (), ("name", "why")),
    ("desk_call", "site_id", (), ("answered_name",)),
    ("desk_shiftnote", "site_id", (), ("name", "text")),
    ("desk_handover", "site_id", ("body",), ("name", "note", "taken_name")),
    ("archive_bookmark", "site_id", (), ("title", "note", "words")),
    ("archive_snapshot", "site_id", (), ("title",)),
    ("cases_case", "site_id", (), ("title", "note", "opened_name", "closed_name")),
    # A piece is its case's.
    ("cases_piece", "(SELECT site_id FROM cases_case c WHERE c.id = case_id)", (), ("title", "words", "added_name")),
    ("keeping_hold", "site_id", (), ("by", "reason")),
    ("sources_search", "site_id", (), ("by",)),
    ("sources_unclaimed", "site_id", (), ("raw",)),
)


def erase_person(who: Everywhere, person: Person) -> None:
    """Take who somebody is out of everything. What they did stays, done by somebody erased. Raises PermissionDenied."""
    who.need()
    name, at = person.shown_name, now_ms()
    with transaction.atomic():
        log_out_everywhere(who.person, person, say=False)
        person.tokens.all().delete()
        tell_sites(person, at)
        person.memberships.all().delete()
        person.recipient_groups.clear()
        person.mutes.all().delete()
        for theirs in (Arrangement, OwnDesk, KeptSearch):
            theirs.objects.filter(person=person).delete()
        person.username, person.first_name, person.last_name = f"{ERASED}-{person.pk}", "", ""
        person.number = person.email = person.push = person.chat = ""
        person.is_active = person.is_superuser = False
        person.set_unusable_password()
        person.save()
        Alarm.objects.filter(acknowledged_by=person).update(acknowledged_name=ERASED)
        count = _erase_in_trail(person, name)
        record(None, who.person, "erased person", f"person:{person.pk}", at, entries=count)
    _replace_everywhere(name)
    make_anew()


def _erase_in_trail(person: Person, name: str) -> int:
    """Take a name out of the entries of a person's acts, and of acts on them. How many there were."""
    count = 0
    for entry in AuditEntry.objects.filter(Q(person=person) | Q(subject=f"person:{person.pk}")):
        if entry.person_id == person.pk:
            entry.name = ERASED
        entry.detail = {k: v for k, v in entry.detail.items() if entry.subject != f"person:{person.pk}" or k != "name"}
        entry.erased = True
        entry.save(update_fields=["name", "detail", "erased"])
        count += 1
    return count


def erase_entry(access: Access, known: WatchList, value: str) -> int:
    """Take an entry out of a list and out of everything that it was compared with; its face, the pictures that show it and
    the values that were seen go too, at this site. A plain value names nobody: it goes out of lists and events alone. How
    many events it was seen in. Raises PermissionDenied."""
    access.need(May.SET_UP_PEOPLE)
    gone = [e for e in entries_of(known.content_id) if e.value == value]
    seen = list(_events_of(access, {value}, [face for e in gone for face in e.faces]))
    at = now_ms()
    with transaction.atomic():
        _forget_snapshots(list(known.pictures.filter(value=value).values_list("run", flat=True)))
        store(known, [e for e in entries_of(known.content_id) if e.value != value], access.person)
        _out_of_contents(known, value)
        record(
            access.site, access.person, "erased list entry", f"list:{known.id}", at, name=known.name, events=len(seen)
        )
    for start in range(0, len(seen), GROUP):
        _erase_in_events(seen[start : start + GROUP], value)
    if known.sort != WatchList.Sort.VALUES:
        for word in {value, *(e.label for e in gone if e.label)}:
            _replace_everywhere(word, access.site.id)
    entries_of.cache_clear()
    make_anew()
    return len(seen)


def _out_of_contents(known: WatchList, value: str) -> None:
    """Earlier contents of the site's lists keep their digests, by which the journal knows them, and lose the entry. What
    another list has now is that list's own."""
    others = WatchList.objects.exclude(pk=known.pk).values("content")
    earlier = Content.objects.filter(pk__in=named([known.site_id])).exclude(pk__in=others)
    for content in earlier:
        left = [e for e in content.entries if e.get("value") != value]
        if len(left) < len(content.entries):
            Content.objects.filter(pk=content.pk).update(entries=left)


def _events_of(access: Access, values: set[str], templates: Iterable[str]) -> Iterator[EventRow]:
    """Events of a site that show a value or a face."""
    faces = Templates.of(list(templates))
    personal = {kind.name: [f.name for f in kind.fields if f.type in PERSONAL] for kind in KINDS}
    text = {kind.name: [f.name for f in kind.fields if f.type == "text"] for kind in KINDS}
    kinds = [name for name in personal if personal[name] or text[name]]
    for event in EventRow.objects.filter(site=access.site.id, kind__in=kinds).iterator(chunk_size=GROUP):
        shown = any(event.fields.get(f) in values for f in text[event.kind])
        if shown or any(_alike(faces, event.fields.get(f)) for f in personal[event.kind]):
            yield event


def _alike(faces: Templates, seen: Any) -> bool:
    nearest = faces.nearest(seen) if isinstance(seen, str) and seen else None
    return nearest is not None and nearest[1] >= SAME_FACE


def _erase_in_events(events: list[EventRow], value: str) -> None:
    for event in events:
        hidden = {f.name for f in KINDS[event.kind].fields if f.type in PERSONAL}
        fields = {k: ERASED if v == value else v for k, v in event.fields.items() if k not in hidden}
        EventRow.objects.filter(pk=event.pk).update(fields=fields)
    runs = list(RunRow.objects.filter(event__in=[e.seq for e in events]).values_list("ref", flat=True))
    stills = Evidence.objects.filter(alarm__run__in=runs).exclude(file="")
    files = list(stills.values_list("file", flat=True))
    stills.update(file="", sha256="", missing=PICTURE)
    forget_stills("evidence", files)
    _forget_snapshots(runs)


def _forget_snapshots(runs: list[str]) -> None:
    kept = Snapshot.objects.filter(run__in=runs)
    files = list(kept.values_list("file", flat=True))
    kept.delete()
    forget_stills("snapshots", files)


def _replace_everywhere(word: str, site: str | None = None) -> None:
    """Put a word of our own where a name or value stands, at a site or at all. A slow walk through everything, in groups,
    since it is done seldom."""
    for table, at, json_columns, text_columns in COLUMNS:
        where, values = (f" AND {at} = %s", [site]) if site else ("", [])
        for column in json_columns:
            _replace(table, column, where, values, word, lambda text: json.dumps(without(json.loads(text), word)))
        for column in text_columns:
            _replace(table, column, where, values, word, lambda text: without(text, word))


def _replace(table: str, column: str, where: str, values: list[str], word: str, change: Callable[[str], str]) -> None:
    # As it is, as it is searched for, and as JSON has either.
    forms = sorted({f for w in (word, word.casefold()) for f in (w, json.dumps(w)[1:-1])})
    seen = " OR ".join([f"INSTR({column}, %s) > 0"] * len(forms))
    query = f"SELECT rowid, {column} FROM {table} WHERE rowid > %s{where} AND ({seen}) ORDER BY rowid LIMIT {GROUP}"
    position = -(2**62)
    while True:
        with writer.turn(), transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(query, [position, *values, *forms])
            found = cursor.fetchall()
            changed = [(change(text), rowid) for rowid, text in found]
            cursor.executemany(f"UPDATE {table} SET {column} = %s WHERE rowid = %s", changed)
        if len(found) < GROUP:
            return
        position = found[-1][0]
