"""Rehearsals over the API: a draft over the past, one event of it explained, and the events that a rule is measured by."""

from functools import partial
from typing import Any

from django.http import HttpRequest, StreamingHttpResponse
from ninja import Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.api.rules import find_rule
from dromikon.authoring.examples import mark
from dromikon.authoring.explaining import explain_event
from dromikon.authoring.rehearsal import rehearse_draft, report_json
from dromikon.authoring.seen import values_seen
from dromikon.authoring.streaming import LINES_TYPE, lines
from dromikon.core import reading
from dromikon.core.instants import Instant
from dromikon.core.rules.document import Problem
from dromikon.people.roles import May
from dromikon.refusals import Refused

router = Router(tags=["rules"])


class RehearsalIn(Schema):
    """`rule`: the live rule to compare with. `sweep`: {path, values} of one number. Without times, the past week."""

    document: dict[str, Any]
    rule: str | None = None
    start: str | None = None
    end: str | None = None
    sweep: dict[str, Any] | None = None


class RehearsedRun(Schema):
    event: str
    point: str
    zero: str


class AwayOut(RehearsedRun):
    """An event that came to nothing, and why."""

    outcome: str


class ExampleOut(RehearsedRun):
    """A marked event: whether the rule should fire at it, and whether the draft holds to that; null where its event is not
    kept any more."""

    fires: bool
    held: bool | None


class RehearsalOut(Schema):
    """`away`: the newest events that came to nothing. `examples`: how the draft does by what was marked. `turned_away`: how many events each part of the document turned away, by its path; `turned_away_words`: what those
    parts ask for."""

    start: str
    end: str
    count: int
    considered: int
    runs: list[RehearsedRun]
    by_hour: dict[str, int]
    by_point: dict[str, int]
    outcomes: dict[str, int]
    turned_away: dict[str, int]
    turned_away_words: dict[str, str]
    new: list[RehearsedRun] | None
    gone: list[RehearsedRun] | None
    same: int | None
    sweep: list[tuple[float, int]]
    away: list[AwayOut]
    examples: list[ExampleOut]


class ExplainIn(Schema):
    """`event`: its number in the journal; `rule`: the live rule whose past the draft stands in."""

    document: dict[str, Any]
    event: str
    rule: str | None = None


class LineOut(Schema):
    """One part of the rule: what was seen, what is wanted, and whether that was so."""

    label: str
    seen: str
    wanted: str
    held: bool | None


class ExplainedOut(Schema):
    outcome: str
    words: str
    lines: list[LineOut]


class MarkIn(Schema):
    """Whether the rule should fire at the event; null takes a mark away."""

    fires: bool | None


@router.post(
    "/rules/rehearse", response={200: RehearsalOut, 404: Error, 422: Error}, summary="Run a draft over the past"
)
def rehearse_rule(request: HttpRequest, content: RehearsalIn, site: Site = None) -> Any:
    """With `Accept: application/x-ndjson` the answer tells its progress line by line, and ends when nobody listens."""
    found = at_site(request, site)
    found.need(May.EDIT_RULES)
    live = find_rule(found, content.rule) if content.rule else None
    start, end = _instant(content.start), _instant(content.end)
    rehearsed = partial(rehearse_draft, found, content.document, live, start, end, content.sweep)
    if LINES_TYPE in request.headers.get("accept", ""):
        return StreamingHttpResponse(lines(rehearsed), content_type=LINES_TYPE, headers={"Cache-Control": "no-store"})
    return report_json(rehearsed())


@router.post(
    "/rules/explain", response={200: ExplainedOut, 404: Error, 422: Error}, summary="What a draft makes of one event"
)
def explain(request: HttpRequest, content: ExplainIn, site: Site = None) -> Any:
    found = at_site(request, site)
    live = find_rule(found, content.rule) if content.rule else None
    return explain_event(found, content.document, _event(content.event), live.id if live else "draft")


@router.get("/rules/seen", response=dict[str, list[str]], summary="Values lately seen in the fields of a kind of event")
def seen(request: HttpRequest, kind: str, site: Site = None) -> Any:
    return values_seen(at_site(request, site), kind)


@router.put(
    "/rules/{rule_id}/examples/{event}", response={204: None, 403: Error, 404: Error, 422: Error},
    summary="Say of an event whether the rule should fire at it",
)  # fmt: skip
def mark_event(request: HttpRequest, rule_id: str, event: str, content: MarkIn, site: Site = None) -> Any:
    found = at_site(request, site)
    mark(found, find_rule(found, rule_id), _event(event), content.fires)
    return 204, None


def _event(text: str) -> int:
    seq = reading.whole_or_none(text)
    if seq is None:
        raise Refused([Problem(path="event", message="An event is named by its number in the journal.")])
    return seq


def _instant(text: str | None) -> Instant | None:
    try:
        return reading.instant(text) if text else None
    except ValueError as error:
        raise Refused([Problem(path="start", message="start and end are ISO 8601 times.")]) from error
