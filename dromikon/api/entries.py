"""The entries of a list over the API: found, put and dropped one by one, tables with their preview, and what was seen."""

import json
from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from dromikon.api.base import Error, Millis, Site, at_site
from dromikon.api.lists import ListOut, find_list, list_out
from dromikon.authoring.sightings import add_sighting, pictures_of, sightings_of, try_value
from dromikon.clock import now_ms
from dromikon.core import reading
from dromikon.core.hours import wall_clock
from dromikon.core.instants import iso
from dromikon.core.lists.changes import with_words
from dromikon.core.lists.table import COLUMNS, NotReadable, guessed, read_lines, write_table
from dromikon.core.lists.watchlist import Entry
from dromikon.core.rules.document import Problem
from dromikon.lists.entries import entries_of
from dromikon.lists.services import change_entries, import_table, outdated, set_entries, would_change
from dromikon.refusals import Refused

router = Router(tags=["lists"])
#: So many entries are told at a time, and so many of each sort in a preview.
MOST, MOST_SHOWN = 200, 12
Words = Annotated[str, Query(max_length=200)]
Columns = Annotated[str, Query(max_length=2000, description="a JSON object: which of its columns is which of ours")]
From = Annotated[int, Query(ge=0, le=50_000)]


class EntriesOut(Schema):
    """`count`: how many there are; `matching`: how many of them have the words; `pictures`: stills by value."""

    count: int
    matching: int
    entries: list[dict[str, Any]]
    pictures: dict[str, int]


class EntriesIn(Schema):
    entries: list[dict[str, Any]]


class PutIn(Schema):
    """`was`: the value that the entry has now; empty: it is new."""

    entry: dict[str, Any]
    was: str = Field(default="", max_length=200)


class ChangeIn(Schema):
    put: list[PutIn] = Field(default=[], max_length=1000)
    drop: list[str] = Field(default=[], max_length=1000)


class PreviewOut(Schema):
    """What a table has (its columns, which of them are taken for which, its first lines) and what it would change.
    `problems` say why nothing can be taken over."""

    names: list[str]
    columns: dict[str, str]
    first: list[list[str]]
    added: int
    changed: int
    gone: int
    same: int
    examples: dict[str, list[str]]
    problems: list[dict[str, str]]


class SightingOut(Schema):
    event: int
    value: str
    person: str
    point: str
    zero: str
    camera: str
    entry: str
    near: str


class SightingIn(Schema):
    """An event that has seen something this list holds; `value`: the name, where a face was seen; `agreed`: the person agreed to be
    known by it."""

    event: int = Field(ge=0, le=reading.LATEST)
    value: str = Field(default="", max_length=200)
    label: str = Field(default="", max_length=200)
    agreed: bool = False


class TriedOut(Schema):
    """One way of comparing: what it finds (empty: nothing), and why."""

    way: str
    entry: str
    why: str


@router.get(
    "/{list_id}/entries", response={200: EntriesOut, 403: Error, 404: Error}, summary="Entries that have some words"
)
def entries(
    request: HttpRequest, list_id: str, wanted: Words = "", start: From = 0,
    site: Site = None,
) -> Any:  # fmt: skip
    found = at_site(request, site)
    known = find_list(found, list_id)
    matching = with_words(entries_of(known.content_id), wanted)
    shown, today = matching[start : start + MOST], wall_clock(now_ms(), found.site.zone).date()
    return {
        "count": len(entries_of(known.content_id)),
        "matching": len(matching),
        "entries": [told_entry(e) | ({"outdated": True} if outdated(known, e, today) else {}) for e in shown],
        "pictures": pictures_of(known, [e.value for e in shown]),
    }


