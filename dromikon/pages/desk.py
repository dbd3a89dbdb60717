"""Desk: alarms, answers, calls, buttons, and what is being watched."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string

from dromikon import config
from dromikon.core.alarms.states import OUTCOMES, AlarmState
from dromikon.core.at_hand import READY_WORDS
from dromikon.core.rules.actions.alarm import SOUNDS
from dromikon.core.words import N_, t
from dromikon.desk.board import load_of, notices
from dromikon.desk.buttons import buttons
from dromikon.desk.handling import shelved, suppressed
from dromikon.desk.models import PRIORITY_ORDER, Alarm, Evidence, Sound
from dromikon.desk.services import in_order, visible_alarms
from dromikon.operating.calls import going_on, lately
from dromikon.operating.listening import may_listen
from dromikon.operating.pauses import concerning, paused_counts
from dromikon.operating.screens import arrangements, cameras_of, of_desk, own_desk
from dromikon.pages.cards import cards_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.displays import LAYOUTS
from dromikon.situation import situation_of
from dromikon.sources.models import Point
from dromikon.web.companions import accompanies
from dromikon.web.views import site_view

#: Bars of the load figure, in its drawing.
BAR_HEIGHT, BAR_STEP = 20, 8
#: So many alarms are cards; the rest are lines below them, of which so many are shown.
CARDS, LINES = 8, 60
SOUND_WORDS = {
    "none": N_("silent"), "chime": N_("a chime"), "call": N_("a call"), "urgent": N_("an urgent signal"),
}  # fmt: skip


@site_view()
def desk(request: HttpRequest, access: Access) -> HttpResponse:
    own = own_desk(access)
    context = {
        "access": access,
        **_waiting(access),
        "load": drawn_load(access),
        "inside": [c for c in situation_of(access.site)["counters"] if c["room"]],
        "closed": visible_alarms(access).filter(state=AlarmState.CLOSED).order_by("-id")[:8],
        **_shelf(access),
        "calls_lately": lately(access) if access.may(May.ACKNOWLEDGE) else [],
        "may_answer": access.may(May.ACKNOWLEDGE),
        "outcomes": OUTCOMES.items(),
        "layouts": LAYOUTS.items(),
        "ready_words": [t(words) for words in READY_WORDS],
        "own_priorities": _own_sounds(access, own.sounds),
        "carried": {
            "most": CARDS,
            "screen": of_desk(access, own).to_json(),
            "own": {"cells": own.cells, "switching": own.switching, "arrangement": own.arrangement, "sounds": own.sounds},
            "arrangements": list(arrangements(access).values_list("name", flat=True)),
            "cameras": [_watchable(access, c) for c in cameras_of(access)],
            "buttons": [b.to_json() for b in buttons(access)],
            "calls": going_on(access),
            "paused": paused_counts(access.site),
            "notices": notices(access),
        },
    }  # fmt: skip
    return render(request, "desk/desk.html", context)


def _watchable(access: Access, camera: Point) -> dict[str, Any]:
    return {
        "id": camera.id, "name": camera.name, "area": camera.area.name if camera.area else "",
        "heard": may_listen(access, camera),
    }  # fmt: skip


def _waiting(access: Access) -> dict[str, Any]:
    """The first alarms as cards, the next ones as lines, and how many there are."""
    ordered = in_order(access)
    found = list(ordered[: CARDS + LINES])
    count = len(found) if len(found) < CARDS + LINES else ordered.count()
    return {
        "cards": cards_of(access, found[:CARDS]),
        "more": found[CARDS:],
        "beyond": max(0, count - CARDS),
        "unlisted": max(0, count - CARDS - LINES),
    }


def _own_sounds(access: Access, chosen: dict[str, str]) -> list[dict[str, Any]]:
    """What each priority may sound like, and what somebody has chosen."""
    own = Sound.objects.filter(site=access.site, retired_at=None).values_list("id", "name")
    sounds = [(name, t(SOUND_WORDS[name])) for name in SOUNDS] + list(own)
    return [
        {
            "name": priority, "words": t(priority),
            "options": [{"value": v, "words": w, "chosen": chosen.get(priority) == v} for v, w in sounds],
        }
        for priority in PRIORITY_ORDER
    ]  # fmt: skip


def _shelf(access: Access) -> dict[str, Any]:
    return {"shelved": shelved(access), "suppressed": suppressed(access)}


@site_view()
def shelf(request: HttpRequest, access: Access) -> HttpResponse:
    """What is on the shelf, for a page that heard of an alarm."""
    context = {"access": access, **_shelf(access), "may_answer": access.may(May.ACKNOWLEDGE)}
    return render(request, "desk/_shelf.html", context)


@site_view()
def cards(request: HttpRequest, access: Access) -> HttpResponse:
    """The alarms that wait again, for a page of which some have gone or come beyond its cards."""
    return render(request, "desk/_waiting.html", {"access": access, **_waiting(access)})


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
    [card] = cards_of(access, [alarm], next_first=False)
    return render_to_string("desk/_alarm.html", {"access": access, "card": card})


@site_view()
def load(request: HttpRequest, access: Access) -> HttpResponse:
    """The load figure again, for a page that heard of an alarm."""
    return render(request, "desk/_load.html", {"load": drawn_load(access)})


@site_view()
def camera_sheet(request: HttpRequest, access: Access, camera: str) -> HttpResponse:
    """A camera as whoever watches it wants it: the rules that concern it, and which of them are paused there."""
    point = cameras_of(access).filter(id=camera).first()
    if point is None:
        raise Http404
    context = {
        "access": access,
        "camera": point,
        "rules": concerning(access, camera),
        "may_pause": access.may(May.PAUSE),
    }
    return render(request, "desk/_camera.html", context)


@site_view()
def sound(request: HttpRequest, access: Access, sound_id: str) -> HttpResponse:
    """A sound of the site's own."""
    known = Sound.objects.filter(pk=sound_id, site=access.site).first()
    if known is None:
        raise Http404
    response = HttpResponse(bytes(known.content), content_type=known.media)
    response["Cache-Control"] = "private, max-age=3600"
    return response


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
