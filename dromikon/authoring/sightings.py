"""What was seen lately that a list could hold: plates, faces, cards; and putting one of them on it with its picture."""

from collections.abc import Iterator
from datetime import date
from typing import Any, NamedTuple, cast

from django.db import transaction

from dromikon.archive.models import Snapshot
from dromikon.clock import now_ms
from dromikon.core.facts import Facts
from dromikon.core.hours import wall_clock
from dromikon.core.instants import Instant
from dromikon.core.kinds import KINDS
from dromikon.core.lists.changes import key_of
from dromikon.core.lists.similarity import NoTemplate, Templates
from dromikon.core.lists.trying import Tried, tried, tried_face
from dromikon.core.lists.watchlist import Entry, Sort
from dromikon.core.lists.watchlist import WatchList as ListValue
from dromikon.core.rules.actions.base import Delivery, Order
from dromikon.core.rules.actions.snapshot import SnapshotOrder
from dromikon.core.rules.document import Problem
from dromikon.daybook.models import EventRow
from dromikon.daybook.trial import ASKED, put_trial
from dromikon.facts import names_of, watch_list
from dromikon.lists.models import Picture, WatchList
from dromikon.lists.services import change_entries
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused

#: Which field of an event a list of a sort holds.
FIELD_OF = {"plates": "plate", "people": "template", "cards": "card"}
#: So many of the latest events are looked at; so similar, in percent, are two faces of one person.
LOOKED_AT, SAME_FACE = 400, 85.0
#: A plate with so few reading errors may be one that is on the list.
MISREAD = 1
#: A recorder may be away for so long, in ms, and the picture still comes.
AN_HOUR = 3_600_000


class Sighting(NamedTuple):
    """Something that was seen: `value` as the list would hold it ("" for a face), what it was recognised as, where and when,
    the first camera that looks there, the entry that it is, where it is on the list, and the one that it is nearly: it may
    have been misread."""

    event: int
    value: str
    person: str
    point: str
    zero: Instant
    camera: str
    entry: str
    near: str = ""


def sightings_of(access: Access, known: WatchList, most: int = 24) -> list[Sighting]:
    """The latest of a list's sort, each once, the newest first. Raises PermissionDenied."""
    access.need(May.EDIT_LISTS)
    facts, listed = names_of(access.site), value_of(known)
    today = wall_clock(now_ms(), facts.zone).date()
    found = []
    for row in _each_once(access.site.id, known.sort):
        field = row.fields[FIELD_OF[known.sort]]
        entry = _entry_of(listed, known, str(field), today)
        near = listed.tolerant(str(field), MISREAD, today) if known.sort == "plates" and not entry else None
        found.append(_sighting(row, known.sort, facts, entry, near.entry.shown if near else ""))
        if len(found) == most:
            break
    return found


class Holder(NamedTuple):
    """A list that could hold what an event has seen; `entry`: what it is there already."""

    id: str
    name: str
    sort: str
    entry: str


def lists_for(access: Access, row: EventRow) -> list[Holder]:
    """The lists of a site that could hold what an event has seen; none for those who may not change lists."""
    sorts = [sort for sort, field in FIELD_OF.items() if row.fields.get(field)]
    if not sorts or not access.may(May.EDIT_LISTS):
        return []
    today = wall_clock(now_ms(), access.site.zone).date()
    found = WatchList.objects.filter(site=access.site, sort__in=sorts)
    return [
        Holder(x.id, x.name, x.sort, _entry_of(value_of(x), x, str(row.fields[FIELD_OF[x.sort]]), today)) for x in found
    ]


def value_of(known: WatchList) -> ListValue:
    """A list as rules compare with it."""
    return watch_list(known.id, known.name, cast(Sort, known.sort), known.content_id)


