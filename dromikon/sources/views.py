"""Sources: devices with their health, points and catalogue; intakes; the unclaimed."""

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render

from dromikon import config
from dromikon.clock import now_ms
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sources.models import Device, Intake, Point, Unclaimed
from dromikon.sources.services import adopt_point, kinds_of, last_seen, offered_points, save_device
from dromikon.web.views import body_of, site_view

ICONS = {
    "button": "hand-click", "door": "door", "station": "bell", "sensor": "temperature", "power": "battery", "input": "plug",
    "relay": "bulb", "detector": "eye", "camera": "video",
}  # fmt: skip
MOST_KINDS = 4


@site_view()
def sources(request: HttpRequest, access: Access) -> HttpResponse:
    seen = last_seen(access)
    areas = []
    for area in access.site.areas.all():
        devices = [_device(d, seen) for d in area.devices.prefetch_related("points")]
        loose = [_point(p, seen) for p in area.points.filter(device=None)]
        areas.append({"area": area, "devices": devices, "loose": loose})
    unplaced = [_device(d, seen) for d in Device.objects.filter(site=access.site, area=None)]
    if unplaced:
        areas.append({"area": None, "devices": unplaced, "loose": []})
    context = {
        "access": access,
        "areas": areas,
        "intakes": Intake.objects.filter(site=access.site),
        "intake_address": f"http://{config.host()}:{config.intake_port()}/in/",
        "unclaimed": Unclaimed.objects.filter(site=access.site)[:30],
        "unclaimed_count": Unclaimed.objects.filter(site=access.site).count(),
        "may_edit": access.may(May.EDIT_SOURCES),
        # A raw message may hold personal data, such as a face's template.
        "may_see_raw": access.may(May.EDIT_LISTS),
        "now": now_ms(),
    }
    return render(request, "sources/sources.html", context)


def _device(device: Device, seen: dict[tuple[str, str], int]) -> dict[str, object]:
    points = [_point(p, seen) for p in device.points.select_related("device")]
    return {
        "device": device,
        "points": points,
        "camera": next((p["point"] for p in points if p["point"].kind == "camera"), None),
        "offset": device.clock_offset_ms / 1000 if abs(device.clock_offset_ms) >= 1500 else None,
        "offers": offered_points(device),
    }


def _point(point: Point, seen: dict[tuple[str, str], int]) -> dict[str, object]:
    kinds = [(k, seen.get((point.id, k.name))) for k in kinds_of(point)]
    if point.device_id is None and any(last for _, last in kinds):
        # Nobody tells what it could send; what it has sent says more than a list of everything.
        kinds = [(k, last) for k, last in kinds if last]
    return {"point": point, "kinds": kinds[:MOST_KINDS], "icon": ICONS.get(point.kind, "wave-sine")}


@site_view(May.EDIT_SOURCES)
def device_sheet(request: HttpRequest, access: Access, device_id: str | None = None) -> HttpResponse:
    """GET: the form of a device. POST JSON: save it."""
    device = Device.objects.filter(pk=device_id, site=access.site).first() if device_id else None
    if device_id and device is None:
        raise Http404
    if request.method != "POST":
        context = {
            "access": access,
            "device": device,
            "areas": access.site.areas.all(),
            "offers": offered_points(device) if device else [],
        }
        return render(request, "sources/_device_form.html", context)
    content = body_of(request)
    if not isinstance(content, dict):
        return JsonResponse({"error": "POST the device as JSON."}, status=400)
    try:
        saved = save_device(
            access,
            device,
            name=str(content.get("name", "")),
            address=str(content.get("address", "")),
            user=str(content.get("user", "")),
            password=str(content["password"]) if content.get("password") else None,
            area=content.get("area"),
            enabled=bool(content.get("enabled", True)),
        )
    except Refused as refused:
        return JsonResponse({"problems": [p.model_dump() for p in refused.problems]}, status=422)
    return JsonResponse({"id": saved.id})


@site_view(May.EDIT_SOURCES)
def adopt(request: HttpRequest, access: Access, device_id: str) -> JsonResponse:
    """POST {token, name}: make a point of something the device offers."""
    device = Device.objects.filter(pk=device_id, site=access.site).first()
    content = body_of(request)
    if device is None or not isinstance(content, dict):
        raise Http404
    offer = next((o for o in offered_points(device) if o["token"] == content.get("token")), None)
    if offer is None:
        return JsonResponse({"error": "The device offers nothing of that name, or it has a point already."}, status=404)
    point = adopt_point(
        access,
        device,
        str(offer["kind"]),
        str(offer["token"]),
        str(content.get("name") or offer["name"]),
        float(str(offer["waits"])),
    )
    recorded = point.recorder_id is not None if point.kind == "camera" else None
    return JsonResponse({"id": point.id, "recorded": recorded}, status=201)
