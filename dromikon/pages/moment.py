"""A moment: one run as whoever gets a message about it wants it, on a telephone too. What happened, pictures around it, the
alarm to answer, and what was done."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.authoring.trace import steps_of
from dromikon.core.kinds import KINDS
from dromikon.core.rules.document import RuleDocument
from dromikon.daybook.models import EventRow, RunRow
from dromikon.desk.services import visible_alarms
from dromikon.facts import names_of
from dromikon.pages.desk import card
from dromikon.people.access import Access
from dromikon.rulebook.models import Revision
from dromikon.sources.models import Point
from dromikon.web.views import site_view

#: Moments of the pictures around zero, in ms; and of so many cameras.
AROUND, CAMERAS = (-3_000, 0, 3_000), 3


@site_view()
def moment(request: HttpRequest, access: Access, run: str) -> HttpResponse:
    found = RunRow.objects.filter(ref=run, site=access.site.id).first()
    if found is None:
        raise Http404("There is no such moment, or it was forgotten.")
    facts = names_of(access.site)
    event = EventRow.objects.filter(seq=found.event, site=access.site.id).first()
    alarms = list(visible_alarms(access).filter(run=run).order_by("rank", "id"))
    point = Point.objects.select_related("area").filter(id=found.point).first()
    context = {
        "access": access,
        "run": found,
        "event": event,
        "point": point,
        "kind": KINDS.get(event.kind) if event else None,
        "cards": [card(access, alarm, first=i == 0) for i, alarm in enumerate(alarms)],
        # An alarm has pictures of its own.
        "strips": [] if alarms else _strips(facts.cameras_of(found.point), found.zero),
        "steps": _steps(found, facts),
    }
    return render(request, "desk/moment.html", context)


def _strips(cameras: tuple[str, ...], zero: int) -> list[dict[str, Any]]:
    names = dict(Point.objects.filter(id__in=cameras).values_list("id", "name"))
    return [
        {"camera": c, "name": names.get(c, c), "at": [zero + offset for offset in AROUND]} for c in cameras[:CAMERAS]
    ]


def _steps(run: RunRow, facts: Any) -> list[dict[str, Any]]:
    revision = Revision.objects.filter(rule_id=run.rule, number=run.revision).first()
    return steps_of(run.ref, facts, RuleDocument.model_validate(revision.document)) if revision else []
