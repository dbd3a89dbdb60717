"""The desk over the API: what it shows, what somebody watches there, buttons, and displays."""

from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.desk.board import load_of, notices
from dromikon.desk.buttons import NotNow, buttons, press
from dromikon.desk.models import Display
from dromikon.desk.services import in_order, waiting
from dromikon.operating.calls import going_on
from dromikon.operating.pauses import paused_counts
from dromikon.operating.screens import (
    arrange,
    arrangements,
    drop_arrangement,
    keep_arrangement,
    of_desk,
    of_display,
    own_desk,
    set_sounds,
    take_arrangement,
)
from dromikon.people.access import Access
from dromikon.sources.models import Point

router = Router(tags=["desk"])
#: So many alarms are told at once.
MOST_ALARMS = 100


class WaitingOut(Schema):
    id: str
    state: str


class CellOut(Schema):
    """One picture: its camera, "" for none. With why it is put up, until when (ms) and how urgent (0 most) where it is."""

    camera: str
    title: str
    until: int | None
    rank: int | None


class NextOut(Schema):
    camera: str
    title: str
    until: int


class ScreenOut(Schema):
    """What stands on a desk or a display. `waiting`: what comes next. `until`: when this may change by itself, in ms; `at`: now."""

    cells: list[CellOut]
    waiting: list[NextOut]
    until: int | None
    at: int


class NoticeOut(Schema):
    id: str
    text: str
    until: int
    sound: str
    spoken: bool


class LoadOut(Schema):
    """Alarms raised in the last ten minutes, and by ten minutes over the last two hours. `level`: calm, busy, flood."""

    last: int
    level: str
    counts: list[int]


class ButtonOut(Schema):
    """`on`: null for a button with one position. `next`: what pressing it leads to. `row`: it stands in the row of buttons."""

    id: str
    name: str
    icon: str
    asks: str
    cameras: list[str]
    on: bool | None
    word: str
    next: str
    row: bool
    why_not: str


class OfferOut(Schema):
    key: str
    words: str
    says: bool
    asks: str


class PlaceOut(Schema):
    """A point with the commands that it takes."""

    id: str
    name: str
    kind: str
    offers: list[OfferOut]


class CallOut(Schema):
    """Somebody at a door station. `state`: ringing or talking. `mine`: you speak with them. `heard`: the camera there has sound."""

    id: str
    station: str
    name: str
    area: str
    camera: str
    heard: bool
    state: str
    rings: int
    rung_at: int
    last_rung_at: int
    answered_at: int | None
    by: str
    mine: bool
    place: list[PlaceOut]


class DeskOut(Schema):
    """`alarms` are in the order in which they want to be answered, the first of `waiting` in all. `paused`: how many rules
    are paused at each camera."""

    alarms: list[WaitingOut]
    waiting: int
    paused: dict[str, int]
    load: LoadOut
    screen: ScreenOut
    notices: list[NoticeOut]
    buttons: list[ButtonOut]
    calls: list[CallOut]


class ArrangeIn(Schema):
    """Cameras from the top left, "" for an empty place. `switching`: rules put cameras up."""

    cameras: list[str]
    cells: int
    switching: bool | None = None


class NameIn(Schema):
    name: str


class SoundsIn(Schema):
    """A sound by priority: none, chime, call, urgent, or the id of one of the site's own; empty: as the rules say."""

    sounds: dict[str, str]


class OwnOut(Schema):
    """How you left your desk, and the names of your arrangements."""

    cells: int
    arrangement: str
    switching: bool
    sounds: dict[str, str]
    arrangements: list[str]
    screen: ScreenOut


class PressIn(Schema):
    """`at`: the camera under which it is pressed. `on`: which position is wanted, of a button with two."""

    at: str = ""
    on: bool | None = None


class PressedOut(Schema):
    pressed: str
    on: bool | None


@router.get("/desk", response=DeskOut, summary="What the desk shows you now")
def desk(request: HttpRequest, site: Site = None) -> Any:
    found = at_site(request, site)
    return {
        "alarms": [{"id": str(a.pk), "state": a.state} for a in waiting(found, MOST_ALARMS)],
        "waiting": in_order(found).count(),
        "paused": paused_counts(found.site),
        "load": load_of(found),
        "screen": of_desk(found).to_json(),
        "notices": notices(found),
        "buttons": [b.to_json() for b in buttons(found)],
        "calls": going_on(found),
    }


@router.get("/desk/own", response=OwnOut, summary="How you left your desk")
def own(request: HttpRequest, site: Site = None) -> Any:
    return _own(at_site(request, site))


@router.put("/desk/own", response={200: OwnOut, 422: Error}, summary="Watch some cameras")
def watch(request: HttpRequest, content: ArrangeIn, site: Site = None) -> Any:
    found = at_site(request, site)
    arrange(found, content.cameras, content.cells, content.switching)
    return _own(found)


@router.put("/desk/own/sounds", response={200: OwnOut, 422: Error}, summary="Choose how alarms sound to you")
def sounds(request: HttpRequest, content: SoundsIn, site: Site = None) -> Any:
    found = at_site(request, site)
    set_sounds(found, content.sounds)
    return _own(found)


@router.post("/desk/arrangements", response={200: OwnOut, 422: Error}, summary="Name what you watch now")
def name_arrangement(request: HttpRequest, content: NameIn, site: Site = None) -> Any:
    found = at_site(request, site)
    keep_arrangement(found, content.name)
    return _own(found)


@router.put("/desk/arrangements", response={200: OwnOut, 422: Error}, summary="Watch what you have named so")
def use_arrangement(request: HttpRequest, content: NameIn, site: Site = None) -> Any:
    found = at_site(request, site)
    take_arrangement(found, content.name)
    return _own(found)


@router.delete("/desk/arrangements", response={200: OwnOut}, summary="Delete an arrangement of yours")
def delete_arrangement(request: HttpRequest, name: str, site: Site = None) -> Any:
    found = at_site(request, site)
    drop_arrangement(found, name)
    return _own(found)


@router.post(
    "/buttons/{button_id}/press",
    response={200: PressedOut, 403: Error, 404: Error, 409: Error, 422: Error},
    summary="Press a button",
)
def press_button(request: HttpRequest, button_id: str, content: PressIn | None = None, site: Site = None) -> Any:
    wanted = content or PressIn()
    try:
        pressed = press(at_site(request, site), button_id, wanted.at, wanted.on)
    except Point.DoesNotExist as error:
        raise Http404("There is no such button.") from error
    except NotNow as error:
        return 409, {"error": str(error)}
    return {"pressed": pressed.word, "on": pressed.on}


@router.get("/displays/{slug}", response={200: ScreenOut, 404: Error}, summary="What stands on a display now")
def display(request: HttpRequest, slug: str, site: Site = None) -> Any:
    found = at_site(request, site)
    known = Display.objects.filter(site=found.site, slug=slug, retired_at=None).first()
    if known is None:
        raise Http404("There is no such display.")
    return of_display(known).to_json()


def _own(found: Access) -> dict[str, Any]:
    own = own_desk(found)
    return {
        "cells": own.cells, "arrangement": own.arrangement, "switching": own.switching, "sounds": own.sounds,
        "arrangements": list(arrangements(found).values_list("name", flat=True)), "screen": of_desk(found, own).to_json(),
    }  # fmt: skip
