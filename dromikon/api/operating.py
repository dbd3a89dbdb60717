"""What people at desks do, over the API: commands by hand, calls, rules paused, the shift, and the alarms' quality."""

from dataclasses import asdict
from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Number, Site, at_site
from dromikon.api.desk import CallOut, PlaceOut
from dromikon.core.instants import iso
from dromikon.desk.models import Alarm, Call, Handover
from dromikon.operating.calls import TooLate, answer_call, end_call, going_on
from dromikon.operating.commands import command, offered, outcome
from dromikon.operating.pauses import concerning, pause, resume
from dromikon.operating.quality import measured
from dromikon.operating.shift import hand_over, take_over, write_note
from dromikon.operating.voice import speak

router = Router(tags=["operating"])
REFUSALS: dict[int, Any] = {403: Error, 404: Error, 422: Error}


class CommandIn(Schema):
    """`key` of an offer of the place; `words` where it is to speak; `alarm` at which it is done."""

    key: str
    words: str = ""
    alarm: int | None = None


class CommandedOut(Schema):
    """The run under which its outcome is found."""

    run: str


class OutcomeOut(Schema):
    """`status` of its step: due, sending, done, unconfirmed, failed, expired; `answer`: what its device said."""

    status: str
    answer: str


class CallsOut(Schema):
    calls: list[CallOut]


class EndedOut(Schema):
    state: str


class RuleOut(Schema):
    """A live rule that concerns a camera. `until`: how long it is paused there, in ms."""

    id: str
    name: str
    until: int | None


class PauseIn(Schema):
    camera: str
    minutes: int


class ResumeIn(Schema):
    camera: str


class PausedOut(Schema):
    until: str


class NoteIn(Schema):
    text: str


class HandoverIn(Schema):
    note: str = ""


class IdOut(Schema):
    id: str


@router.get("/points/{point}/commands", response=list[PlaceOut], summary="What you can tell the points of a place")
def commands(request: HttpRequest, point: str, site: Site = None) -> Any:
    return offered(at_site(request, site), point)


@router.post("/points/{point}/commands", response={200: CommandedOut, **REFUSALS}, summary="Carry one out")
def carry_out(request: HttpRequest, point: str, content: CommandIn, site: Site = None) -> Any:
    try:
        return {"run": command(at_site(request, site), point, content.key, content.words, content.alarm)}
    except Alarm.DoesNotExist as error:
        raise Http404("There is no such alarm.") from error


@router.put("/points/{point}/voice", response={200: CommandedOut, **REFUSALS}, summary="Speak there: a WAV file")
def voice(request: HttpRequest, point: str, site: Site = None) -> Any:
    return {"run": speak(at_site(request, site), point, request.body)}


@router.get("/commands/{run}", response={200: OutcomeOut, 422: Error}, summary="What came of a command")
def what_came(request: HttpRequest, run: str, site: Site = None) -> Any:
    return outcome(at_site(request, site), run)


@router.get("/calls", response=CallsOut, summary="Calls at door stations that are going on")
def calls(request: HttpRequest, site: Site = None) -> Any:
    return {"calls": going_on(at_site(request, site))}


@router.post("/calls/{call}/answer", response={200: EndedOut, 409: Error, **REFUSALS}, summary="Answer a call")
def answer_one(request: HttpRequest, call: Number, site: Site = None) -> Any:
    return _called(lambda: answer_call(at_site(request, site), call))


@router.post("/calls/{call}/end", response={200: EndedOut, 409: Error, **REFUSALS}, summary="End a call")
def end_one(request: HttpRequest, call: Number, site: Site = None) -> Any:
    return _called(lambda: end_call(at_site(request, site), call))


def _called(does: Any) -> Any:
    try:
        return {"state": does().state}
    except Call.DoesNotExist as error:
        raise Http404("There is no such call.") from error
    except TooLate as error:
        return 409, {"error": str(error)}


@router.get("/cameras/{camera}/concerned", response=list[RuleOut], summary="The live rules that concern a camera")
def concerned_there(request: HttpRequest, camera: str, site: Site = None) -> Any:
    return [asdict(rule) for rule in concerning(at_site(request, site), camera)]


@router.post("/rules/{rule_id}/pause", response={200: PausedOut, **REFUSALS}, summary="Pause a rule at a camera")
def pause_rule(request: HttpRequest, rule_id: str, content: PauseIn, site: Site = None) -> Any:
    return {"until": iso(pause(at_site(request, site), rule_id, content.camera, content.minutes))}


@router.post("/rules/{rule_id}/resume", response={204: None, **REFUSALS}, summary="Let it count there again")
def resume_rule(request: HttpRequest, rule_id: str, content: ResumeIn, site: Site = None) -> Any:
    resume(at_site(request, site), rule_id, content.camera)
    return 204, None


@router.post("/shift/notes", response={200: IdOut, **REFUSALS}, summary="Write into the operators' log")
def note(request: HttpRequest, content: NoteIn, site: Site = None) -> Any:
    return {"id": str(write_note(at_site(request, site), content.text).pk)}


@router.post("/shift/handovers", response={200: IdOut, **REFUSALS}, summary="Hand the shift over")
def hand_over_shift(request: HttpRequest, content: HandoverIn, site: Site = None) -> Any:
    return {"id": str(hand_over(at_site(request, site), content.note).pk)}


@router.post("/shift/handovers/{handover}/take", response={200: IdOut, **REFUSALS}, summary="Say that you have read it")
def take_over_shift(request: HttpRequest, handover: Number, site: Site = None) -> Any:
    try:
        return {"id": str(take_over(at_site(request, site), handover).pk)}
    except Handover.DoesNotExist as error:
        raise Http404("There is no such hand-over.") from error


@router.get("/alarms-quality", response=dict[str, Any], summary="Figures after IEC 62682 of the last days")
def quality_of_alarms(request: HttpRequest, days: int = 7, desks: int = 1, site: Site = None) -> Any:
    found = measured(at_site(request, site), days, desks)
    return {
        "start": iso(found.start),
        "end": iso(found.end),
        "desks": found.desks,
        **asdict(found.quality),
        "names": found.names,
    }
