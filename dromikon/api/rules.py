"""Rules over the API: read, make, change, switch, preview and rehearse."""

from functools import partial
from typing import Any

from django.http import Http404, HttpRequest, StreamingHttpResponse
from ninja import Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.authoring.preview import preview_of
from dromikon.authoring.rehearsal import rehearse_draft, report_json
from dromikon.authoring.services import delete, read_document, save, switch
from dromikon.authoring.streaming import LINES_TYPE, lines
from dromikon.core import reading
from dromikon.core.facts import Facts
from dromikon.core.instants import Instant
from dromikon.core.rules.document import Problem
from dromikon.core.rules.sentence import plain, sentence
from dromikon.facts import names_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.people.services import mute
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule

router = Router(tags=["rules"])


class RuleOut(Schema):
    id: str
    name: str
    enabled: bool
    revision: int
    sentence: str
    document: dict[str, Any]


class RuleIn(Schema):
    document: dict[str, Any]
    revision: int | None = None


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


class RehearsalOut(Schema):
    """`turned_away`: how many events each part of the document turned away, by its path; `turned_away_words`: what those
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


class EnableIn(Schema):
    enabled: bool


class DraftIn(Schema):
    document: Any


class PhraseOut(Schema):
    """`part`: the path of the part it describes; `name`: it is the name of something at the site."""

    text: str
    part: str
    name: bool


class BarOut(Schema):
    """One thing on the time plan, in seconds from zero. `open`: its end is not known beforehand; `asks`: whether it is
    to be done is asked when it is due."""

    label: str
    above: bool
    start: float
    end: float
    part: str
    style: str
    open: bool
    asks: bool


class PlanOut(Schema):
    bars: list[BarOut]
    decided: float
    first: float
    last: float


class MendOut(Schema):
    label: str
    path: str
    value: Any


class MendableFinding(Schema):
    check: str
    severity: str
    path: str
    reason: str
    hint: str
    mend: MendOut | None


class TextOut(Schema):
    """A text of a step as it would have read."""

    part: str
    step: str
    text: str


class ReadsOut(Schema):
    """The texts of a draft on the last event that its cause is about (`at` in ms UTC); none while none has come."""

    event: str | None
    at: int | None
    texts: list[TextOut]


class PreviewOut(Schema):
    """Where `problems` are, the draft cannot be read and nothing else is told."""

    problems: list[dict[str, str]]
    sentence: list[PhraseOut] = []
    plan: PlanOut | None = None
    findings: list[MendableFinding] = []
    reads: ReadsOut | None = None


@router.get("/rules", response=list[RuleOut], summary="All rules of the site")
def rules(request: HttpRequest, site: Site = None) -> list[dict[str, Any]]:
    found = at_site(request, site)
    facts = names_of(found.site)
    return [_told(row, facts) for row in Rule.objects.filter(site=found.site, deleted=False)]


@router.post(
    "/rules", response={201: RuleOut, 422: Error, 403: Error}, summary="Make a rule (switched off) from a document"
)
def make_rule(request: HttpRequest, content: RuleIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return 201, _rule(found, save(found, content.document))


class MuteIn(Schema):
    muted: bool


@router.put(
    "/rules/{rule_id}/mute", response={204: None, 403: Error, 404: Error, 422: Error},
    summary="Hear nothing of a rule that may be muted, or hear of it again",
)  # fmt: skip
def mute_rule(request: HttpRequest, rule_id: str, content: MuteIn, site: Site = None) -> Any:
    found = at_site(request, site)
    rule = _find_rule(found, rule_id)
    if content.muted and not rule.document.get("mutable"):
        raise Refused(
            [Problem(path="muted", message="This rule may not be muted: whoever it is for has to hear of it.")]
        )
    mute(found.person, found.site.id, rule.id, content.muted)
    return 204, None


@router.post("/rules/preview", response=PreviewOut, summary="What a draft reads like, its time plan, and its findings")
def preview(request: HttpRequest, content: DraftIn, site: Site = None) -> Any:
    return preview_of(at_site(request, site), content.document)


@router.post(
    "/rules/rehearse", response={200: RehearsalOut, 404: Error, 422: Error}, summary="Run a draft over the past"
)
def rehearse_rule(request: HttpRequest, content: RehearsalIn, site: Site = None) -> Any:
    """With `Accept: application/x-ndjson` the answer tells its progress line by line, and ends when nobody listens."""
    found = at_site(request, site)
    found.need(May.EDIT_RULES)
    live = _find_rule(found, content.rule) if content.rule else None
    start, end = _instant(content.start), _instant(content.end)
    rehearsed = partial(rehearse_draft, found, content.document, live, start, end, content.sweep)
    if LINES_TYPE in request.headers.get("accept", ""):
        return StreamingHttpResponse(lines(rehearsed), content_type=LINES_TYPE, headers={"Cache-Control": "no-store"})
    return report_json(rehearsed())


@router.get("/rules/{rule_id}", response={200: RuleOut, 404: Error}, summary="One rule with its document")
def rule(request: HttpRequest, rule_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    return _rule(found, _find_rule(found, rule_id))


@router.put(
    "/rules/{rule_id}",
    response={200: RuleOut, 409: Error, 422: Error},
    summary="Replace the document: the next revision",
)
def replace_rule(request: HttpRequest, rule_id: str, content: RuleIn, site: Site = None) -> Any:
    found = at_site(request, site)
    known = _find_rule(found, rule_id)
    if content.revision is None:
        message = "Say which revision you replace, so that nobody's change is lost unseen."
        raise Refused([Problem(path="revision", message=message)])
    return _rule(found, save(found, content.document, known, content.revision))


@router.post("/rules/{rule_id}/enable", response={200: RuleOut, 422: Error}, summary="Switch a rule on or off")
def enable_rule(request: HttpRequest, rule_id: str, content: EnableIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return _rule(found, switch(found, _find_rule(found, rule_id), content.enabled))


@router.delete(
    "/rules/{rule_id}", response={204: None, 404: Error}, summary="Take a rule out of the rulebook; its history stays"
)
def delete_rule(request: HttpRequest, rule_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    delete(found, _find_rule(found, rule_id))
    return 204, None


@router.post("/rules/{rule_id}/restore", response={200: RuleOut, 404: Error}, summary="Bring a deleted rule back, off")
def restore_rule(request: HttpRequest, rule_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    row = Rule.objects.filter(pk=rule_id, site=found.site).first()
    if row is None:
        raise Http404("There is no such rule.")
    delete(found, row, False)
    return _rule(found, row)


def _instant(text: str | None) -> Instant | None:
    try:
        return reading.instant(text) if text else None
    except ValueError as error:
        raise Refused([Problem(path="start", message="start and end are ISO 8601 times.")]) from error


def _find_rule(found: Access, rule_id: str) -> Rule:
    row = Rule.objects.filter(pk=rule_id, site=found.site, deleted=False).first()
    if row is None:
        raise Http404("There is no such rule.")
    return row


def _rule(found: Access, row: Rule) -> dict[str, Any]:
    return _told(row, names_of(found.site))


def _told(row: Rule, facts: Facts) -> dict[str, Any]:
    document = row.document
    words = plain(sentence(read_document(document), facts))
    return {
        "id": row.id,
        "name": row.name,
        "enabled": row.enabled,
        "revision": row.revision,
        "sentence": words,
        "document": document,
    }
