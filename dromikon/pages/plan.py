"""The site plan: points where they stand, how they are, what cameras see; and one point's sheet."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.authoring.points import Stands, how_points_stand
from dromikon.clock import now_ms
from dromikon.core.point_kinds import ICONS, POINT_KINDS
from dromikon.core.words import t
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.sources.models import Point, SitePlan
from dromikon.sources.offers import catalogue_of
from dromikon.sources.plan import eye_of, suggestions
from dromikon.web.views import site_view


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
    context = {
        "access": access,
        "point": found,
        "stand": how_points_stand(access.site, [found], now_ms())[found.id],
        "lines": [{"line": line, "presets": _presets(cameras.get(line.camera_id))} for line in lines],
        "suggested": [cameras[id] for id in seen],
        "others": [c for id, c in cameras.items() if id not in {line.camera_id for line in lines} and id not in seen],
        "looks_at": [line.point for line in found.looks_at.select_related("point")] if found.kind == "camera" else [],
        "may_edit": access.may(May.EDIT_SOURCES),
        "may_build": access.may(May.EDIT_RULES),
    }
    return render(request, "sources/_plan_point.html", context)


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
    suggested = suggestions(known)
    return [_point(p, stands[p.id], len(suggested.get(p.id, ()))) for p in known]


def _point(point: Point, stand: Stands, suggested: int) -> dict[str, Any]:
    eye = eye_of(point) if point.kind == "camera" else None
    return {
        "id": point.id, "name": point.name, "kind": point.kind, "icon": ICONS.get(point.kind, "wave-sine"),
        "area": point.area.name if point.area else "", "x": point.x, "y": point.y,
        "channel": point.channel_id, "now": stand.present.now, "state": _state(stand), "last": stand.last_at,
        "eye": {"looks": eye.looks, "view": eye.view, "reach": eye.reach} if eye else None,
        "seen_by": [line.camera_id for line in point.sightlines.all()], "suggested": suggested,
    }  # fmt: skip


def _state(stand: Stands) -> str:
    """How its mark looks: lost, on, silent or rest."""
    if stand.present.lost:
        return "lost"
    return "on" if stand.present.on else "silent" if stand.silent else "rest"
