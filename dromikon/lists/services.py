"""Verbs on lists."""

import hashlib
import json
from collections.abc import Iterable, Mapping, Sequence
from datetime import date
from typing import Any

from django.db import transaction
from pydantic import ValidationError
from pydantic_core import ErrorDetails

from dromikon.clock import now_ms
from dromikon.core import reading
from dromikon.core.hours import wall_clock
from dromikon.core.lists.changes import Clashing, Difference, Put, changed, difference, merged
from dromikon.core.lists.table import COLUMNS, NotReadable, read_table
from dromikon.core.lists.watchlist import MOST_ENTRIES, Entry
from dromikon.core.rules.document import Problem
from dromikon.daybook import feed
from dromikon.daybook.services import record_act, tell
from dromikon.ids import id_or_new
from dromikon.lists.entries import entries_of
from dromikon.lists.models import COLOURS, Content, Picture, WatchList
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.models import Person
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sites.models import Site
from dromikon.wire.outgoing import NotAllowed, check_address


def keep_content(entries: Iterable[Entry]) -> Content:
    """The content with these entries, kept once however many lists and times have it."""
    rows = [e.model_dump(mode="json", exclude_defaults=True) for e in entries]
    digest = hashlib.sha256(json.dumps(rows, sort_keys=True, ensure_ascii=False).encode()).hexdigest()
    kept, made = Content.objects.get_or_create(digest=digest, defaults={"entries": rows})
    if not made and kept.entries != rows:
        # An erasure took something out of it, and somebody has put that on a list again.
        kept.entries = rows
        kept.save(update_fields=["entries"])
        entries_of.cache_clear()
    return kept


def make_list(
    access: Access, name: str, sort: str, source: str = "", every: int = 3600, new_id: str | None = None
) -> WatchList:
    """A new, empty list. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_LISTS)
    _check(name, sort, source, every, {})
    at = now_ms()
    with transaction.atomic():
        made = WatchList.objects.create(
            site=access.site, name=name.strip(), sort=sort, content=keep_content(()), changed_at=at, source=source,
            every=every, id=id_or_new(new_id),
        )  # fmt: skip
        record(access.site, access.person, "made list", f"list:{made.id}", at, name=made.name)
        record_act(access.site.id, "facts", at)
    return made


def change_list(access: Access, known: WatchList, **changes: Any) -> WatchList:
    """Change name, source or interval. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_LISTS)
    for field, value in changes.items():
        setattr(known, field, value)
    _check(known.name, known.sort, known.source, known.every, known.columns)
    _check_looks(known.colour, known.likeness, known.renew)
    _check_cameras(known)
    known.tried_at, known.trouble = None, ""
    at = now_ms()
    with transaction.atomic():
        known.save()
        record(access.site, access.person, "changed list", f"list:{known.id}", at, name=known.name, source=known.source)
        record_act(access.site.id, "facts", at)
    return known


def delete_list(access: Access, known: WatchList) -> None:
    """Take a list away. Rules that name it find nothing in it, and a check says so."""
    access.need(May.EDIT_LISTS)
    at = now_ms()
    with transaction.atomic():
        record(access.site, access.person, "deleted list", f"list:{known.id}", at, name=known.name)
        known.delete()
        record_act(access.site.id, "facts", at)


def set_entries(access: Access, known: WatchList, content: Any) -> WatchList:
    """Replace all entries by those of a JSON list. Raises Refused with the path of each offending part."""
    access.need(May.EDIT_LISTS)
    if not isinstance(content, list) or len(content) > MOST_ENTRIES:
        raise Refused([Problem(path="entries", message=f"Give a list of at most {MOST_ENTRIES} entries.")])
    entries, problems = [], []
    for i, one in enumerate(content):
        try:
            entries.append(Entry.model_validate(one))
        except ValidationError as error:
            problems += [
                Problem(path=f"entries.{i}.{'.'.join(map(str, e['loc']))}", message=e["msg"]) for e in error.errors()
            ]
    if problems:
        raise Refused(problems[:100])
    store(known, entries, access.person)
    return known


