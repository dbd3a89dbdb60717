"""A moment: one run as whoever gets a message about it wants it, on a telephone too. What happened, pictures around it, the
alarm to answer, and what was done."""

from typing import Any

from django.db.models import QuerySet
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.archive.models import Snapshot
from dromikon.authoring.trace import steps_of
from dromikon.core.at_hand import READY_WORDS
from dromikon.core.facts import Facts
from dromikon.core.kinds import KINDS
from dromikon.core.rules.document import RuleDocument
from dromikon.core.words import t
from dromikon.daybook.models import EventRow, RunRow
from dromikon.desk.models import Alarm
from dromikon.desk.services import visible_alarms
from dromikon.facts import names_of
from dromikon.operating.commands import offered
from dromikon.operating.listening import may_listen
from dromikon.operating.outlines import outlines_of
from dromikon.pages.cards import cards_of
from dromikon.pages.daybook import rows_of
from dromikon.people.access import Access
from dromikon.rulebook.models import Revision
from dromikon.sources.models import Point
from dromikon.web.views import site_view

#: Moments of the pictures around zero, in ms; and of so many cameras.
AROUND, CAMERAS = (-3_000, 0, 3_000), 3
#: What else happened there is looked for within so many ms; so much of it, and so many earlier alarms and stills, are shown.
BEFORE, MOST_RELATED, EARLIER, MOST_STILLS = 600_000, 15, 8, 12


@site_view()
def moment(request: HttpRequest, access: Access, run: str) -> HttpResponse:
    found = RunRow.objects.filter(ref=run, site=access.site.id).first()
    if found is None:
        raise Http404("There is no such moment, or it was forgotten.")
    facts = names_of(access.site)
    event = EventRow.objects.filter(seq=found.event, site=access.site.id).first()
    alarms = list(visible_alarms(access).filter(run=run).order_by("rank", "id"))
    point = Point.objects.select_related("area").filter(id=found.point).first()
    front = _front(access, alarms[0], facts) if alarms else {}
    context = {
        "access": access,
        **front,
        "run": found,
        "event": event,
        "point": point,
        "kind": KINDS.get(event.kind) if event else None,
        "cards": cards_of(access, alarms),
        # An alarm has pictures of its own.
        "strips": [] if alarms else _strips(facts.cameras_of(found.point), found.zero),
        "steps": _steps(found, facts),
    }
    return render(request, "desk/moment.html", context)


def _front(access: Access, alarm: Alarm, facts: Facts) -> dict[str, Any]:
    """What somebody who deals with an alarm wants beside it: live pictures, what can be done there, what else happened
    there, the stills that its rule kept, and how earlier alarms of its rule ended."""
    views = [_view(access, camera, facts) for camera in alarm.cameras[:CAMERAS]]
    return {
        "alarm": alarm,
        "views": views,
        "carried": {v["id"]: v["detectors"] for v in views},
        "place": offered(access, alarm.point),
        "ready_words": [t(words) for words in READY_WORDS],
        "snapshots": Snapshot.objects.filter(site=access.site, run=alarm.run).order_by("at")[:MOST_STILLS],
        "related": rows_of(_related(access, alarm, facts)),
        "earlier": visible_alarms(access).filter(rule=alarm.rule, id__lt=alarm.pk).order_by("-id")[:EARLIER],
    }


def _view(access: Access, camera: str, facts: Facts) -> dict[str, Any]:
    """A camera, and the outlines of its detectors with the points that they are."""
    known = Point.objects.select_related("device").filter(id=camera, site=access.site).first()
    heard = may_listen(access, known)
    name = known.name if known else camera
    return {"id": camera, "name": name, "detectors": outlines_of(access, [camera]).get(camera, []), "heard": heard}


def _related(access: Access, alarm: Alarm, facts: Facts) -> QuerySet[EventRow]:
    """What else happened in the alarm's area around it."""
    source = facts.point_by_id.get(alarm.point)
    areas = facts.area_with_inner(source.area) if source and source.area else set()
    points = [p.id for p in facts.points if p.area in areas] or [alarm.point]
    found = EventRow.objects.filter(
        site=access.site.id, point__in=points, test=False, initial=False,
        occurred_at__gte=alarm.zero - BEFORE, occurred_at__lte=alarm.zero + BEFORE,
    ).exclude(phase="reading")  # fmt: skip
    return found.order_by("-occurred_at")[:MOST_RELATED]


def _strips(cameras: tuple[str, ...], zero: int) -> list[dict[str, Any]]:
    names = dict(Point.objects.filter(id__in=cameras).values_list("id", "name"))
    return [
        {"camera": c, "name": names.get(c, c), "at": [zero + offset for offset in AROUND]} for c in cameras[:CAMERAS]
    ]


def _steps(run: RunRow, facts: Any) -> list[dict[str, Any]]:
    revision = Revision.objects.filter(rule_id=run.rule, number=run.revision).first()
    return steps_of(run.ref, facts, RuleDocument.model_validate(revision.document)) if revision else []
