"""Alarms over the API: which there are, answering, taking, shelving, and what is done about one."""

from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Limit, Number, Site, at_site
from dromikon.archive.models import Bookmark
from dromikon.core.alarms.states import AlarmState
from dromikon.core.instants import iso
from dromikon.desk.handling import history_of, leave, put_on_shelf, take_off_shelf, take_on, tick
from dromikon.desk.models import Alarm
from dromikon.desk.services import Answer, answer, answer_several, visible_alarms

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
    ticked: list[int]
    count: int


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


class TickIn(Schema):
    """`step`: of its instruction, counted from 0."""

    step: int
    done: bool = True


@router.put("/alarms/{alarm_id}/step", response=HANDLED, summary="Say that a step of what is to do is done")
def tick_step(request: HttpRequest, alarm_id: Number, content: TickIn, site: Site = None) -> Any:
    return _handled(lambda: tick(at_site(request, site), alarm_id, content.step, content.done))


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


def _alarm(row: Alarm) -> dict[str, Any]:
    return {
        "id": str(row.pk), "state": row.state, "priority": row.priority, "title": row.title, "instruction": row.instruction,
        "point": row.point, "cameras": row.cameras, "run": row.run, "zero": iso(row.zero), "raised_at": iso(row.raised_at),
        "note_required": row.note_required, "acknowledged_at": iso(row.acknowledged_at) if row.acknowledged_at else None,
        "acknowledged_by": row.acknowledged_name or None, "note": row.note, "tags": row.tags,
        "outcome": row.outcome, "taken_by": row.taken_name or None, "shelved_why": row.shelved_why,
        "shelved_until": iso(row.shelved_until) if row.shelved_until else None, "ticked": row.ticked, "count": row.count,
    }  # fmt: skip
