"""The journal read back for rehearsal: SQL by hand, since a million rows are too many for an object mapper."""

import json
from collections.abc import Iterable, Iterator
from typing import Any, NamedTuple

from django.db import connection
from pydantic_core import from_json

from dromikon.core.events import Act, Event, Phase, Tick
from dromikon.core.instants import Instant
from dromikon.core.rules.rehearse import Change, Checkpoint, Entry
from dromikon.core.rules.state import STATE_FORMAT
from dromikon.daybook import models
from dromikon.facts import facts_from_json
from dromikon.journaled import Chain, chain_before

_EVENTS = (
    "SELECT seq, kind, point, phase, at, occurred_at, received_at, device_at, fields, late, initial, chain "
    "FROM daybook_event WHERE site = %s AND kind IN ({kinds}) AND point IN ({points}) AND NOT test AND seq > %s AND at < %s "
    "ORDER BY seq"
)
_OTHERS = (
    "SELECT seq, at, type, body FROM daybook_journal INDEXED BY journal_others "
    "WHERE site = %s AND seq > %s AND NOT (type = 'event') AND at < %s ORDER BY seq"
)
CHUNK = 2_000
_PHASES = {phase.value: phase for phase in Phase}
_NO_CHAIN: tuple[str, ...] = ()


def entries(
    site: str, start: Instant, end: Instant, kinds: set[str], points: set[str], rules: set[str] | None = None
) -> Iterator[Entry]:
    """What the evaluator was given for a site between two instants, in order, with only the events of some kinds at some
    points: others cannot concern the rules that are rehearsed. It begins with the last checkpoint before `start`, or
    else with the beginning of the journal. With `rules`, facts have these rules alone, and a change of others is none."""
    since, chain = 0, Chain()
    checkpoint = _checkpoint(site, start)
    if checkpoint is not None:
        since, chain = checkpoint.seq, chain_before(site, checkpoint.seq)
        yield _from_row(checkpoint, chain)
    narrowed = Narrowed(rules, chain)
    events = _events(site, since, end, kinds, points)
    event = next(events, None)
    for seq, at, type, body in _rows(_OTHERS, [site, since, end]):
        while event is not None and event.seq < seq:
            yield event
            event = next(events, None)
        if type == "facts":
            changed = narrowed.change(at, json.loads(body)) if body else None
            if changed is not None:
                yield changed
        else:
            yield from _other(seq, at, type, body)
    if event is not None:
        yield event
    yield from events


class Told(NamedTuple):
    """An event that a rule was told of: where, when it happened, and what came of it."""

    event: int
    point: str
    zero: Instant
    outcome: str


def told_of(site: str, found: Iterable[tuple[int, str]]) -> list[Told]:
    """Events with their outcomes, as far as they are kept, by when they came. A later outcome counts."""
    outcomes = dict(found)
    rows = models.EventRow.objects.filter(site=site, seq__in=outcomes).order_by("seq")
    return [Told(seq, point, at, outcomes[seq]) for seq, point, at in rows.values_list("seq", "point", "occurred_at")]


class Narrowed:
    """Facts as they changed, as far as they concern some rules. Most changes of a week are of other rules; they are told
    apart before anything is made of them."""

    def __init__(self, rules: set[str] | None, chain: Chain) -> None:
        self.rules, self.chain = rules, chain
        self._last: dict[str, Any] | None = None

    def change(self, at: Instant, body: dict[str, Any]) -> Change | None:
        """The change, or None where nothing has changed that matters."""
        body = self.chain.follow(body)
        if self.rules is not None:
            body = {**body, "rules": [r for r in body.get("rules", ()) if r["id"] in self.rules]}
        if body == self._last:
            return None
        self._last = body
        return Change(at, facts_from_json(body))


def _checkpoint(site: str, at: Instant) -> models.CheckpointRow | None:
    found = models.CheckpointRow.objects.filter(site=site, at__lt=at, format=STATE_FORMAT).order_by("-at").first()
    facts = models.Journal.objects.filter(site=site, type="facts")
    return found if found and facts.filter(seq__lte=found.seq).exists() else None


def _from_row(row: models.CheckpointRow, chain: Chain) -> Checkpoint:
    assert chain.body is not None
    return Checkpoint(row.at, facts_from_json(chain.body), [((rule, key), kept) for rule, key, kept in row.rows])


def _other(seq: int, at: int, type: str, body: str | None) -> Iterator[Entry]:
    if type == "tick":
        yield Tick(seq, at)
    elif body:
        content = json.loads(body)
        known = {name: content[name] for name in ("run", "person", "target", "value", "until") if name in content}
        yield Act(seq, at, content["act"], **known)


def _events(site: str, since: int, end: int, kinds: set[str], points: set[str]) -> Iterator[Event]:
    if not kinds or not points:
        return
    marks = {"kinds": ",".join(["%s"] * len(kinds)), "points": ",".join(["%s"] * len(points))}
    loads, phases = from_json, _PHASES
    for row in _rows(_EVENTS.format(**marks), [site, *sorted(kinds), *sorted(points), since, end]):
        seq, kind, point, phase, at, occurred, received, device, fields, late, initial, chain = row
        yield Event(
            seq, kind, point, phases[phase], at, occurred, received, device, loads(fields), late, initial,
            tuple(loads(chain)) if chain != "[]" else _NO_CHAIN,
        )  # fmt: skip


def _rows(sql: str, parameters: list[str | int]) -> Iterator[tuple[Any, ...]]:
    with connection.cursor() as cursor:
        cursor.execute(sql, parameters)
        while rows := cursor.fetchmany(CHUNK):
            yield from rows
