"""Devices and points over the API."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.api.tables import TakenOut, as_file, said_of
from dromikon.clock import now_ms
from dromikon.core.devices.catalogue import topics_of
from dromikon.core.instants import iso
from dromikon.daybook.tally import tallies
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.device_table import devices_as_table, take_devices
from dromikon.sources.models import Device, Point, Search
from dromikon.sources.offers import catalogue_of, offered_points
from dromikon.sources.searching import add_found, begin_search
from dromikon.sources.services import (
    add_device,
    adopt_point,
    ask_again,
    change_device,
    note_changes,
    rename_point,
    retire_device,
    watch_session,
)

router = Router(tags=["devices"])


class DeviceOut(Schema):
    id: str
    name: str
    address: str
    state: str
    reason: str
    message: str
    clock_offset_ms: int
    information: dict[str, Any]
    topics: list[str]


class PointOut(Schema):
    id: str
    name: str
    kind: str
    area: str | None
    device: str | None
    tags: list[str]
    waits: float
    last_seen: dict[str, str]


class DeviceIn(Schema):
    """`name`: left out for a new one, it is called what it calls itself. `password`: left out or empty, the one that is kept
    stays. `area`: an area's id, or null. `trust`: the SHA-256 fingerprint of the certificate that it may show, once
    somebody has compared it."""

    name: str = ""
    address: str
    user: str = ""
    password: str | None = None
    area: str | None = None
    enabled: bool = True
    trust: str = ""


class OfferIn(Schema):
    """Something that the device offers, by its token there."""

    token: str
    name: str = ""


class AdoptedOut(Schema):
    """`recorded`: for cameras, whether a recorder keeps their pictures; null for other points."""

    id: str
    recorded: bool | None


@router.get("/devices", response=list[DeviceOut], summary="Devices with their health")
def devices(request: HttpRequest, site: Site = None) -> list[dict[str, Any]]:
    return [_device(d) for d in Device.objects.filter(site=at_site(request, site).site, retired_at=None)]


@router.post("/devices", response={201: DeviceOut, 403: Error, 422: Error}, summary="Make a device")
def make(request: HttpRequest, content: DeviceIn, site: Site = None) -> Any:
    made = add_device(
        at_site(request, site), name=content.name, address=content.address, user=content.user,
        password=content.password or None, area=content.area, enabled=content.enabled, trust=content.trust,
    )  # fmt: skip
    return 201, _device(made)


@router.get("/devices/table", summary="All devices as a table (CSV), without passwords", url_name="devices_table")
def table(request: HttpRequest, site: Site = None) -> HttpResponse:
    found = at_site(request, site)
    return as_file(devices_as_table(found), f"devices-{found.site.id}.csv")


@router.put("/devices/table", response={200: TakenOut, 403: Error, 422: Error}, summary="Devices from a table (CSV)")
def take_table(request: HttpRequest, site: Site = None) -> Any:
    return said_of(take_devices(at_site(request, site), request.body.decode("utf-8", "replace")))


@router.put("/devices/{device_id}", response={200: DeviceOut, 403: Error, 404: Error, 422: Error}, summary="Change one")
def replace(request: HttpRequest, device_id: str, content: DeviceIn, site: Site = None) -> Any:
    found = at_site(request, site)
    changed = change_device(
        found, find_device(found, device_id), name=content.name, address=content.address, user=content.user,
        password=content.password or None, area=content.area, enabled=content.enabled, trust=content.trust,
    )  # fmt: skip
    return _device(changed)


@router.delete(
    "/devices/{device_id}", response={204: None, 403: Error, 404: Error}, summary="Take one out of use, with its points"
)
def retire(request: HttpRequest, device_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    retire_device(found, find_device(found, device_id))
    return 204, None


@router.post(
    "/devices/{device_id}/points",
    response={201: AdoptedOut, 403: Error, 404: Error, 422: Error},
    summary="Make a point of something that the device offers",
)
def adopt(request: HttpRequest, device_id: str, content: OfferIn, site: Site = None) -> Any:
    found = at_site(request, site)
    device = find_device(found, device_id)
    offer = next((o for o in offered_points(device) if o["token"] == content.token), None)
    if offer is None:
        raise Http404("The device offers nothing of that name, or it has a point already.")
    name = content.name or offer["name"]
    point = adopt_point(found, device, offer["kind"], content.token, name, offer["waits"])
    return 201, {"id": point.id, "recorded": point.recorder_id is not None if point.kind == "camera" else None}


@router.post(
    "/devices/{device_id}/ask", response={204: None, 403: Error, 404: Error, 422: Error},
    summary="Ask a device again what it has",
)  # fmt: skip
def ask(request: HttpRequest, device_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    ask_again(found, find_device(found, device_id))
    return 204, None


@router.post(
    "/devices/{device_id}/watch", response={204: None, 403: Error, 404: Error},
    summary="Have what is said in a device's session written down for two minutes",
)  # fmt: skip
def watch(request: HttpRequest, device_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    watch_session(found, find_device(found, device_id))
    return 204, None


@router.post(
    "/devices/{device_id}/changes/note", response={204: None, 403: Error, 404: Error},
    summary="Note what has changed on a device",
)  # fmt: skip
def note(request: HttpRequest, device_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    note_changes(found, find_device(found, device_id))
    return 204, None


class SearchIn(Schema):
    """`addresses`: a list, ranges and networks as text; `network`: ask the network itself, too."""

    addresses: str = ""
    network: bool = False
    user: str = ""
    password: str = ""


class SearchOut(Schema):
    """`state` of each: asking, found, refused, silent, not_allowed, here, added or failed."""

    id: str
    ended: bool
    outcomes: list[dict[str, str]]


class ChosenIn(Schema):
    """Of a search: [address, name], and the area that they are put into."""

    chosen: list[tuple[str, str]]
    area: str | None = None


@router.post("/searches", response={201: SearchOut, 403: Error, 422: Error}, summary="Ask many addresses who is there")
def search(request: HttpRequest, content: SearchIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return 201, _search(begin_search(found, content.addresses, content.network, content.user, content.password))


@router.get("/searches/{search_id}", response={200: SearchOut, 403: Error, 404: Error}, summary="How a search goes")
def searched(request: HttpRequest, search_id: str, site: Site = None) -> Any:
    return _search(_find_search(at_site(request, site), search_id))


@router.post(
    "/searches/{search_id}/add", response={200: SearchOut, 403: Error, 404: Error}, summary="Add what was found"
)
def add_chosen(request: HttpRequest, search_id: str, content: ChosenIn, site: Site = None) -> Any:
    found = at_site(request, site)
    add_found(found, _find_search(found, search_id), content.chosen, content.area)
    return _search(_find_search(found, search_id))


def _find_search(found: Access, search_id: str) -> Search:
    found.need(May.EDIT_SOURCES)
    known = Search.objects.filter(pk=search_id, site=found.site).first()
    if known is None:
        raise Http404("There is no such search; they are kept for a day.")
    return known


def _search(row: Search) -> dict[str, Any]:
    return {"id": row.id, "ended": row.over(now_ms()), "outcomes": row.outcomes}


class NameIn(Schema):
    name: str


@router.put(
    "/points/{point_id}/name", response={204: None, 403: Error, 404: Error, 422: Error}, summary="Rename a point"
)
def rename(request: HttpRequest, point_id: str, content: NameIn, site: Site = None) -> Any:
    found = at_site(request, site)
    point = Point.objects.filter(pk=point_id, site=found.site, retired_at=None).first()
    if point is None:
        raise Http404("There is no such point.")
    rename_point(found, point, content.name)
    return 204, None


@router.get("/points", response=list[PointOut], summary="Points, with when each kind was last seen")
def points(request: HttpRequest, site: Site = None) -> list[dict[str, Any]]:
    found = at_site(request, site)
    seen: dict[str, dict[str, str]] = {}
    for (point, kind), tally in tallies(found.site.id).items():
        seen.setdefault(point, {})[kind] = iso(tally.last_at)
    return [
        {
            "id": p.id, "name": p.name, "kind": p.kind, "area": p.area_id, "device": p.device_id, "tags": p.tags, "waits": p.waits,
            "last_seen": seen.get(p.id, {}),
        }
        for p in Point.objects.filter(site=found.site, retired_at=None)
    ]  # fmt: skip


def find_device(found: Access, device_id: str) -> Device:
    device = Device.objects.filter(pk=device_id, site=found.site, retired_at=None).first()
    if device is None:
        raise Http404("There is no such device.")
    return device


def _device(row: Device) -> dict[str, Any]:
    return {
        "id": row.id, "name": row.name, "address": row.address, "state": row.state, "reason": row.reason,
        "message": row.message, "clock_offset_ms": row.clock_offset_ms, "information": row.information,
        "topics": topics_of(catalogue_of(row)) or [],
    }  # fmt: skip