def change_entries(
    access: Access, known: WatchList, puts: Sequence[tuple[str, Any]], drops: Sequence[str]
) -> WatchList:
    """Put some entries, each with the value that it had before ("" for a new one), and drop some; whatever somebody else did
    to others meanwhile stays. Raises Refused with the path of each offending part, PermissionDenied."""
    access.need(May.EDIT_LISTS)
    wanted, problems = [], []
    for i, (was, content) in enumerate(puts):
        try:
            wanted.append(Put(Entry.model_validate(content), was))
        except ValidationError as error:
            problems += [_problem(f"put.{i}", e) for e in error.errors()]
    if problems:
        raise Refused(problems[:100])
    with transaction.atomic():
        # Read with the change: two who save at once must not undo each other.
        known = WatchList.objects.get(pk=known.pk)
        try:
            entries = changed(entries_of(known.content_id), wanted, drops)
        except Clashing as error:
            found = [Problem(path=f"put.{i}.value", message=f"{message}.") for i, message in error.problems]
            raise Refused(found) from error
        if len(entries) > MOST_ENTRIES:
            raise Refused([Problem(path="put", message=f"A list has at most {MOST_ENTRIES} entries.")])
        _rename_pictures(known, wanted)
        store(known, entries, access.person)
    return known


def _rename_pictures(known: WatchList, puts: Sequence[Put]) -> None:
    for put in puts:
        if put.was and put.was != put.entry.value:
            known.pictures.filter(value=put.was).update(value=put.entry.value)


def _problem(place: str, error: ErrorDetails) -> Problem:
    at = ".".join(map(str, error["loc"]))
    return Problem(path=f"{place}.{at}".rstrip("."), message=error["msg"].removeprefix("Value error, "))


def import_table(
    access: Access, known: WatchList, table: bytes, columns: Mapping[str, str] | None = None, keep: bool = False
) -> WatchList:
    """Replace all entries by those of a CSV, whose columns may be chosen; with `keep`, what it does not name stays. Raises
    Refused with line and column of each fault; then nothing changes."""
    access.need(May.EDIT_LISTS)
    entries = read_csv(table, columns)
    with transaction.atomic():
        known.refresh_from_db()
        store(known, _become(known, entries, keep), access.person)
    return known


def _become(known: WatchList, entries: tuple[Entry, ...], keep: bool) -> tuple[Entry, ...]:
    if not keep:
        return entries
    both = merged(entries_of(known.content_id), entries)
    if len(both) > MOST_ENTRIES:
        raise Refused([Problem(path="keep", message=f"Together these are more than {MOST_ENTRIES} entries.")])
    return both


