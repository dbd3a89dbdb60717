"""What happened: events with their traces, runs with their steps, and both as marks along a time axis."""

from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Limit, Millis, Number, Site, at_site
from dromikon.authoring.trace import trace_of
from dromikon.core import reading
from dromikon.core.instants import iso
from dromikon.core.kinds import public_fields
from dromikon.core.rules.document import Problem
from dromikon.daybook.marks import LONGEST, marks_of
from dromikon.daybook.models import EventRow, RunRow, Step
from dromikon.facts import names_of
from dromikon.refusals import Refused

router = Router(tags=["events"])


class EventOut(Schema):
    id: str
    kind: str
    point: str
    phase: str
    occurred_at: str
    received_at: str
    fields: dict[str, Any]
    late: bool
    test: bool


class TraceLineOut(Schema):
    part: str
    label: str
    seen: str
    wanted: str
    held: bool | None


class StepOut(Schema):
    action: str
    target: str
    status: str
    due: str
    done_at: str | None
    attempts: int
    answer: str
    release: bool


class VerdictOut(Schema):
    rule: str
    revision: int
    outcome: str
    words: str
    lines: list[TraceLineOut]
    run: str | None


class EventWithTrace(EventOut):
    trace: list[VerdictOut]


class EventPage(Schema):
    """`cursor` continues after the last of these; null when nothing more was there."""

    events: list[EventOut]
    cursor: str | None


class RunOut(Schema):
    id: str
    rule: str
    rule_name: str
    revision: int
    event: str
    point: str
    at: str
    zero: str
    late: bool
    test: bool
    steps: list[StepOut]


class MarksOut(Schema):
    """`events`: [id, kind, point, phase, occurred_at, late, test]. `runs`: [id, rule, point, zero, event, steps]. Times are ms.
    `cut`: from when on the events are told, where there were too many for one answer."""

    events: list[tuple[str, str, str, str, int, bool, bool]]
    runs: list[tuple[str, str, str, int, str, list[str]]]
    cut: int | None


@router.get(
    "/events",
    response={200: EventPage, 422: Error},
    summary="Events, oldest first from a cursor or newest first without",
)
def events(
    request: HttpRequest,
    site: Site = None,
    kind: str | None = None,
    point: str | None = None,
    since: str | None = None,
    until: str | None = None,
    cursor: str | None = None,
    limit: Limit = 100,
) -> Any:
    found = EventRow.objects.filter(site=at_site(request, site).site.id)
    try:
        found = found.filter(occurred_at__gte=reading.instant(since)) if since else found
        found = found.filter(occurred_at__lt=reading.instant(until)) if until else found
        place = reading.whole(cursor) if cursor is not None else None
    except ValueError as error:
        message = "since and until are ISO 8601 times, cursor comes from an earlier answer."
        raise Refused([Problem(path="since", message=message)]) from error
    if kind:
        found = found.filter(kind=kind)
    if point:
        found = found.filter(point=point)
    if place is not None:
        rows = list(found.filter(seq__gt=place).order_by("seq")[:limit])
    else:
        rows = list(found.order_by("-seq")[:limit])
    last = max((r.seq for r in rows), default=place)
    return {"events": [_event(r) for r in rows], "cursor": str(last) if last is not None else None}


@router.get("/events/{event_id}", response={200: EventWithTrace, 404: Error}, summary="One event with its trace")
def event(request: HttpRequest, event_id: Number, site: Site = None) -> Any:
    found = at_site(request, site)
    row = EventRow.objects.filter(site=found.site.id, seq=event_id).first()
    if row is None:
        raise Http404("There is no such event.")
    trace = [{**t, "lines": [_line(line) for line in t["lines"]]} for t in trace_of(found, row, names_of(found.site))]
    return {**_event(row), "trace": trace}


@router.get("/runs", response=list[RunOut], summary="Runs, newest first, with their steps")
def runs(
    request: HttpRequest, site: Site = None, rule: str | None = None, event: str | None = None, limit: Limit = 100
) -> list[dict[str, Any]]:
    found = RunRow.objects.filter(site=at_site(request, site).site.id).order_by("-id")
    if rule:
        found = found.filter(rule=rule)
    if event:
        place = reading.whole_or_none(event)
        found = found.filter(event=place) if place is not None else found.none()
    rows = list(found[:limit])
    steps: dict[str, list[Step]] = {}
    for step in Step.objects.filter(run__in=[r.ref for r in rows]).exclude(action="evidence").order_by("due", "id"):
        steps.setdefault(step.run, []).append(step)
    return [_run(r, steps.get(r.ref, [])) for r in rows]


@router.get(
    "/marks", response={200: MarksOut, 422: Error}, summary="Events and runs along a time axis, at most 14 days"
)
def marks(request: HttpRequest, start: Millis, end: Millis, site: Site = None) -> Any:
    found = at_site(request, site)
    if not 0 < end - start <= LONGEST:
        raise Refused([Problem(path="end", message="Between nothing and fourteen days after start.")])
    return marks_of(found.site.id, start, end)


def _event(row: EventRow) -> dict[str, Any]:
    return {
        "id": str(row.seq), "kind": row.kind, "point": row.point, "phase": row.phase, "occurred_at": iso(row.occurred_at),
        "received_at": iso(row.received_at), "fields": public_fields(row.fields), "late": row.late,
        "test": row.test,
    }  # fmt: skip


def _line(line: Any) -> dict[str, Any]:
    return {"part": line.part, "label": line.label, "seen": line.seen, "wanted": line.wanted, "held": line.held}


def _run(row: RunRow, steps: list[Step]) -> dict[str, Any]:
    return {
        "id": row.ref, "rule": row.rule, "rule_name": row.rule_name, "revision": row.revision, "event": str(row.event),
        "point": row.point, "at": iso(row.at), "zero": iso(row.zero), "late": row.late,
        "test": row.test,
        "steps": [
            {
                "action": s.action, "target": s.target, "status": s.status, "due": iso(s.due), "done_at": iso(s.done_at) if s.done_at else None,
                "attempts": s.attempts, "answer": s.answer, "release": s.release,
            }
            for s in steps
        ],
    }  # fmt: skip
