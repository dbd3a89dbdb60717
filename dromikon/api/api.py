"""The API under /api/v1: bearer token, JSON, OpenAPI document at /api/v1/openapi.json.

Ids are text. Field names are stable. Lists take `limit` and, where they can be long, `cursor`.
"""

from typing import Any

from django.core.exceptions import PermissionDenied, RequestDataTooBig
from django.db import OperationalError
from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI, Schema

from dromikon.api.base import Bearer, Error, Limit, Number, SafeJson, Site, at_site
from dromikon.api.hours import router as hours
from dromikon.api.lists import router as lists
from dromikon.api.receivers import router as receivers
from dromikon.api.rulebook import router as rulebook
from dromikon.api.situation import router as situation
from dromikon.api.tokens import router as tokens
from dromikon.archive.services import find_bookmarks
from dromikon.archive.views import bookmark_row
from dromikon.core import reading
from dromikon.core.alarms.states import AlarmState
from dromikon.core.instants import iso
from dromikon.core.kinds import KINDS, public_fields
from dromikon.core.rules.document import Problem
from dromikon.core.rules.sentence import plain, sentence
from dromikon.daybook.models import Event, Run, Step
from dromikon.daybook.views import trace_of
from dromikon.desk.models import Alarm
from dromikon.desk.services import AlreadyAnswered, answer, visible_alarms
from dromikon.people.access import Access, all_access
from dromikon.people.services import set_number
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule
from dromikon.rulebook.rehearsal import rehearse_draft, report_json
from dromikon.rulebook.services import Overtaken, delete, read_document, save, switch
from dromikon.sites.facts import facts_of
from dromikon.sources.models import Device, Point
from dromikon.sources.services import last_seen
from dromikon.web.middleware import unavailable, unkeepable

api = NinjaAPI(title="Dromikon", version="1", urls_namespace="api", auth=Bearer(), docs_url=None, parser=SafeJson())
api.add_router("/hours", hours)
api.add_router("/lists", lists)
api.add_router("/rulebook", rulebook)
api.add_router("/situation", situation)
api.add_router("/me/tokens", tokens)
api.add_router("/receivers", receivers)


class EventOut(Schema):
    id: str
    kind: str
    point: str
    phase: str
    occurred_at: str
    received_at: str
    fields: dict[str, Any]
    late: bool


class Line(Schema):
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


class Verdict(Schema):
    rule: str
    revision: int
    outcome: str
    words: str
    lines: list[Line]
    run: str | None


class EventWithTrace(EventOut):
    trace: list[Verdict]


class EventPage(Schema):
    """`cursor` continues after the last of these; null when nothing more was there."""

    events: list[EventOut]
    cursor: str | None


class RuleOut(Schema):
    id: str
    name: str
    enabled: bool
    revision: int
    sentence: str
    document: dict[str, Any]


class RuleIn(Schema):
    document: dict[str, Any]
    revision: int | None = None


class RehearsalIn(Schema):
    """`rule`: the live rule to compare with. `sweep`: {path, values} of one number. Without times, the past week."""

    document: dict[str, Any]
    rule: str | None = None
    start: str | None = None
    end: str | None = None
    sweep: dict[str, Any] | None = None


class RehearsedRun(Schema):
    event: str
    point: str
    zero: str


class RehearsalOut(Schema):
    """`turned_away`: how many events each part of the document turned away, by its path; `turned_away_words`: what those
    parts ask for."""

    start: str
    end: str
    count: int
    considered: int
    runs: list[RehearsedRun]
    by_hour: dict[str, int]
    by_point: dict[str, int]
    outcomes: dict[str, int]
    turned_away: dict[str, int]
    turned_away_words: dict[str, str]
    new: list[RehearsedRun] | None
    gone: list[RehearsedRun] | None
    same: int | None
    sweep: list[tuple[float, int]]


class NumberIn(Schema):
    number: str


class EnableIn(Schema):
    enabled: bool


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
    steps: list[StepOut]


