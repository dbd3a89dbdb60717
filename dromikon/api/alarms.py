"""Alarms and the desk over the API: what waits, what is put up, answering and pressing."""

from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Limit, Number, Site, at_site
from dromikon.archive.models import Bookmark
from dromikon.core.alarms.states import AlarmState
from dromikon.core.instants import iso
from dromikon.desk.board import load_of, notices, showings
from dromikon.desk.handling import history_of, leave, put_on_shelf, take_off_shelf, take_on
from dromikon.desk.models import Alarm
from dromikon.desk.services import Answer, answer, answer_several, press, visible_alarms, waiting
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
    outcome: str
    taken_by: str | None
    shelved_until: str | None
    shelved_why: str


class AnswerIn(Schema):
    """`outcome`: real, false, test or own."""

    note: str = ""
    tags: list[str] = []
    outcome: str = ""


class SeveralIn(AnswerIn):
    alarms: list[Number]


class SeveralOut(Schema):
    """Ids of those that were answered; with the others, why not."""

    done: list[str]
    refused: dict[str, str]


class TakeIn(Schema):
    """`over_from`: also from whoever deals with it now."""

    over_from: bool = False


class ShelveIn(Schema):
    minutes: int
    why: str


class HistoryOut(Schema):
    """One thing that happened to an alarm; `until`: of a shelf."""

    at: str
    words: str
    name: str
    why: str
    until: str | None


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
        alarm = answer(at_site(request, site), alarm_id, content.note, content.tags, outcome=content.outcome)
    except Alarm.DoesNotExist as error:
        raise Http404("There is no such alarm.") from error
    return {**_alarm(alarm), "bookmarks": Bookmark.objects.filter(run=alarm.run).count()}


@router.post("/alarms/acknowledge", response={200: SeveralOut, 403: Error}, summary="Answer several alarms alike")
def acknowledge_several(request: HttpRequest, content: SeveralIn, site: Site = None) -> Any:
    given = Answer.of(content.note, content.tags, content.outcome)
    done, refused = answer_several(at_site(request, site), content.alarms, given)
    return {"done": [str(id) for id in done], "refused": {str(id): why for id, why in refused.items()}}


HANDLED = {200: AlarmOut, 403: Error, 404: Error, 422: Error}


@router.post("/alarms/{alarm_id}/take", response=HANDLED, summary="Say that you deal with an alarm")
def take(request: HttpRequest, alarm_id: Number, content: TakeIn, site: Site = None) -> Any:
    return _handled(lambda: take_on(at_site(request, site), alarm_id, content.over_from))


@router.post("/alarms/{alarm_id}/leave", response=HANDLED, summary="Leave an alarm to others again")
def leave_to_others(request: HttpRequest, alarm_id: Number, site: Site = None) -> Any:
    return _handled(lambda: leave(at_site(request, site), alarm_id))


@router.post("/alarms/{alarm_id}/shelve", response=HANDLED, summary="Put an alarm away for some minutes, with a reason")
def shelve(request: HttpRequest, alarm_id: Number, content: ShelveIn, site: Site = None) -> Any:
    return _handled(lambda: put_on_shelf(at_site(request, site), alarm_id, content.minutes, content.why))


@router.post("/alarms/{alarm_id}/unshelve", response=HANDLED, summary="Have a shelved alarm back")
def unshelve(request: HttpRequest, alarm_id: Number, site: Site = None) -> Any:
    return _handled(lambda: take_off_shelf(at_site(request, site), alarm_id))


@router.get(
    "/alarms/{alarm_id}/history", response={200: list[HistoryOut], 404: Error}, summary="All that happened to one"
)
def history(request: HttpRequest, alarm_id: Number, site: Site = None) -> Any:
    alarm = visible_alarms(at_site(request, site)).filter(pk=alarm_id).first()
    if alarm is None:
        raise Http404("There is no such alarm.")
    return [
        {"at": iso(line.at), "words": line.words, "name": line.name, "why": line.why,
         "until": iso(line.until) if line.until else None}
        for line in history_of(alarm)
    ]  # fmt: skip


def _handled(does: Callable[[], Alarm]) -> dict[str, Any]:
    try:
        return _alarm(does())
    except Alarm.DoesNotExist as error:
        raise Http404("There is no such alarm.") from error


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
        "outcome": row.outcome, "taken_by": row.taken_name or None, "shelved_why": row.shelved_why,
        "shelved_until": iso(row.shelved_until) if row.shelved_until else None,
    }  # fmt: skip
