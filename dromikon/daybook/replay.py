"""The journal read back for rehearsal: SQL by hand, since a million rows are nothing for an object mapper."""

import json
from collections.abc import Iterator

from django.db import connection

from dromikon.core.events import Act, Event, Phase, Tick
from dromikon.core.facts import Facts
from dromikon.core.rules.rehearse import Entry

_EVENTS = (
    "SELECT seq, kind, point, phase, at, occurred_at, received_at, device_at, fields, late, initial FROM daybook_event "
    "WHERE site = %s AND seq > %s AND kind IN ({kinds}) AND point IN ({points}) AND at < %s ORDER BY seq"
)
_OTHERS = "SELECT seq, at, type, body FROM daybook_journal WHERE site = %s AND type != 'event' AND at < %s ORDER BY seq"
CHUNK = 2_000


def entries(site: str, end: int, kinds: set[str], points: set[str]) -> Iterator[Entry]:
    """Everything the evaluator was given for a site before an instant, in order, with only the events of some kinds at
    some points: others cannot concern the rules that are rehearsed."""
    events = _events(site, end, kinds, points)
    event = next(events, None)
    for seq, at, type, body in _rows(_OTHERS, [site, end]):
        while event is not None and event.seq < seq:
            yield event
            event = next(events, None)
        yield from _other(seq, at, type, body)
    while event is not None:
        yield event
        event = next(events, None)


def _other(seq: int, at: int, type: str, body: str | None) -> Iterator[Entry]:
    if type == "tick":
        yield Tick(seq, at)
    elif type == "facts" and body:
        yield at, Facts.model_validate_json(body)
    elif body:
        content = json.loads(body)
        yield Act(seq, at, content["act"], content.get("run", ""), content.get("person", ""))


def _events(site: str, end: int, kinds: set[str], points: set[str]) -> Iterator[Event]:
    if not kinds or not points:
        return
    marks = {"kinds": ",".join(["%s"] * len(kinds)), "points": ",".join(["%s"] * len(points))}
    for row in _rows(_EVENTS.format(**marks), [site, 0, *sorted(kinds), *sorted(points), end]):
        seq, kind, point, phase, at, occurred, received, device, fields, late, initial = row
        yield Event(
            seq,
            kind,
            point,
            Phase(phase),
            at,
            occurred,
            received,
            device,
            json.loads(fields),
            bool(late),
            bool(initial),
        )


def _rows(sql: str, parameters: list[object]) -> Iterator[tuple]:
    with connection.cursor() as cursor:
        cursor.execute(sql, parameters)
        while rows := cursor.fetchmany(CHUNK):
            yield from rows
