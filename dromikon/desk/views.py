"""Desk: alarms, answers, buttons, and what is being shown."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.template.loader import render_to_string

from dromikon import config
from dromikon.archive.models import Bookmark
from dromikon.clock import now_ms
from dromikon.core.alarms.states import OPEN_TO_ANSWER, AlarmState
from dromikon.desk.models import Alarm, Evidence, Notice, Showing
from dromikon.desk.services import AlreadyAnswered, answer, press, visible_alarms, waiting
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sources.models import Point
from dromikon.web.companions import accompanies
from dromikon.web.views import body_of, site_view

#: An operator can deal with about one alarm in ten minutes for long, and two at the most (EEMUA 191, IEC 62682).
BUSY, FLOOD = 2, 10


@site_view()
def desk(request: HttpRequest, access: Access) -> HttpResponse:
    alarms = waiting(access)
    cameras = list(Point.objects.filter(site=access.site, kind="camera").select_related("area"))
    context = {
        "access": access,
        "cards": [card(access, alarm, first=i == 0) for i, alarm in enumerate(alarms)],
        "cameras": cameras,
        "buttons": _buttons(access),
        "load": load_of(access),
        "closed": visible_alarms(access).filter(state=AlarmState.CLOSED).order_by("-id")[:8],
        "may_press": access.may(May.PRESS),
        "camera_names": {c.id: c.name for c in cameras},
        "showings": showings(access),
        "notices": notices(access),
    }
    return render(request, "desk/desk.html", context)


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
        "first": first,
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
def desk_state(request: HttpRequest, access: Access) -> JsonResponse:
    """Which alarms are waiting, in order; and what is put up. For pages that refresh after a change."""
    return JsonResponse(
        {
            "alarms": [{"id": a.pk, "state": a.state} for a in waiting(access)],
            "load": render_to_string("desk/_load.html", {"load": load_of(access)}),
            "showings": showings(access),
            "notices": notices(access),
        }
    )


@site_view()
def acknowledge(request: HttpRequest, access: Access, alarm_id: int) -> JsonResponse:
    if request.method != "POST":
        return JsonResponse({"error": "POST it."}, status=405)
    content = body_of(request)
    if not isinstance(content, dict) or not isinstance(content.get("tags", []), list):
        return JsonResponse({"error": "Send {note, tags}."}, status=400)
    try:
        alarm = answer(access, alarm_id, str(content.get("note", "")), [str(t) for t in content.get("tags", [])])
    except Alarm.DoesNotExist as error:
        raise Http404 from error
    except AlreadyAnswered as error:
        return JsonResponse({"error": str(error)}, status=409)
    except Refused as error:
        return JsonResponse({"problems": [p.model_dump() for p in error.problems]}, status=422)
    bookmarks = Bookmark.objects.filter(run=alarm.run).count()
    return JsonResponse({"id": str(alarm.pk), "state": alarm.state, "bookmarks": bookmarks})


@site_view(May.PRESS)
def press_button(request: HttpRequest, access: Access, button_id: str) -> JsonResponse:
    if request.method != "POST":
        return JsonResponse({"error": "POST it."}, status=405)
    try:
        button = press(access, button_id)
    except Point.DoesNotExist as error:
        raise Http404 from error
    return JsonResponse({"pressed": button.name})


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


def showings(access: Access) -> list[dict[str, Any]]:
    """What rules have put up for this person, newest first, one for each camera."""
    found: dict[str, dict[str, Any]] = {}
    for showing in Showing.objects.filter(site=access.site, until__gt=now_ms()).order_by("-since"):
        if access.receives(showing.groups):
            found.setdefault(showing.camera, {"camera": showing.camera, "title": showing.title, "until": showing.until})
    return list(found.values())


def notices(access: Access) -> list[dict[str, Any]]:
    """What is shown to this person just now and passes by itself, newest first."""
    found = Notice.objects.filter(site=access.site, until__gt=now_ms(), since__lte=now_ms()).order_by("-since")[:20]
    return [{"id": n.pk, "text": n.text, "until": n.until} for n in found if access.receives(n.groups)]


def load_of(access: Access) -> dict[str, Any]:
    """The alarm load figure: alarms in the last ten minutes, and by ten minutes over the last two hours."""
    now, step = now_ms(), 600_000
    raised = list(visible_alarms(access).filter(raised_at__gt=now - 12 * step).values_list("raised_at", flat=True))
    counts = [sum(now - (i + 1) * step < at <= now - i * step for at in raised) for i in range(11, -1, -1)]
    most = max([*counts, 3])
    level = "flood" if counts[-1] >= FLOOD else "busy" if counts[-1] >= BUSY else "calm"
    return {
        "last": counts[-1],
        "level": level,
        "bars": [
            {"count": c, "height": max(1, round(20 * c / most)), "y": 20 - max(1, round(20 * c / most))} for c in counts
        ],
    }


def _buttons(access: Access) -> dict[str, list[Point]]:
    """Desk buttons by the camera they belong under: the first of their sightlines."""
    found: dict[str, list[Point]] = {}
    for button in Point.objects.filter(site=access.site, kind="button").prefetch_related("sightlines"):
        first = next(iter(button.sightlines.all()), None)
        found.setdefault(first.camera_id if first else "", []).append(button)
    return found