def would_change(
    access: Access, known: WatchList, table: bytes, columns: Mapping[str, str] | None, keep: bool
) -> Difference:
    """What `import_table` would change. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_LISTS)
    return difference(entries_of(known.content_id), _become(known, read_csv(table, columns), keep))


def read_csv(table: bytes, columns: Mapping[str, str] | None = None) -> tuple[Entry, ...]:
    """The entries of a CSV. Raises Refused."""
    try:
        return read_table(table, columns)
    except NotReadable as error:
        raise Refused(
            [
                Problem(path=f"line {f.line}{', ' + f.column if f.column else ''}", message=f.message)
                for f in error.faults
            ]
        ) from error


def store(known: WatchList, entries: Iterable[Entry], person: Person | None) -> bool:
    """Give a list new content. Returns whether anything changed; then the evaluator is told. Raises Refused where a face is new
    and the list wants to know that its person agreed."""
    at, entries = now_ms(), tuple(entries)
    _check_consent(known, entries)
    with transaction.atomic():
        content = keep_content(entries)
        if content.digest == known.content_id:
            return False
        known.content, known.changed_at = content, at
        known.save(update_fields=["content", "changed_at"])
        _forget_pictures(known, content)
        count = len(content.entries)
        record(known.site, person, "changed list", f"list:{known.id}", at, name=known.name, entries=count)
        record_act(known.site_id, "facts", at)
        tell(feed.watch_list(known.site_id, known.id, count, at))
    return True


def _check_consent(known: WatchList, entries: Sequence[Entry]) -> None:
    if not known.consent:
        return
    before = {face for e in entries_of(known.content_id) for face in e.faces}
    for entry in entries:
        if entry.agreed is None and not before.issuperset(entry.faces):
            message = f"{entry.shown}: this list takes faces only of people who agreed to it. Note that they did."
            raise Refused([Problem(path="agreed", message=message)])


def _forget_pictures(known: WatchList, content: Content) -> None:
    """What is not on the list any more is shown no more; its stills go with time, like others."""
    if known.pictures.exists():
        there = {entry["value"] for entry in content.entries}
        gone = [p.pk for p in known.pictures.all() if p.value not in there]
        Picture.objects.filter(pk__in=gone).delete()


def lists_of(site: Site) -> list[dict[str, Any]]:
    """The lists of a site with what a page or caller wants to know of each."""
    now = now_ms()
    today = wall_clock(now, site.zone).date()
    return [
        {
            "id": w.id, "name": w.name, "sort": w.sort, "count": len(w.content.entries), "changed_at": w.changed_at,
            "source": w.source, "columns": w.columns, "every": w.every, "good_at": w.good_at, "trouble": w.trouble, "stale": w.stale(now),
            "colour": w.colour, "likeness": w.likeness, "cameras": w.cameras, "renew": w.renew, "consent": w.consent,
            "outdated": sum(outdated(w, e, today) for e in entries_of(w.content_id)) if w.renew else 0,
        }
        for w in WatchList.objects.filter(site=site).select_related("content")
    ]  # fmt: skip


def outdated(known: WatchList, entry: Entry, today: date) -> bool:
    """Whether a face was taken so long ago that it is to be taken anew; one that is not known to have been, too."""
    if not known.renew or not entry.template or not entry.valid(today):
        return False
    return entry.pictured is None or (today - entry.pictured).days > known.renew


def _check_cameras(known: WatchList) -> None:
    there = set(known.site.points.values_list("id", flat=True))
    if not isinstance(known.cameras, list) or not set(known.cameras) <= there:
        raise Refused([Problem(path="cameras", message="Choose points of this site.")])


def _check_looks(colour: str, likeness: float, renew: int) -> None:
    if not 0 <= renew <= 3650:
        raise Refused([Problem(path="renew", message="After 1 to 3650 days; 0: never.")])
    if colour and colour not in COLOURS:
        raise Refused([Problem(path="colour", message=f"There are the colours {', '.join(COLOURS)}.")])
    if not 50 <= likeness <= 100:
        raise Refused(
            [Problem(path="likeness", message="From 50 to 100 percent: below, everybody resembles somebody.")]
        )


def _check(name: str, sort: str, source: str, every: int, columns: Mapping[str, str]) -> None:
    problems = []
    if columns and "value" not in columns:
        problems.append(Problem(path="columns.value", message="Say which column has the values, or name none at all."))
    problems += [
        Problem(path=f"columns.{name}", message=f"There are the columns {', '.join(COLUMNS)}.")
        for name in columns
        if name not in COLUMNS
    ]
    if not name.strip() or len(name) > 120:
        problems.append(Problem(path="name", message="Name the list in at most 120 characters."))
    if sort not in WatchList.Sort.values:
        problems.append(Problem(path="sort", message=f"A list is of {', '.join(WatchList.Sort.values)}."))
    if source.startswith(("http://", "https://")):
        try:
            reading.address(source)
            check_address(source)
        except (reading.NotReadable, NotAllowed) as error:
            problems.append(Problem(path="source", message=str(error)))
    elif source and (source != source.strip() or "/" in source or "\\" in source or source.startswith(".")):
        problems.append(
            Problem(path="source", message="Give an http(s) address, or the name of a file in the lists folder.")
        )
    if not 60 <= every <= 7 * 86_400:
        problems.append(Problem(path="every", message="Fetch every minute at the most, and once a week at the least."))
    if problems:
        raise Refused(problems)