class AlarmOut(Schema):
    id: str
    state: str
    priority: str
    title: str
    instruction: str
    point: str
    cameras: list[str]
    run: str
    zero: str
    raised_at: str
    note_required: bool
    acknowledged_at: str | None
    acknowledged_by: str | None
    note: str
    tags: list[str]


class AnswerIn(Schema):
    note: str = ""
    tags: list[str] = []


class BookmarkOut(Schema):
    id: str
    camera: str
    start: str
    end: str
    zero: str
    title: str
    note: str
    tags: list[str]
    run: str | None


class DeviceOut(Schema):
    id: str
    name: str
    address: str
    state: str
    reason: str
    message: str
    clock_offset_ms: int
    information: dict[str, Any]
    topics: list[str]


class PointOut(Schema):
    id: str
    name: str
    kind: str
    area: str | None
    device: str | None
    tags: list[str]
    waits: float
    last_seen: dict[str, str]


class SiteOut(Schema):
    id: str
    name: str
    zone: str
    role: str


@api.exception_handler(Refused)
def _refused(request: HttpRequest, error: Refused) -> HttpResponse:
    if not error.problems:
        return api.create_response(request, {"error": "You belong to several sites: name one with ?site=."}, status=400)
    problems = [p.model_dump() for p in error.problems]
    return api.create_response(request, {"error": "Some of this cannot be accepted.", "problems": problems}, status=422)


@api.exception_handler(OperationalError)
def _trouble(request: HttpRequest, error: OperationalError) -> HttpResponse:
    return unavailable(request)


@api.exception_handler(OverflowError)
@api.exception_handler(UnicodeEncodeError)
def _unkeepable(request: HttpRequest, error: Exception) -> HttpResponse:
    return unkeepable(request)


@api.exception_handler(RequestDataTooBig)
def _too_big(request: HttpRequest, error: RequestDataTooBig) -> HttpResponse:
    return api.create_response(request, {"error": "The request is larger than is read here (5 MB)."}, status=413)


@api.exception_handler(Http404)
def _not_found(request: HttpRequest, error: Http404) -> HttpResponse:
    return api.create_response(request, {"error": str(error) or "There is nothing here."}, status=404)


@api.exception_handler(PermissionDenied)
def _denied(request: HttpRequest, error: PermissionDenied) -> HttpResponse:
    return api.create_response(request, {"error": str(error)}, status=403)


@api.exception_handler(AlreadyAnswered)
@api.exception_handler(Overtaken)
def _conflict(request: HttpRequest, error: Exception) -> HttpResponse:
    return api.create_response(request, {"error": str(error)}, status=409)


@api.get("/sites", response=list[SiteOut], summary="Sites you belong to, with your role")
def sites(request: HttpRequest) -> list[dict[str, Any]]:
    return [
        {"id": a.site.id, "name": a.site.name, "zone": a.site.zone, "role": a.role} for a in all_access(request.auth)
    ]  # type: ignore[attr-defined]


@api.put("/me/number", response={204: None, 422: Error}, summary="Where you can be texted, as +447700900123")
def my_number(request: HttpRequest, content: NumberIn) -> Any:
    set_number(request.auth, content.number)  # type: ignore[attr-defined]
    return 204, None


