"""Daybook: lanes over time, one event with its trace, one run with its steps."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.template.loader import render_to_string

from dromikon.archive.models import Snapshot
from dromikon.clock import now_ms
from dromikon.core import reading
from dromikon.core.facts import Facts
from dromikon.core.kinds import HIDDEN, KINDS, public_fields
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.explain import OUTCOMES, explain
from dromikon.daybook.models import Event, Line, Run, Step, Verdict
from dromikon.engine.engine import read_raw
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.rulebook.models import Revision, Rule
from dromikon.sites.facts import facts_of
from dromikon.sources.models import Point
from dromikon.web.views import site_view

MOST_MARKS = 4000
LONGEST = 14 * 86_400_000


@site_view()
def daybook(request: HttpRequest, access: Access) -> HttpResponse:
    recent = Event.objects.filter(site=access.site.id, initial=False).order_by("-seq")[:40]
    points = {p.id: p for p in Point.objects.filter(site=access.site).select_related("area")}
    lanes = [
        {"id": a.id, "name": a.name, "points": [p.id for p in points.values() if p.area_id == a.id]}
        for a in access.site.areas.all()
    ]
    # What the clock makes happens to the site as a whole.
    lanes.append(
        {"id": "", "name": access.site.name, "points": ["", *(p.id for p in points.values() if p.area_id is None)]}
    )
    context = {
        "access": access,
        "recent": [_row(e, points.get(e.point)) for e in recent],
        "lanes": lanes,
        "lines": lines_of(access),
        "point_names": {p.id: p.name for p in points.values()},
        "kinds": {k.name: {"label": k.label, "state": k.is_state} for k in KINDS},
    }
    return render(request, "daybook/daybook.html", context)


def lines_of(access: Access) -> list[dict[str, Any]]:
    """The latest lines that steps and hold-offs wrote."""
    events = {}
    lines = list(Line.objects.filter(site=access.site.id).order_by("-at")[:12])
    for ref, event in Run.objects.filter(ref__in=[x.run for x in lines]).values_list("ref", "event"):
        events[ref] = event
    return [{"at": x.at, "text": x.text, "event": events.get(x.run)} for x in lines]


@site_view()
def lines(request: HttpRequest, access: Access) -> HttpResponse:
    """The latest lines again, for a page that heard of one."""
    return render(request, "daybook/_lines.html", {"access": access, "lines": lines_of(access)})


@site_view()
def marks(request: HttpRequest, access: Access) -> JsonResponse:
    """Events and runs between two instants. When there are too many, the newest; `cut` says from when."""
    try:
        start, end = (reading.whole(request.GET[name], most=reading.LATEST) for name in ("start", "end"))
    except (KeyError, ValueError):
        return JsonResponse({"error": "Give start and end in ms."}, status=400)
    if not 0 < end - start <= LONGEST:
        return JsonResponse({"error": "Between nothing and fourteen days."}, status=400)
    events = Event.objects.filter(site=access.site.id, occurred_at__gte=start, occurred_at__lt=end, initial=False)
    rows = list(
        events.order_by("-occurred_at").values_list("seq", "kind", "point", "phase", "occurred_at", "late")[:MOST_MARKS]
    )
    runs = Run.objects.filter(site=access.site.id, zero__gte=start, zero__lt=end).order_by("-zero")[:MOST_MARKS]
    done = _actions_of([r.ref for r in runs])
    return JsonResponse(
        {
            "events": [[str(s), k, p, ph, at, late] for s, k, p, ph, at, late in rows],
            "runs": [[r.ref, r.rule_name, r.point, r.zero, str(r.event), done.get(r.ref, [])] for r in runs],
            "cut": rows[-1][4] if len(rows) == MOST_MARKS else None,
        }
    )


def _actions_of(refs: list[str]) -> dict[str, list[str]]:
    found: dict[str, list[str]] = {}
    for i in range(0, len(refs), 500):
        steps = Step.objects.filter(run__in=refs[i : i + 500], release=False).exclude(action="evidence")
        for run, action in steps.values_list("run", "action"):
            if action not in found.setdefault(run, []):
                found[run].append(action)
    return found


@site_view()
def event_sheet(request: HttpRequest, access: Access, seq: int) -> HttpResponse:
    """One event: fields, trace, runs, raw message."""
    event = Event.objects.filter(site=access.site.id, seq=seq).first()
    if event is None:
        raise Http404
    point = Point.objects.select_related("area", "channel").filter(id=event.point).first()
    facts = facts_of(access.site)
    kind = KINDS.get(event.kind)
    fields = public_fields(event.fields)
    context = {
        "access": access,
        "event": event,
        "kind": kind,
        "point": point,
        "fields": [
            (known.label, _shown(fields.get(known.name), known.unit)) for known in (kind.fields if kind else ())
        ],
        "trace": trace_of(access, event, facts),
        # A raw message may hold personal data that the fields shown here do not.
        "raw": _raw(event.inbox) if access.may(May.EDIT_LISTS) else None,
        "cameras": facts.cameras_of(event.point),
        "may_edit": access.may(May.EDIT_RULES),
        "from": event.occurred_at - 10_000,
        "now": now_ms(),
    }
    return render(request, "daybook/_event.html", context)


def _shown(value: Any, unit: str) -> str:
    if value is None:
        return "not sent"
    shown = f"{value:g}" if isinstance(value, float) else str(value)
    return f"{shown} {unit}".strip()


def _raw(inbox_id: int | None) -> str | None:
    message = read_raw(inbox_id) if inbox_id else None
    return message.body.decode("utf-8", "replace")[:20_000] if message else None


def trace_of(access: Access, event: Event, facts: Facts) -> list[dict[str, Any]]:
    """Every rule that looked at an event, in words, with its runs and their steps."""
    names = dict(Rule.objects.filter(site=access.site).values_list("id", "name"))
    found = []
    for verdict in Verdict.objects.filter(event=event.seq, site=access.site.id).order_by("id"):
        revision = Revision.objects.filter(rule_id=verdict.rule, number=verdict.revision).first()
        if revision is None:
            continue
        document = RuleDocument.model_validate(revision.document)
        found.append(
            {
                "rule": verdict.rule,
                "name": names.get(verdict.rule, verdict.rule),
                "revision": verdict.revision,
                "outcome": verdict.outcome,
                "words": OUTCOMES.get(verdict.outcome, verdict.outcome),
                "lines": explain(document, facts, verdict.outcome, [tuple(s) for s in verdict.seen], verdict.due),
                "run": verdict.run,
                "steps": steps_of(verdict.run, facts) if verdict.run else [],
            }
        )
    return found


def _receiver(target: str, facts: Facts) -> str:
    """Whom or what a step goes to, as people call it."""
    sort, _, id = target.partition(":")
    if sort == "person":
        return next((m.name for m in facts.members if m.id == id), "somebody who is gone")
    if sort == "host":
        return id
    point = facts.point_by_id.get(target)
    return point.name if point else facts.name_of("counter", target) or target


def steps_of(run: str, facts: Facts) -> list[dict[str, Any]]:
    """The steps of a run with due and done times, attempts and answers. Evidence is summed up in one line."""
    lines, stills = [], []
    kept = {(s.camera, s.at): s.pk for s in Snapshot.objects.filter(run=run)}
    for step in Step.objects.filter(run=run).order_by("due", "id"):
        if step.action == "evidence":
            stills.append(step)
            continue
        still = kept.get((step.target, step.payload.get("at"))) if step.action == "snapshot" else None
        lines.append({"step": step, "target": _receiver(step.target, facts), "snapshot": still})
    if stills:
        done = sum(s.status == Step.Status.DONE for s in stills)
        lines.append({"evidence": f"{done} of {len(stills)} stills copied and hashed"})
    return lines


@site_view()
def recent_row(request: HttpRequest, access: Access, seq: int) -> HttpResponse:
    """One row of the list of recent events, for a page that heard of it."""
    event = Event.objects.filter(site=access.site.id, seq=seq).first()
    if event is None:
        raise Http404
    point = Point.objects.select_related("area").filter(id=event.point).first()
    return HttpResponse(render_to_string("daybook/_row.html", {"row": _row(event, point), "access": access}))


def _row(event: Event, point: Point | None) -> dict[str, Any]:
    fields = public_fields(event.fields)
    shown = [(name, value) for name, value in fields.items() if name != "object" and value != HIDDEN]
    return {"event": event, "point": point, "kind": KINDS.get(event.kind), "fields": shown}
