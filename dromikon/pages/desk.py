"""Desk: alarms, answers, buttons, and what is being shown."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string

from dromikon import config
from dromikon.core.alarms.states import OPEN_TO_ANSWER, OUTCOMES, AlarmState
from dromikon.desk.board import load_of, notices, showings
from dromikon.desk.handling import history_of, shelved
from dromikon.desk.models import Alarm, Evidence
from dromikon.desk.services import visible_alarms, waiting
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.sources.models import Point
from dromikon.web.companions import accompanies
from dromikon.web.views import site_view

#: Bars of the load figure, in its drawing.
BAR_HEIGHT, BAR_STEP = 20, 8


@site_view()
def desk(request: HttpRequest, access: Access) -> HttpResponse:
    alarms = waiting(access)
    cameras = list(
        Point.objects.filter(site=access.site, kind="camera", retired_at=None)
        .exclude(device__enabled=False)
        .select_related("area")
    )
    context = {
        "access": access,
        "cards": [card(access, alarm, first=i == 0) for i, alarm in enumerate(alarms)],
        "cameras": cameras,
        "buttons": _buttons(access),
        "load": drawn_load(access),
        "closed": visible_alarms(access).filter(state=AlarmState.CLOSED).order_by("-id")[:8],
        "may_press": access.may(May.PRESS),
        "camera_names": {c.id: c.name for c in cameras},
        "showings": showings(access),
        "notices": notices(access),
        "shelved": shelved(access),
        "may_answer": access.may(May.ACKNOWLEDGE),
        "outcomes": OUTCOMES.items(),
    }
    return render(request, "desk/desk.html", context)


@site_view()
def shelf(request: HttpRequest, access: Access) -> HttpResponse:
    """What is on the shelf, for a page that heard of an alarm."""
    context = {"access": access, "shelved": shelved(access), "may_answer": access.may(May.ACKNOWLEDGE)}
    return render(request, "desk/_shelf.html", context)


def card(access: Access, alarm: Alarm, first: bool = False) -> dict[str, Any]:
    """What an alarm's card shows."""
    point = Point.objects.select_related("area").filter(id=alarm.point).first()
    names = dict(Point.objects.filter(id__in=alarm.cameras).values_list("id", "name"))
    by_camera: dict[str, list[Evidence]] = {}
    for still in alarm.evidence.all():
        by_camera.setdefault(still.camera, []).append(still)
    return {
        "alarm": alarm,
        "point": point,
        "strips": [{"camera": c, "name": names.get(c, c), "stills": stills} for c, stills in by_camera.items()],
        "open": alarm.state in OPEN_TO_ANSWER,
        "may_answer": access.may(May.ACKNOWLEDGE),
        "outcomes": OUTCOMES.items(),
        "history": history_of(alarm),
        "looks": " ".join(
            look for look, has in (("is-answered", alarm.state not in OPEN_TO_ANSWER), ("current", first)) if has
        ),
    }


@site_view()
def alarm_card(request: HttpRequest, access: Access, alarm_id: int) -> HttpResponse:
    """One alarm's card, for a page that heard of a change."""
    alarm = visible_alarms(access).filter(pk=alarm_id).first()
    if alarm is None:
        raise Http404
    return HttpResponse(_shown(access, alarm))


@accompanies("alarm")
def card_of_change(access: Access, alarm_id: str) -> dict[str, Any]:
    """The card goes with the message that its alarm has changed."""
    alarm = Alarm.objects.filter(site=access.site, pk=alarm_id).first()
    return {"card": _shown(access, alarm)} if alarm is not None else {}


def _shown(access: Access, alarm: Alarm) -> str:
    # Without the request: a card needs nothing of the frame around a page, and somebody waits for it.
    return render_to_string("desk/_alarm.html", {"access": access, "card": card(access, alarm)})


@site_view()
def load(request: HttpRequest, access: Access) -> HttpResponse:
    """The load figure again, for a page that heard of an alarm."""
    return render(request, "desk/_load.html", {"load": drawn_load(access)})


@site_view()
def evidence(request: HttpRequest, access: Access, evidence_id: int) -> HttpResponse:
    """A still that was copied for an alarm."""
    still = Evidence.objects.select_related("alarm").filter(pk=evidence_id, alarm__site=access.site).first()
    if still is None or not still.file or not access.receives(still.alarm.groups):
        raise Http404
    response = HttpResponse((config.data() / "evidence" / still.file).read_bytes(), content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=86400"
    response["X-Content-Digest"] = f"sha-256={still.sha256}"
    return response


def drawn_load(access: Access) -> dict[str, Any]:
    """The load figure as bars of a drawing."""
    load = load_of(access)
    most = max([*load["counts"], 3])
    heights = [max(1, round(BAR_HEIGHT * count / most)) for count in load["counts"]]
    bars = [
        {"x": i * BAR_STEP, "y": BAR_HEIGHT - height, "height": height, "opacity": ".45"}
        for i, height in enumerate(heights)
    ]
    bars[-1]["opacity"] = "1"
    return {**load, "bars": bars}


def _buttons(access: Access) -> dict[str, list[Point]]:
    """Desk buttons by the camera they belong under: the first of their sightlines."""
    found: dict[str, list[Point]] = {}
    for button in Point.objects.filter(site=access.site, kind="button", retired_at=None).prefetch_related("sightlines"):
        first = next(iter(button.sightlines.all()), None)
        found.setdefault(first.camera_id if first else "", []).append(button)
    return found
