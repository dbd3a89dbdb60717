"""A camera's own detectors, drawn over its picture and set on the device."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.core.decoding.onvif import TOPIC_KINDS
from dromikon.core.devices.catalogue import DetectorSaid, detector_token
from dromikon.core.devices.settings import settings_of
from dromikon.core.kinds import KINDS
from dromikon.pages.device import find_device
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.sources.detectors import type_of
from dromikon.sources.models import Device
from dromikon.sources.offers import catalogue_of
from dromikon.sources.thermal import measures_spots
from dromikon.web.views import site_view


@site_view()
def detectors(request: HttpRequest, access: Access, device_id: str) -> HttpResponse:
    """All of them, the one that is asked for (?detector=) or the first one opened."""
    device = find_device(access, device_id)
    points = {p.token: p for p in device.points.filter(retired_at=None)}
    known = [_detector(device, d, points) for d in catalogue_of(device).get("detectors", [])]
    wanted = request.GET.get("detector", "")
    context = {
        "access": access,
        "device": device,
        "camera": next((p for p in points.values() if p.kind == "camera"), None),
        "detectors": known,
        "opened": next((d for d in known if d["token"] == wanted), known[0] if known else None),
        "drawn": [{"token": d["token"], "name": d["name"], "shapes": d["shapes"]} for d in known],
        "types": [_type(t["name"], t["topics"]) for t in catalogue_of(device).get("detector_types", [])],
        "may_edit": access.may(May.EDIT_SOURCES),
        "spot": _spot(device) if access.may(May.EDIT_SOURCES) else None,
    }
    return render(request, "sources/detectors.html", context)


def _detector(device: Device, said: DetectorSaid, points: dict[str, Any]) -> dict[str, Any]:
    token = detector_token(said)
    described = type_of(device, said["type"])
    return {
        "token": token,
        "name": said["name"],
        "type": _type(said["type"], described["topics"] if described else []),
        "settings": settings_of(said, described),
        "shapes": said.get("shapes", []),
        "point": points.get(token),
        "waits": said["waits"],
    }


def _spot(device: Device) -> dict[str, str] | None:
    """The type of detector that measures a single place, and what it calls that."""
    described = measures_spots(device)
    items = [p["name"] for p in described["parameters"] if p["type"] == "Vector"] if described else []
    return {"type": described["name"], "item": items[0]} if described else None


def _type(name: str, topics: list[str]) -> dict[str, str]:
    """A type of detector: by the kind of event that it sends where that is known here, else as the device calls it."""
    kind = next((KINDS[kind] for topic in topics for kind in TOPIC_KINDS.get(topic, ())), None)
    return {"name": name, "label": kind.label if kind else name.rsplit(":", 1)[-1]}