def add_sighting(
    access: Access, known: WatchList, event: int, value: str = "", label: str = "", agreed: bool = False
) -> Entry:
    """Put what an event has seen on a list, with its picture; a face needs a name as `value`. `agreed`: the person agreed to be
    known by it. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_LISTS)
    row = EventRow.objects.filter(site=access.site.id, seq=event).first()
    field = FIELD_OF.get(known.sort)
    seen = row.fields.get(field) if row is not None and field else None
    if row is None or not seen:
        raise Refused([Problem(path="event", message="This event has seen nothing that this list holds.")])
    face = known.sort == "people"
    name = value.strip() or ("" if face else str(seen))
    if not name:
        raise Refused([Problem(path="value", message="Say who it is.")])
    content: dict[str, Any] = {"value": name, "label": label.strip()}
    if face:
        day, today = (wall_clock(at, access.site.zone).date().isoformat() for at in (row.occurred_at, now_ms()))
        content |= {"template": seen, "pictured": day, **({"agreed": today} if agreed else {})}
    with transaction.atomic():
        change_entries(access, known, [("", content)], [])
        _ask_for_picture(access, known, row, name)
    return Entry.model_validate(content)


def try_value(access: Access, known: WatchList, value: str, event: int | None = None) -> list[Tried]:
    """What a value, or the face of an event, finds in a list today, and why. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_LISTS)
    today = wall_clock(now_ms(), access.site.zone).date()
    if event is None:
        return tried(value_of(known), value, today)
    row = EventRow.objects.filter(site=access.site.id, seq=event).first()
    face = row.fields.get("template") if row is not None else None
    if not isinstance(face, str):
        raise Refused([Problem(path="event", message="This event has seen no face.")])
    return tried_face(value_of(known), face, today)


def pictures_of(known: WatchList, values: list[str]) -> dict[str, int]:
    """By value, the still of the sighting from which an entry was added, once it has been fetched."""
    runs = dict(known.pictures.filter(value__in=values).values_list("run", "value"))
    kept = Snapshot.objects.filter(run__in=runs).values_list("run", "pk")
    return {runs[run]: pk for run, pk in kept}


def _ask_for_picture(access: Access, known: WatchList, row: EventRow, value: str) -> None:
    cameras = names_of(access.site).cameras_of(row.point)
    if not cameras:
        return
    at, run = now_ms(), f"{ASKED}{known.id}-{row.seq}"
    Picture.objects.filter(run=run).delete()
    Picture.objects.update_or_create(
        list=known, value=value, defaults={"camera": cameras[0], "at": row.occurred_at, "run": run}
    )
    order = SnapshotOrder(at=row.occurred_at, title=value)
    put_trial(access.site.id, run, "snapshot", Order(cameras[0], order), Delivery.REPEATABLE, at, within=AN_HOUR)


def _each_once(site: str, sort: str) -> Iterator[EventRow]:
    """The latest events with something of a sort, that of the same plate, card or person only once."""
    field = FIELD_OF.get(sort, "")
    kinds = [kind.name for kind in KINDS if kind.field(field)]
    codes: set[str] = set()
    faces: list[str] = []
    latest = EventRow.objects.filter(site=site, kind__in=kinds, initial=False, test=False).order_by("-seq")
    for row in latest[:LOOKED_AT]:
        seen = str(row.fields.get(field) or "")
        if not seen or (sort == "people" and not _usable(seen)):
            continue
        if sort == "people":
            nearest = Templates.of(faces).nearest(seen) if faces else None
            if nearest is not None and nearest[1] >= SAME_FACE:
                continue
            faces.append(seen)
        elif key_of(seen) in codes:
            continue
        codes.add(key_of(seen))
        yield row


def _usable(template: str) -> bool:
    try:
        return Templates.of([template]).nearest(template) is not None
    except NoTemplate:
        return False


def _entry_of(listed: ListValue, known: WatchList, seen: str, day: date) -> str:
    if known.sort == "people":
        match = listed.similar(seen, day)
        return match.entry.shown if match and (match.similarity or 0) >= known.likeness else ""
    match = listed.exact(seen, day)
    return match.entry.shown if match else ""


def _sighting(row: EventRow, sort: str, facts: Facts, entry: str, near: str) -> Sighting:
    cameras = facts.cameras_of(row.point)
    value = "" if sort == "people" else str(row.fields[FIELD_OF[sort]])
    return Sighting(
        row.seq, value, str(row.fields.get("person") or ""), facts.name_of("point", row.point) or row.point,
        row.occurred_at, cameras[0] if cameras else "", entry, near,
    )  # fmt: skip
