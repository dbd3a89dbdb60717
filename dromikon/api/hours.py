"""Hours over the API: weeks with seasons, exceptions, daylight and iCalendar texts."""

from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.clock import now_ms
from dromikon.core.hours import Hours as HoursDocument
from dromikon.core.instants import iso
from dromikon.facts import names_of
from dromikon.hours.models import Hours
from dromikon.hours.services import delete_hours, save_hours
from dromikon.people.access import Access

router = Router(tags=["hours"])


class HoursOut(Schema):
    """`inside`: whether it is inside just now; `starts` and `ends`: when it next does."""

    id: str
    name: str
    document: dict[str, Any]
    inside: bool
    starts: str | None
    ends: str | None


class HoursIn(Schema):
    name: str
    document: dict[str, Any]


@router.get("", response=list[HoursOut], summary="Hours of the site")
def hours(request: HttpRequest, site: Site = None) -> Any:
    found = at_site(request, site)
    return [_out(found, row) for row in Hours.objects.filter(site=found.site)]


@router.post("", response={201: HoursOut, 403: Error, 422: Error}, summary="Make hours")
def make(request: HttpRequest, content: HoursIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return 201, _out(found, save_hours(found, content.name, content.document))


@router.put("/{hours_id}", response={200: HoursOut, 403: Error, 404: Error, 422: Error}, summary="Replace hours")
def replace(request: HttpRequest, hours_id: str, content: HoursIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return _out(found, save_hours(found, content.name, content.document, _find(found, hours_id)))


@router.delete("/{hours_id}", response={204: None, 403: Error, 404: Error}, summary="Delete hours")
def delete(request: HttpRequest, hours_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    delete_hours(found, _find(found, hours_id))
    return 204, None


def _find(found: Access, hours_id: str) -> Hours:
    row = Hours.objects.filter(pk=hours_id, site=found.site).first()
    if row is None:
        raise Http404("There are no such hours.")
    return row


def _out(found: Access, row: Hours) -> dict[str, Any]:
    known = HoursDocument.model_validate({**row.document, "id": row.id, "name": row.name})
    place, now = names_of(found.site).place, now_ms()
    starts, ends = (known.next_change(now, place, opens) for opens in (True, False))
    return {
        "id": row.id, "name": row.name, "document": row.document, "inside": known.contains(now, place),
        "starts": iso(starts) if starts else None, "ends": iso(ends) if ends else None,
    }  # fmt: skip
