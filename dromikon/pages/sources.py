"""Sources: devices with their health, points and catalogue; intakes; the unclaimed."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon import config
from dromikon.clock import now_ms
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.sources.models import Device, Intake, Point, Unclaimed
from dromikon.sources.services import kinds_of, last_seen, offered_points
from dromikon.web.views import site_view

ICONS = {
    "button": "hand-click", "door": "door", "station": "bell", "sensor": "temperature", "power": "battery", "input": "plug",
    "relay": "bulb", "detector": "eye", "camera": "video",
}  # fmt: skip
MOST_KINDS = 4


@site_view()
def sources(request: HttpRequest, access: Access) -> HttpResponse:
    seen = last_seen(access)
    areas = []
    for area in access.site.areas.filter(retired_at=None):
        devices = [_device(d, seen) for d in area.devices.filter(retired_at=None)]
        loose = [_point(p, seen) for p in area.points.filter(device=None, retired_at=None)]
        areas.append({"area": area, "devices": devices, "loose": loose})
    loose = [_point(p, seen) for p in access.site.points.filter(area=None, device=None, retired_at=None)]
    unplaced = [_device(d, seen) for d in Device.objects.filter(site=access.site, area=None, retired_at=None)]
    if unplaced or loose:
        areas.append({"area": None, "devices": unplaced, "loose": loose})
    context = {
        "access": access,
        "areas": areas,
        "empty": not any(entry["devices"] or entry["loose"] for entry in areas),
        "intakes": Intake.objects.filter(site=access.site, retired_at=None),
        "intake_address": f"http://{config.host()}:{config.intake_port()}/in/",
        "unclaimed": Unclaimed.objects.filter(site=access.site)[:30],
        "unclaimed_count": Unclaimed.objects.filter(site=access.site).count(),
        "may_edit": access.may(May.EDIT_SOURCES),
        # A raw message may hold personal data, such as a face's template.
        "may_see_raw": access.may(May.EDIT_LISTS),
        "now": now_ms(),
    }
    return render(request, "sources/sources.html", context)


def _device(device: Device, seen: dict[tuple[str, str], int]) -> dict[str, Any]:
    points = [_point(p, seen) for p in device.points.filter(retired_at=None).select_related("device")]
    return {
        "device": device,
        "points": points,
        "camera": next((p["point"] for p in points if p["point"].kind == "camera"), None),
        "offset": device.clock_offset_ms / 1000 if abs(device.clock_offset_ms) >= 1500 else None,
        "offers": offered_points(device),
    }


def _point(point: Point, seen: dict[tuple[str, str], int]) -> dict[str, Any]:
    kinds = [(k, seen.get((point.id, k.name))) for k in kinds_of(point)]
    if point.device_id is None and any(last for _, last in kinds):
        # Nobody tells what it could send; what it has sent says more than a list of everything.
        kinds = [(k, last) for k, last in kinds if last]
    return {"point": point, "kinds": kinds[:MOST_KINDS], "icon": ICONS.get(point.kind, "wave-sine")}


@site_view(May.EDIT_SOURCES)
def device_sheet(request: HttpRequest, access: Access, device_id: str | None = None) -> HttpResponse:
    """The form of a device, or of a new one."""
    device = Device.objects.filter(pk=device_id, site=access.site, retired_at=None).first() if device_id else None
    if device_id and device is None:
        raise Http404
    context = {
        "access": access,
        "device": device,
        "areas": access.site.areas.filter(retired_at=None),
        "offers": offered_points(device) if device else [],
    }
    return render(request, "sources/_device_form.html", context)
