"""Sources: devices with their health, points and catalogue; intakes; the unclaimed."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.cache import never_cache

from dromikon import config
from dromikon.clock import now_ms
from dromikon.core.rules.starting import STARTING
from dromikon.core.words import t
from dromikon.pages.daybook import recent_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.sites.models import Area
from dromikon.sources.models import Device, Intake, Point, Search, Unclaimed
from dromikon.sources.services import kinds_of, last_seen, offered_points
from dromikon.web.views import site_view

ICONS = {
    "button": "hand-click", "door": "door", "station": "bell", "sensor": "temperature", "power": "battery", "input": "plug",
    "relay": "bulb", "detector": "eye", "camera": "video",
}  # fmt: skip
MOST_KINDS = 4
#: So many of a device's last events stand on its page.
MOST_RECENT = 12


@site_view()
def sources(request: HttpRequest, access: Access) -> HttpResponse:
    areas = _by_area(access)
    unclaimed = Unclaimed.objects.filter(site=access.site)
    context = {
        "access": access,
        "areas": areas,
        "empty": not any(entry["devices"] or entry["loose"] for entry in areas),
        "intakes": Intake.objects.filter(site=access.site, retired_at=None),
        "intake_address": f"http://{config.host()}:{config.intake_port()}/in/",
        "unclaimed": unclaimed[:30],
        "unclaimed_count": unclaimed.count(),
        "may_edit": access.may(May.EDIT_SOURCES),
        # A raw message may hold personal data, such as a face's template.
        "may_see_raw": access.may(May.EDIT_LISTS),
        "now": now_ms(),
    }
    return render(request, "sources/sources.html", context)


def _by_area(access: Access) -> list[dict[str, Any]]:
    """The devices and loose points of each area, then those of none: as many questions however many there are."""
    seen = last_seen(access)
    points: dict[str | None, list[Point]] = {}
    loose: dict[str | None, list[dict[str, Any]]] = {}
    for point in access.site.points.filter(retired_at=None).select_related("device", "area"):
        points.setdefault(point.device_id, []).append(point)
        if point.device_id is None:
            loose.setdefault(point.area_id, []).append(_point(point, seen))
    devices: dict[str | None, list[dict[str, Any]]] = {}
    for device in access.site.devices.filter(retired_at=None):
        devices.setdefault(device.area_id, []).append(_device(device, points.get(device.id, []), seen))
    areas: list[Area | None] = list(access.site.areas.filter(retired_at=None))
    if None in devices or None in loose:
        areas.append(None)
    return [
        {"area": area, "devices": devices.get(id, []), "loose": loose.get(id, [])}
        for area in areas
        for id in (area.id if area else None,)
    ]


def _device(device: Device, points: list[Point], seen: dict[tuple[str, str], int]) -> dict[str, Any]:
    return {
        "device": device,
        "points": [_point(p, seen) for p in points],
        "camera": next((p for p in points if p.kind == "camera"), None),
        "offset": device.clock_offset_ms / 1000 if abs(device.clock_offset_ms) >= 1500 else None,
        "offers": offered_points(device, {p.token for p in points}),
    }


def _point(point: Point, seen: dict[tuple[str, str], int]) -> dict[str, Any]:
    kinds = [(k, seen.get((point.id, k.name))) for k in kinds_of(point)]
    if point.device_id is None and any(last for _, last in kinds):
        # Nobody tells what it could send; what it has sent says more than a list of everything.
        kinds = [(k, last) for k, last in kinds if last]
    return {"point": point, "kinds": kinds[:MOST_KINDS], "icon": ICONS.get(point.kind, "wave-sine")}


@site_view()
def device(request: HttpRequest, access: Access, device_id: str) -> HttpResponse:
    """One device: how it is, what it offers, its points, what comes from it, and which rules it is good for."""
    found = _find(access, device_id)
    points = list(found.points.filter(retired_at=None).select_related("device").prefetch_related("sightlines__camera"))
    context = {
        "access": access,
        "device": found,
        "item": _device(found, points, last_seen(access)),
        "proposed": _proposed(points),
        "may_edit": access.may(May.EDIT_SOURCES),
        "may_build": access.may(May.EDIT_RULES),
        **_come(access, found, points),
    }
    return render(request, "sources/device.html", context)


@site_view()
@never_cache
def device_recent(request: HttpRequest, access: Access, device_id: str) -> HttpResponse:
    """What has come from it last, for a page that heard that something did."""
    found = _find(access, device_id)
    points = list(found.points.filter(retired_at=None))
    return render(request, "sources/_come.html", {"access": access, "device": found, **_come(access, found, points)})


def _come(access: Access, device: Device, points: list[Point]) -> dict[str, Any]:
    """The last events of its points, and its messages that nobody understood."""
    unclaimed = Unclaimed.objects.filter(site=access.site, source=device.name)[:10]
    return {
        "recent": recent_of(access, points, MOST_RECENT),
        "unclaimed": unclaimed,
        "may_see_raw": access.may(May.EDIT_LISTS),
    }


def _proposed(points: list[Point]) -> list[dict[str, str]]:
    """Rules for common jobs that what it is and sends is good for."""
    kinds = {kind.name for point in points for kind in kinds_of(point)}
    return [{"id": s.id, "title": t(s.title), "about": t(s.about)} for s in STARTING if kinds.intersection(s.kinds)]


def _find(access: Access, device_id: str) -> Device:
    found = Device.objects.filter(pk=device_id, site=access.site, retired_at=None).first()
    if found is None:
        raise Http404
    return found


@site_view(May.EDIT_SOURCES)
@never_cache
def find(request: HttpRequest, access: Access) -> HttpResponse:
    """Many devices at once: asked, chosen, added. A search that was left is there again."""
    last = Search.objects.filter(site=access.site).first()
    context = {"access": access, "areas": access.site.areas.filter(retired_at=None), "last": last.id if last else ""}
    return render(request, "sources/find.html", context)


@site_view(May.EDIT_SOURCES)
def device_sheet(request: HttpRequest, access: Access, device_id: str | None = None) -> HttpResponse:
    """The form of a device, or of a new one."""
    device = _find(access, device_id) if device_id else None
    context = {"access": access, "device": device, "areas": access.site.areas.filter(retired_at=None)}
    return render(request, "sources/_device_form.html", context)
