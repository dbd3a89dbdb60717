"""Testing rules over the API: a case put to a draft, a live rule carried out as a test, and the checklist of a rule."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from dromikon.api.base import Error, Site, at_site
from dromikon.api.rehearsals import LineOut
from dromikon.api.rules import find_rule
from dromikon.authoring.testing import carry_out_test, check_cases, drop_case, keep_case, proposed, try_draft
from dromikon.core import reading

router = Router(tags=["rules"])


class TryIn(Schema):
    """`case`: events with kind, point, phase, fields and `after` (s); `at`, `mode`, `answered`; what is left out is as now."""

    document: dict[str, Any]
    case: dict[str, Any]


class VerdictOut(Schema):
    """What the rule made of one of the events."""

    event: str
    point: str
    outcome: str
    words: str
    lines: list[LineOut]


class PlannedOut(Schema):
    """A step that would be carried out `after` so many seconds, or is not, and `why`. `x`: its place on the axis, 0 to 1."""

    step: int
    label: str
    target: str
    after: float
    released: bool
    why: str
    x: float


class TickOut(Schema):
    seconds: int
    x: float


class TriedOut(Schema):
    fired: bool
    outcome: str
    words: str
    verdicts: list[VerdictOut]
    plan: list[PlannedOut]
    ticks: list[TickOut]


class TestIn(Schema):
    """`event`: kind, point, phase and fields; `lasts`: after so many seconds a state ends."""

    event: dict[str, Any]
    lasts: float = 10.0


class CaseIn(Schema):
    """`fires`: whether the rule must fire at it."""

    name: str = Field(max_length=400)
    case: dict[str, Any]
    fires: bool


class CaseOut(Schema):
    id: int
    name: str
    fires: bool


class DraftIn(Schema):
    document: dict[str, Any]


class CheckedOut(CaseOut):
    """`held`: whether the draft does what the case wants."""

    case: dict[str, Any]
    held: bool
    words: str


class PairOut(Schema):
    """A kind at a place that the cause is about, with the fields that it comes with."""

    kind: str
    point: str
    words: str
    phases: list[str]
    fields: list[dict[str, Any]]


class ProposedOut(Schema):
    pairs: list[PairOut]
    event: dict[str, Any] | None


class ProposeIn(DraftIn):
    """`event`: one of the past to test with; without it, the last that the cause is about."""

    event: str | None = None


@router.post(
    "/rules/propose", response={200: ProposedOut, 403: Error, 422: Error}, summary="What a draft could be tested with"
)
def propose(request: HttpRequest, content: ProposeIn, site: Site = None) -> Any:
    return proposed(at_site(request, site), content.document, reading.whole_or_none(content.event))


@router.post(
    "/rules/try", response={200: TriedOut, 403: Error, 422: Error}, summary="Put a case to a draft; nothing is done"
)
def try_(request: HttpRequest, content: TryIn, site: Site = None) -> Any:
    return try_draft(at_site(request, site), content.document, content.case)


@router.post(
    "/rules/{rule_id}/test", response={202: None, 403: Error, 404: Error, 422: Error},
    summary="Have a live rule carried out for real, marked as a test",
)  # fmt: skip
def test(request: HttpRequest, rule_id: str, content: TestIn, site: Site = None) -> Any:
    found = at_site(request, site)
    carry_out_test(found, find_rule(found, rule_id), content.event, content.lasts)
    return 202, None


@router.post(
    "/rules/{rule_id}/cases", response={201: CaseOut, 403: Error, 404: Error, 422: Error}, summary="Keep a case"
)
def keep(request: HttpRequest, rule_id: str, content: CaseIn, site: Site = None) -> Any:
    found = at_site(request, site)
    kept = keep_case(found, find_rule(found, rule_id), content.name, content.case, content.fires)
    return 201, {"id": kept.pk, "name": kept.name, "fires": kept.fires}


@router.post(
    "/rules/{rule_id}/cases/check", response={200: list[CheckedOut], 403: Error, 404: Error, 422: Error},
    summary="Run a rule's checklist against a draft of it",
)  # fmt: skip
def check(request: HttpRequest, rule_id: str, content: DraftIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return check_cases(found, find_rule(found, rule_id), content.document)


@router.delete(
    "/rules/{rule_id}/cases/{case}", response={204: None, 403: Error, 404: Error}, summary="Take a case away"
)
def drop(request: HttpRequest, rule_id: str, case: int, site: Site = None) -> Any:
    found = at_site(request, site)
    drop_case(found, find_rule(found, rule_id), case)
    return 204, None
