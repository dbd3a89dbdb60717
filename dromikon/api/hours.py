"""Hours over the API: weeks with seasons, exceptions, daylight and iCalendar texts."""

from dataclasses import asdict
from datetime import date
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import Field

from dromikon.api.base import Error, Site, at_site
from dromikon.clock import now_ms
from dromikon.core.hours import Hours as HoursDocument
from dromikon.core.hours import instants_of, sun_minute, wall_clock
from dromikon.core.hours_shown import standing, year_shown
from dromikon.core.hours_written import a_year_on, to_ical
from dromikon.core.instants import Instant, iso
from dromikon.facts import names_of
from dromikon.hours.models import Hours
from dromikon.hours.services import delete_hours, read_hours, save_hours, version_of
from dromikon.people.access import Access

router = Router(tags=["hours"])


class HoursOut(Schema):
    """`version` is sent along when it is replaced, so that nobody's change is lost. `inside`: whether it is inside just now;
    `starts` and `ends`: when it next does."""

    id: str
    name: str
    document: dict[str, Any]
    version: str
    inside: bool
    starts: str | None
    ends: str | None


class HoursIn(Schema):
    """`version`: of what is replaced; empty: whatever it is now."""

    name: str
    document: dict[str, Any]
    version: str = Field(default="", max_length=16)


class AskedOut(Schema):
    document: dict[str, Any]
    year: int = Field(ge=1970, le=2200)


class DayOut(Schema):
    """`spans`: minutes of the wall clock that are inside."""

    day: date
    spans: list[tuple[int, int]]
    excepted: bool
    why: str


class ShownOut(Schema):
    """What a document means: what holds now, until when, and until when the other holds then; each day of a year; and the
    minutes at which the sun rises and sets today."""

    inside: bool
    until: str | None
    then_until: str | None
    days: list[DayOut]
    sun: tuple[int, int]


@router.get("", response=list[HoursOut], summary="Hours of the site")
def hours(request: HttpRequest, site: Site = None) -> Any:
    found = at_site(request, site)
    return [_out(found, row) for row in Hours.objects.filter(site=found.site)]


@router.post("", response={201: HoursOut, 403: Error, 422: Error}, summary="Make hours")
def make(request: HttpRequest, content: HoursIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return 201, _out(found, save_hours(found, content.name, content.document))


@router.post("/shown", response={200: ShownOut, 403: Error, 422: Error}, summary="What a document of hours means")
def shown(request: HttpRequest, content: AskedOut, site: Site = None) -> Any:
    found = at_site(request, site)
    document, place, now = read_hours("asked", content.document), names_of(found.site).place, now_ms()
    stands, today = standing(document, now, place), wall_clock(now, place.zone).date()
    return {
        "inside": stands.inside, "until": _iso(stands.until), "then_until": _iso(stands.then_until),
        "days": [asdict(day) for day in year_shown(document, content.year, place)],
        "sun": [sun_minute(which, today, place) for which in ("sunrise", "sunset")],
    }  # fmt: skip


@router.put(
    "/{hours_id}", response={200: HoursOut, 403: Error, 404: Error, 409: Error, 422: Error}, summary="Replace hours"
)
def replace(request: HttpRequest, hours_id: str, content: HoursIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return _out(
        found, save_hours(found, content.name, content.document, _find(found, hours_id), version=content.version)
    )


@router.delete("/{hours_id}", response={204: None, 403: Error, 404: Error}, summary="Delete hours")
def delete(request: HttpRequest, hours_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    delete_hours(found, _find(found, hours_id))
    return 204, None


@router.get("/{hours_id}/calendar", response={404: Error}, summary="The times of the coming year as iCalendar")
def calendar(request: HttpRequest, hours_id: str, site: Site = None) -> HttpResponse:
    found = at_site(request, site)
    row, place = _find(found, hours_id), names_of(found.site).place
    # From midnight on, so that what holds just now is whole.
    today = wall_clock(now_ms(), place.zone).date()
    begin = next(instants_of(today, 0, place.zone))
    answer = HttpResponse(to_ical(_document(row), begin, a_year_on(begin), place), content_type="text/calendar")
    answer["Content-Disposition"] = f'attachment; filename="{row.id}.ics"'
    return answer


def _find(found: Access, hours_id: str) -> Hours:
    row = Hours.objects.filter(pk=hours_id, site=found.site).first()
    if row is None:
        raise Http404("There are no such hours.")
    return row


def _out(found: Access, row: Hours) -> dict[str, Any]:
    known = _document(row)
    place, now = names_of(found.site).place, now_ms()
    starts, ends = (known.next_change(now, place, opens) for opens in (True, False))
    return {
        "id": row.id, "name": row.name, "document": row.document, "version": version_of(row), "inside": known.contains(now, place),
        "starts": _iso(starts), "ends": _iso(ends),
    }  # fmt: skip


def _document(row: Hours) -> HoursDocument:
    return HoursDocument.model_validate({**row.document, "id": row.id, "name": row.name})


def _iso(instant: Instant | None) -> str | None:
    return iso(instant) if instant is not None else None
