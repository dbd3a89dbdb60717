"""Alarms and the desk over the API: what waits, what is put up, answering and pressing."""

from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Limit, Number, Site, at_site
from dromikon.archive.models import Bookmark
from dromikon.core.alarms.states import AlarmState
from dromikon.core.instants import iso
from dromikon.desk.board import load_of, notices, showings
from dromikon.desk.models import Alarm
from dromikon.desk.services import answer, press, visible_alarms, waiting
from dromikon.sources.models import Point

router = Router(tags=["alarms"])


class AlarmOut(Schema):
    id: str
    state: str
    priority: str
    title: str
    instruction: str
    point: str
    cameras: list[str]
    run: str
    zero: str
    raised_at: str
    note_required: bool
    acknowledged_at: str | None
    acknowledged_by: str | None
    note: str
    tags: list[str]


class AnswerIn(Schema):
    note: str = ""
    tags: list[str] = []


class AnsweredOut(AlarmOut):
    """`bookmarks`: how many took the note over."""

    bookmarks: int


class WaitingOut(Schema):
    id: str
    state: str


class ShowingOut(Schema):
    """A camera that a rule has put up, until an instant in ms."""

    camera: str
    title: str
    until: int


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


class DeskOut(Schema):
    """`alarms` are in the order in which they want to be answered."""

    alarms: list[WaitingOut]
    load: LoadOut
    showings: list[ShowingOut]
    notices: list[NoticeOut]


class PressedOut(Schema):
    pressed: str


@router.get("/desk", response=DeskOut, summary="What the desk shows you now")
def desk(request: HttpRequest, site: Site = None) -> Any:
    found = at_site(request, site)
    return {
        "alarms": [{"id": str(a.pk), "state": a.state} for a in waiting(found)],
        "load": load_of(found),
        "showings": showings(found),
        "notices": notices(found),
    }


@router.get("/alarms", response=list[AlarmOut], summary="Alarms you may see, newest first")
def alarms(
    request: HttpRequest, site: Site = None, state: AlarmState | None = None, limit: Limit = 100
) -> list[dict[str, Any]]:
    found = visible_alarms(at_site(request, site)).order_by("-id")
    return [_alarm(a) for a in (found.filter(state=state.value) if state else found)[:limit]]


@router.post(
    "/alarms/{alarm_id}/acknowledge",
    response={200: AnsweredOut, 403: Error, 404: Error, 409: Error, 422: Error},
    summary="Answer an alarm with a note and tags",
)
def acknowledge(request: HttpRequest, alarm_id: Number, content: AnswerIn, site: Site = None) -> Any:
    try:
        alarm = answer(at_site(request, site), alarm_id, content.note, content.tags)
    except Alarm.DoesNotExist as error:
        raise Http404("There is no such alarm.") from error
    return {**_alarm(alarm), "bookmarks": Bookmark.objects.filter(run=alarm.run).count()}


@router.post("/buttons/{button_id}/press", response={200: PressedOut, 403: Error, 404: Error}, summary="Press a button")
def press_button(request: HttpRequest, button_id: str, site: Site = None) -> Any:
    try:
        return {"pressed": press(at_site(request, site), button_id).name}
    except Point.DoesNotExist as error:
        raise Http404("There is no such button.") from error


def _alarm(row: Alarm) -> dict[str, Any]:
    return {
        "id": str(row.pk), "state": row.state, "priority": row.priority, "title": row.title, "instruction": row.instruction,
        "point": row.point, "cameras": row.cameras, "run": row.run, "zero": iso(row.zero), "raised_at": iso(row.raised_at),
        "note_required": row.note_required, "acknowledged_at": iso(row.acknowledged_at) if row.acknowledged_at else None,
        "acknowledged_by": row.acknowledged_name or None, "note": row.note, "tags": row.tags,
    }  # fmt: skip