@router.put(
    "/{list_id}/entries", response={200: ListOut, 403: Error, 404: Error, 422: Error}, summary="Replace all entries"
)
def replace(request: HttpRequest, content: EntriesIn, list_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    set_entries(found, find_list(found, list_id), content.entries)
    return list_out(found, list_id)


@router.patch(
    "/{list_id}/entries",
    response={200: ListOut, 403: Error, 404: Error, 422: Error},
    summary="Put and drop some entries",
)
def change(request: HttpRequest, content: ChangeIn, list_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    known = find_list(found, list_id)
    change_entries(found, known, [(p.was, p.entry) for p in content.put], content.drop)
    return list_out(found, list_id)


@router.get("/{list_id}/table", summary="All entries as CSV (RFC 4180)", url_name="list_table")
def table(request: HttpRequest, list_id: str, site: Site = None) -> HttpResponse:
    found = at_site(request, site)
    known = find_list(found, list_id)
    answer = HttpResponse(write_table(entries_of(known.content_id)), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{known.id}.csv"'
    return answer


@router.put(
    "/{list_id}/table",
    response={200: ListOut, 403: Error, 404: Error, 422: Error},
    summary="Take entries over from a CSV",
)
def take_table(
    request: HttpRequest, list_id: str, columns: Columns = "", keep: bool = False,
    site: Site = None,
) -> Any:  # fmt: skip
    """`columns`: a JSON object that says which of the table's columns is which of ours; without it they have our names.
    `keep`: what the table does not name stays."""
    found = at_site(request, site)
    import_table(found, find_list(found, list_id), request.body, _columns(columns), keep)
    return list_out(found, list_id)


@router.put(
    "/{list_id}/table/preview", response={200: PreviewOut, 403: Error, 404: Error, 422: Error}, summary="What a CSV would change"
)  # fmt: skip
def preview(
    request: HttpRequest, list_id: str, columns: Columns = "", keep: bool = False,
    site: Site = None,
) -> Any:  # fmt: skip
    found = at_site(request, site)
    known = find_list(found, list_id)
    try:
        lines = read_lines(request.body)
    except NotReadable as error:
        raise Refused([Problem(path=f"line {f.line}", message=f.message) for f in error.faults]) from error
    chosen = _columns(columns) or guessed(lines.names)
    told = {"names": lines.names, "columns": chosen, "first": [row for _, row in lines.rows[:3]]}
    try:
        d = would_change(found, known, request.body, chosen, keep)
    except Refused as error:
        return {**told, **_NO_CHANGE, "problems": [p.model_dump() for p in error.problems[:MOST_SHOWN]]}
    examples = {
        "added": _shown(d.added), "changed": _shown(after for _, after in d.changed), "gone": _shown(d.gone)
    }  # fmt: skip
    counts = {"added": len(d.added), "changed": len(d.changed), "gone": len(d.gone), "same": d.same}
    return {**told, **counts, "examples": examples, "problems": []}


@router.get(
    "/{list_id}/sightings", response={200: list[SightingOut], 403: Error, 404: Error}, summary="What was seen lately that it could hold"
)  # fmt: skip
def sightings(request: HttpRequest, list_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    return [{**s._asdict(), "zero": iso(s.zero)} for s in sightings_of(found, find_list(found, list_id))]


@router.post(
    "/{list_id}/sightings", response={201: dict[str, Any], 403: Error, 404: Error, 422: Error}, summary="Put what was seen on a list"
)  # fmt: skip
def add(request: HttpRequest, content: SightingIn, list_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    entry = add_sighting(found, find_list(found, list_id), content.event, content.value, content.label, content.agreed)
    return 201, told_entry(entry)


@router.get(
    "/{list_id}/try", response={200: list[TriedOut], 403: Error, 404: Error, 422: Error}, summary="What a value finds, and why",
    url_name="try_value",
)  # fmt: skip
def try_(
    request: HttpRequest, list_id: str, value: Words = "", event: Millis | None = None,
    site: Site = None,
) -> Any:  # fmt: skip
    found = at_site(request, site)
    known = find_list(found, list_id)
    return [
        {"way": x.way, "entry": x.entry.shown if x.entry else "", "why": x.why}
        for x in try_value(found, known, value, event)
    ]


def told_entry(entry: Entry) -> dict[str, Any]:
    """An entry as it is told: a face's templates leave in no answer, only how many there are."""
    told = entry.model_dump(mode="json", exclude_defaults=True, exclude={"template", "more"})
    return {**told, "face": True, "faces": len(entry.faces)} if entry.template else told


_NO_CHANGE: dict[str, Any] = {"added": 0, "changed": 0, "gone": 0, "same": 0, "examples": {}}


def _columns(text: str) -> dict[str, str] | None:
    """The choice of columns in an address. Raises Refused."""
    if not text:
        return None
    try:
        content = json.loads(text)
    except ValueError:
        content = None
    usable = isinstance(content, dict) and all(isinstance(v, str) for v in content.values())
    if not usable or set(content) - set(COLUMNS):
        raise Refused([Problem(path="columns", message=f"Give an object with some of {', '.join(COLUMNS)}.")])
    return {ours: theirs for ours, theirs in content.items() if theirs}


def _shown(found: Any) -> list[str]:
    """The first of some entries, as they are called."""
    return [_named(entry) for _, entry in zip(range(MOST_SHOWN), found, strict=False)]


def _named(entry: Entry) -> str:
    return f"{entry.value} ({entry.label})" if entry.label else entry.value
