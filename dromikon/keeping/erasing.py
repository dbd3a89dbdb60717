"""Erasing a person everywhere: somebody who logged in, or somebody on a list with their face or plate.

What happened stays, and so does the audit trail's chain: an entry that loses a name keeps the digest of what it was, and
is marked. Pictures that were kept because of them are deleted.
"""

import json
from collections.abc import Iterable, Iterator
from typing import Any

from django.db import connection, transaction
from django.db.models import Q

from dromikon.archive.models import Snapshot
from dromikon.archive.stills import forget_stills
from dromikon.clock import now_ms
from dromikon.core.kinds import KINDS, PERSONAL
from dromikon.core.lists.similarity import Templates
from dromikon.daybook.models import EventRow, RunRow
from dromikon.desk.models import Alarm, Evidence
from dromikon.lists.entries import entries_of
from dromikon.lists.models import Content, WatchList
from dromikon.lists.services import store
from dromikon.people.access import Access, Everywhere
from dromikon.people.audit import record
from dromikon.people.models import AuditEntry, Person
from dromikon.people.roles import May
from dromikon.people.services import log_out_everywhere, tell_sites

ERASED, PICTURE = "erased", "It was erased."
#: A face this similar, in percent, is taken for the same person's.
SAME_FACE = 60.0
GROUP = 500
#: Columns of JSON and of text in which a name or value may stand.
JSON_COLUMNS = (
    ("daybook_event", "fields"), ("daybook_verdict", "seen"), ("daybook_step", "payload"), ("daybook_act", "body"),
    ("daybook_journal", "body"), ("daybook_evaluatorrow", "row"), ("daybook_checkpoint", "rows"), ("daybook_feed", "data"),
)  # fmt: skip
TEXT_COLUMNS = (
    ("daybook_line", "text"), ("desk_alarm", "title"), ("desk_alarm", "note"), ("desk_alarm", "words"),
    ("archive_bookmark", "title"), ("archive_bookmark", "note"), ("archive_bookmark", "words"),
    ("archive_snapshot", "title"), ("keeping_hold", "by"), ("keeping_hold", "reason"), ("sources_search", "by"), ("sources_unclaimed", "raw"), ("daybook_step", "answer"),
)  # fmt: skip


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
        person.username, person.first_name, person.last_name = f"{ERASED}-{person.pk}", "", ""
        person.number = person.email = ""
        person.is_active = person.is_superuser = False
        person.set_unusable_password()
        person.save()
        Alarm.objects.filter(acknowledged_by=person).update(acknowledged_name=ERASED)
        count = _erase_in_trail(person, name)
        record(None, who.person, "erased person", f"person:{person.pk}", at, entries=count)
    _replace_everywhere(name)


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
    the values that were seen go too. How many events it was seen in. Raises PermissionDenied."""
    access.need(May.EDIT_LISTS)
    gone = [e for e in entries_of(known.content_id) if e.value == value]
    seen = list(_events_of(access, {value}, [e.template for e in gone if e.template]))
    at = now_ms()
    with transaction.atomic():
        store(known, [e for e in entries_of(known.content_id) if e.value != value], access.person)
        _out_of_contents(known, value)
        record(
            access.site, access.person, "erased list entry", f"list:{known.id}", at, name=known.name, events=len(seen)
        )
    for start in range(0, len(seen), GROUP):
        _erase_in_events(seen[start : start + GROUP], value)
    for word in {value, *(e.label for e in gone if e.label)}:
        _replace_everywhere(word)
    entries_of.cache_clear()
    return len(seen)


def _out_of_contents(known: WatchList, value: str) -> None:
    """Earlier contents of lists keep their names, by which the journal knows them, and lose the entry. What another list
    has now is that list's own."""
    others = WatchList.objects.exclude(pk=known.pk).values("content")
    for content in Content.objects.filter(entries__icontains=value).exclude(pk__in=others):
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
    kept = Snapshot.objects.filter(run__in=runs)
    more = list(kept.values_list("file", flat=True))
    kept.delete()
    forget_stills("evidence", files)
    forget_stills("snapshots", more)


def _replace_everywhere(word: str) -> None:
    """Put a word of our own where a name or value stands: as a whole value of JSON, and in texts where it is no common
    word. A slow walk through everything, in groups, since it is done seldom."""
    quoted = _quoted(word)
    for table, column in JSON_COLUMNS:
        _replace(table, column, quoted, _quoted(ERASED))
    if " " in word or any(c.isdigit() for c in word):
        for table, column in TEXT_COLUMNS:
            _replace(table, column, word, ERASED)
            _replace(table, column, word.casefold(), ERASED)


def _quoted(word: str) -> str:
    return json.dumps(word)


def _replace(table: str, column: str, old: str, new: str) -> None:
    position = -(2**62)
    while True:
        with transaction.atomic(), connection.cursor() as cursor:
            piece = f"SELECT rowid FROM {table} WHERE rowid > %s ORDER BY rowid LIMIT %s"
            cursor.execute(f"SELECT MAX(rowid) FROM ({piece})", [position, GROUP * 10])
            last = cursor.fetchone()[0]
            if last is None:
                return
            cursor.execute(
                f"UPDATE {table} SET {column} = REPLACE({column}, %s, %s) WHERE rowid > %s AND rowid <= %s "
                f"AND INSTR({column}, %s) > 0",
                [old, new, position, last, old],
            )
            position = last
