"""The site plan: points where they stand, how they are, what cameras see; and one point's sheet."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.authoring.points import Stands, how_points_stand
from dromikon.clock import now_ms
from dromikon.core.alarms.states import OPEN_TO_ANSWER
from dromikon.core.point_kinds import ICONS, POINT_KINDS
from dromikon.core.words import t
from dromikon.daybook.models import EventRow
from dromikon.desk.buttons import buttons
from dromikon.desk.services import alarms_by_point, visible_alarms
from dromikon.facts import names_of
from dromikon.operating.commands import offered
from dromikon.pages.daybook import rows_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.rulebook.models import Rule
from dromikon.scene.camera import optics_of
from dromikon.scene.siting import bands
from dromikon.sources.models import Point, SitePlan
from dromikon.sources.offers import catalogue_of
from dromikon.sources.plan import eye_of, suggestions
from dromikon.web.views import site_view

#: So many of a point's last events are shown.
LATELY = 6


@site_view()
def plan(request: HttpRequest, access: Access) -> HttpResponse:
    found = SitePlan.objects.filter(site=access.site).defer("content").first()
    context = {
        "access": access,
        "plan": found,
        "points": _points(access) if found else [],
        "may_edit": access.may(May.EDIT_SOURCES),
        "words": {kind: t(words) for kind, words in POINT_KINDS.items()},
    }
    return render(request, "sources/plan.html", context)


@site_view()
def point_sheet(request: HttpRequest, access: Access, point_id: str) -> HttpResponse:
    """One point: how it is, and which cameras look at it."""
    found = _known(access).filter(pk=point_id).first()
    if found is None:
        raise Http404
    lines = list(found.sightlines.all())
    cameras = {p.id: p for p in _known(access).filter(kind="camera")}
    seen = suggestions([*cameras.values(), found]).get(found.id, [])
    stand = how_points_stand(access.site, [found], now_ms())[found.id]
    context = {
        "access": access,
        "point": found,
        "stand": stand,
        "lines": [{"line": line, "presets": _presets(cameras.get(line.camera_id))} for line in lines],
        "suggested": [cameras[id] for id in seen],
        "others": [c for id, c in cameras.items() if id not in {line.camera_id for line in lines} and id not in seen],
        "looks_at": [line.point for line in found.looks_at.select_related("point")] if found.kind == "camera" else [],
        "may_edit": access.may(May.EDIT_SOURCES),
        "may_build": access.may(May.EDIT_RULES),
        **_live(access, found, stand),
    }
    return render(request, "sources/_plan_point.html", context)


def _live(access: Access, point: Point, stand: Stands) -> dict[str, Any]:
    """What whoever watches the plan wants of a point: its alarms, what came last, its picture, its rules, its commands."""
    facts, heard = names_of(access.site), stand.rules
    commands = [row for row in offered(access, point.id) if row["id"] == point.id]
    return {
        "alarms": visible_alarms(access).filter(point=point.id, state__in=OPEN_TO_ANSWER).order_by("rank", "-id"),
        "camera": next(iter(facts.cameras_of(point.id)), ""),
        "recent": rows_of(EventRow.objects.filter(site=access.site.id, point=point.id, initial=False).order_by("-seq")[:LATELY]),
        "rules": Rule.objects.filter(id__in=heard).order_by("name"),
        "commands": commands[0]["offers"] if commands else [],
        "button": next((b for b in buttons(access) if b.id == point.id), None) if point.kind == "button" else None,
    }  # fmt: skip


def _known(access: Access) -> Any:
    known = access.site.points.filter(retired_at=None).select_related("area", "device")
    return known.prefetch_related("sightlines__camera")


def _presets(camera: Point | None) -> list[dict[str, str]]:
    """The positions that a camera knows by name."""
    if camera is None or camera.device is None:
        return []
    said = catalogue_of(camera.device).get("presets", [])
    return [{"token": p["token"], "name": p["name"]} for p in said if p["channel"] == camera.token]


def _points(access: Access) -> list[dict[str, Any]]:
    known = list(_known(access))
    stands = how_points_stand(access.site, known, now_ms())
    suggested, alarms = suggestions(known), alarms_by_point(access)
    return [{**_point(p, stands[p.id], len(suggested.get(p.id, ()))), "alarm": alarms.get(p.id, "")} for p in known]


def _point(point: Point, stand: Stands, suggested: int) -> dict[str, Any]:
    eye = eye_of(point) if point.kind == "camera" else None
    return {
        "id": point.id, "name": point.name, "kind": point.kind, "icon": ICONS.get(point.kind, "wave-sine"),
        "area": point.area.name if point.area else "", "x": point.x, "y": point.y,
        "channel": point.channel_id, "now": stand.present.now, "state": _state(stand), "last": stand.last_at,
        "eye": {"looks": eye.looks, "view": eye.view, "reach": eye.reach} if eye else None,
        "bands": _bands(point) if eye else [],
        "seen_by": [line.camera_id for line in point.sightlines.all()], "suggested": suggested,
    }  # fmt: skip


def _bands(camera: Point) -> list[dict[str, Any]]:
    """What its picture suffices for, as far as it is shown, the nearest first."""
    optics = optics_of(camera)
    return bands(optics) if optics else []


def _state(stand: Stands) -> str:
    """How its mark looks: lost, on, silent or rest."""
    if stand.present.lost:
        return "lost"
    return "on" if stand.present.on else "silent" if stand.silent else "rest"