@api.get(
    "/events",
    response={200: EventPage, 400: Error},
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
    found = Event.objects.filter(site=at_site(request, site).site.id)
    try:
        found = found.filter(occurred_at__gte=reading.instant(since)) if since else found
        found = found.filter(occurred_at__lt=reading.instant(until)) if until else found
        place = reading.whole(cursor) if cursor is not None else None
    except ValueError:
        return api.create_response(
            request, {"error": "since and until are ISO 8601 times, cursor comes from an earlier answer."}, status=400
        )
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


@api.get("/events/{event_id}", response={200: EventWithTrace, 404: Error}, summary="One event with its trace")
def event(request: HttpRequest, event_id: Number, site: Site = None) -> Any:
    found = at_site(request, site)
    row = Event.objects.filter(site=found.site.id, seq=event_id).first()
    if row is None:
        raise Http404("There is no such event.")
    trace = [{**t, "lines": [_line(line) for line in t["lines"]]} for t in trace_of(found, row, facts_of(found.site))]
    return {**_event(row), "trace": trace}


@api.get("/rules", response=list[RuleOut], summary="All rules of the site")
def rules(request: HttpRequest, site: Site = None) -> list[dict[str, Any]]:
    found = at_site(request, site)
    return [_rule(found, r) for r in Rule.objects.filter(site=found.site, deleted=False)]


@api.post(
    "/rules", response={201: RuleOut, 422: Error, 403: Error}, summary="Make a rule (switched off) from a document"
)
def make_rule(request: HttpRequest, content: RuleIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return 201, _rule(found, save(found, content.document))


@api.post("/rules/rehearse", response={200: RehearsalOut, 404: Error, 422: Error}, summary="Run a draft over the past")
def rehearse_rule(request: HttpRequest, content: RehearsalIn, site: Site = None) -> Any:
    found = at_site(request, site)
    live = _find_rule(found, content.rule) if content.rule else None
    try:
        start, end = (reading.instant(t) if t else None for t in (content.start, content.end))
    except ValueError as error:
        raise Refused([Problem(path="start", message="start and end are ISO 8601 times.")]) from error
    return report_json(rehearse_draft(found, content.document, live, start, end, content.sweep))


@api.get("/rules/{rule_id}", response={200: RuleOut, 404: Error}, summary="One rule with its document")
def rule(request: HttpRequest, rule_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    return _rule(found, _find_rule(found, rule_id))


@api.put(
    "/rules/{rule_id}",
    response={200: RuleOut, 409: Error, 422: Error},
    summary="Replace the document: the next revision",
)
def replace_rule(request: HttpRequest, rule_id: str, content: RuleIn, site: Site = None) -> Any:
    found = at_site(request, site)
    known = _find_rule(found, rule_id)
    if content.revision is None:
        message = "Say which revision you replace, so that nobody's change is lost unseen."
        raise Refused([Problem(path="revision", message=message)])
    return _rule(found, save(found, content.document, known, content.revision))


@api.post("/rules/{rule_id}/enable", response={200: RuleOut, 422: Error}, summary="Switch a rule on or off")
def enable_rule(request: HttpRequest, rule_id: str, content: EnableIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return _rule(found, switch(found, _find_rule(found, rule_id), content.enabled))


@api.delete(
    "/rules/{rule_id}", response={204: None, 404: Error}, summary="Take a rule out of the rulebook; its history stays"
)
def delete_rule(request: HttpRequest, rule_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    delete(found, _find_rule(found, rule_id))
    return 204, None


@api.get("/runs", response=list[RunOut], summary="Runs, newest first, with their steps")
def runs(
    request: HttpRequest, site: Site = None, rule: str | None = None, event: str | None = None, limit: Limit = 100
) -> list[dict[str, Any]]:
    found = Run.objects.filter(site=at_site(request, site).site.id).order_by("-id")
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


@api.get("/alarms", response=list[AlarmOut], summary="Alarms you may see, newest first")
def alarms(
    request: HttpRequest, site: Site = None, state: AlarmState | None = None, limit: Limit = 100
) -> list[dict[str, Any]]:
    found = visible_alarms(at_site(request, site)).order_by("-id")
    return [_alarm(a) for a in (found.filter(state=state.value) if state else found)[:limit]]


@api.post(
    "/alarms/{alarm_id}/acknowledge",
    response={200: AlarmOut, 403: Error, 404: Error, 409: Error, 422: Error},
    summary="Answer an alarm with a note and tags",
)
def acknowledge(request: HttpRequest, alarm_id: Number, content: AnswerIn, site: Site = None) -> Any:
    try:
        return _alarm(answer(at_site(request, site), alarm_id, content.note, content.tags))
    except Alarm.DoesNotExist as error:
        raise Http404("There is no such alarm.") from error


@api.get("/bookmarks", response=list[BookmarkOut], summary="Bookmarks by text, tag and camera, newest first")
def bookmarks(
    request: HttpRequest, site: Site = None, q: str = "", tag: str = "", camera: str = "", limit: Limit = 100
) -> list[dict[str, Any]]:
    found = find_bookmarks(at_site(request, site), q, tag, camera)[:limit]
    return [{**bookmark_row(b), "start": iso(b.start), "end": iso(b.end), "zero": iso(b.zero)} for b in found]


@api.get("/devices", response=list[DeviceOut], summary="Devices with their health")
def devices(request: HttpRequest, site: Site = None) -> list[dict[str, Any]]:
    return [
        {
            "id": d.id, "name": d.name, "address": d.address, "state": d.state, "reason": d.reason, "message": d.message,
            "clock_offset_ms": d.clock_offset_ms, "information": d.information, "topics": d.catalogue.get("topics", []),
        }
        for d in Device.objects.filter(site=at_site(request, site).site)
    ]  # fmt: skip


@api.get("/points", response=list[PointOut], summary="Points, with when each kind was last seen")
def points(request: HttpRequest, site: Site = None) -> list[dict[str, Any]]:
    found = at_site(request, site)
    seen = last_seen(found)
    return [
        {
            "id": p.id, "name": p.name, "kind": p.kind, "area": p.area_id, "device": p.device_id, "tags": p.tags, "waits": p.waits,
            "last_seen": {k.name: iso(seen[p.id, k.name]) for k in KINDS if (p.id, k.name) in seen},
        }
        for p in Point.objects.filter(site=found.site)
    ]  # fmt: skip


def _find_rule(found: Access, rule_id: str) -> Rule:
    row = Rule.objects.filter(pk=rule_id, site=found.site, deleted=False).first()
    if row is None:
        raise Http404("There is no such rule.")
    return row


def _event(row: Event) -> dict[str, Any]:
    return {
        "id": str(row.seq), "kind": row.kind, "point": row.point, "phase": row.phase, "occurred_at": iso(row.occurred_at),
        "received_at": iso(row.received_at), "fields": public_fields(row.fields), "late": row.late,
    }  # fmt: skip


def _line(line: Any) -> dict[str, Any]:
    return {"part": line.part, "label": line.label, "seen": line.seen, "wanted": line.wanted, "held": line.held}


def _rule(found: Access, row: Rule) -> dict[str, Any]:
    document = row.document
    words = plain(sentence(read_document(document), facts_of(found.site)))
    return {
        "id": row.id,
        "name": row.name,
        "enabled": row.enabled,
        "revision": row.revision,
        "sentence": words,
        "document": document,
    }


def _run(row: Run, steps: list[Step]) -> dict[str, Any]:
    return {
        "id": row.ref, "rule": row.rule, "rule_name": row.rule_name, "revision": row.revision, "event": str(row.event),
        "point": row.point, "at": iso(row.at), "zero": iso(row.zero), "late": row.late,
        "steps": [
            {
                "action": s.action, "target": s.target, "status": s.status, "due": iso(s.due), "done_at": iso(s.done_at) if s.done_at else None,
                "attempts": s.attempts, "answer": s.answer, "release": s.release,
            }
            for s in steps
        ],
    }  # fmt: skip


def _alarm(row: Alarm) -> dict[str, Any]:
    return {
        "id": str(row.pk), "state": row.state, "priority": row.priority, "title": row.title, "instruction": row.instruction,
        "point": row.point, "cameras": row.cameras, "run": row.run, "zero": iso(row.zero), "raised_at": iso(row.raised_at),
        "note_required": row.note_required, "acknowledged_at": iso(row.acknowledged_at) if row.acknowledged_at else None,
        "acknowledged_by": row.acknowledged_name or None, "note": row.note, "tags": row.tags,
    }  # fmt: skip
