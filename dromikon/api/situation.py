"""The site's mode and counters over the API."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.situation import (
    delete_counter,
    make_counter,
    set_counter,
    set_mode,
    set_modes,
    set_place,
    situation_of,
)  # fmt: skip

router = Router(tags=["situation"])


class CounterOut(Schema):
    id: str
    name: str
    value: int


class SituationOut(Schema):
    mode: str
    modes: list[str]
    counters: list[CounterOut]


class ModeIn(Schema):
    mode: str


class CounterIn(Schema):
    value: int


class ModesIn(Schema):
    modes: list[str]


class PlaceIn(Schema):
    latitude: float
    longitude: float


class NameIn(Schema):
    name: str


@router.get("", response=SituationOut, summary="The mode, and where the counters stand")
def situation(request: HttpRequest, site: Site = None) -> Any:
    return situation_of(at_site(request, site).site)


@router.put("/modes", response={200: SituationOut, 403: Error, 422: Error}, summary="Which modes the site has")
def modes(request: HttpRequest, content: ModesIn, site: Site = None) -> Any:
    found = at_site(request, site)
    set_modes(found, content.modes)
    return situation_of(found.site)


@router.put("/place", response={204: None, 403: Error, 422: Error}, summary="Where the sun is reckoned for, in degrees")
def place(request: HttpRequest, content: PlaceIn, site: Site = None) -> Any:
    set_place(at_site(request, site), content.latitude, content.longitude)
    return 204, None


@router.post("/counters", response={201: CounterOut, 403: Error, 422: Error}, summary="Make a counter")
def make(request: HttpRequest, content: NameIn, site: Site = None) -> Any:
    made = make_counter(at_site(request, site), content.name)
    return 201, {"id": made.id, "name": made.name, "value": 0}


@router.delete("/counters/{counter_id}", response={204: None, 403: Error, 422: Error}, summary="Delete a counter")
def delete(request: HttpRequest, counter_id: str, site: Site = None) -> Any:
    delete_counter(at_site(request, site), counter_id)
    return 204, None


@router.put("/mode", response={202: None, 403: Error, 422: Error}, summary="Set the mode by hand")
def mode(request: HttpRequest, content: ModeIn, site: Site = None) -> Any:
    set_mode(at_site(request, site), content.mode)
    return 202, None


@router.put("/counters/{counter_id}", response={202: None, 403: Error, 422: Error}, summary="Set a counter by hand")
def counter(request: HttpRequest, counter_id: str, content: CounterIn, site: Site = None) -> Any:
    set_counter(at_site(request, site), counter_id, content.value)
    return 202, None
