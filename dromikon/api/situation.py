"""The site's mode and counters over the API."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from dromikon.api.base import Error, Site, at_site
from dromikon.core.instants import iso
from dromikon.situation import set_counter, set_mode, situation_of

router = Router(tags=["situation"])


class CounterOut(Schema):
    """`room`: how many there is room for, where it counts who is inside; else 0."""

    id: str
    name: str
    value: int
    room: int


class SituationOut(Schema):
    """`until`: when the mode ends by itself, and `then` which one comes."""

    mode: str
    until: str | None
    then: str
    modes: list[str]
    counters: list[CounterOut]


class ModeIn(Schema):
    """`until`: a time of the site's wall clock such as 18:30, or an ISO 8601 instant; empty: until it is set again."""

    mode: str
    until: str = Field(default="", max_length=40)


class CounterIn(Schema):
    value: int


@router.get("", response=SituationOut, summary="The mode, and where the counters stand")
def situation(request: HttpRequest, site: Site = None) -> Any:
    found = situation_of(at_site(request, site).site)
    return {**found, "until": iso(found["until"]) if found["until"] else None}


@router.put("/mode", response={202: None, 403: Error, 422: Error}, summary="Set the mode by hand")
def mode(request: HttpRequest, content: ModeIn, site: Site = None) -> Any:
    set_mode(at_site(request, site), content.mode, content.until)
    return 202, None


@router.put("/counters/{counter_id}", response={202: None, 403: Error, 422: Error}, summary="Set a counter by hand")
def counter(request: HttpRequest, counter_id: str, content: CounterIn, site: Site = None) -> Any:
    set_counter(at_site(request, site), counter_id, content.value)
    return 202, None
