"""Rules over the API: read, make, change, switch, preview."""

from dataclasses import asdict
from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.authoring.preview import preview_of
from dromikon.authoring.revisions import meanwhile
from dromikon.authoring.services import delete, drop_draft, findings_beside, put_live, read_document, save, switch
from dromikon.core.facts import Facts
from dromikon.core.instants import iso
from dromikon.core.rules.document import Problem
from dromikon.core.rules.sentence import plain, sentence
from dromikon.core.rules.text import read_text, text_of
from dromikon.facts import names_of
from dromikon.people.access import Access
from dromikon.people.services import mute
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule

router = Router(tags=["rules"])


class RuleOut(Schema):
    id: str
    name: str
    enabled: bool
    revision: int
    draft: int | None
    sentence: str
    document: dict[str, Any]


class RevisionOut(Schema):
    number: int
    document: dict[str, Any]


class RuleIn(Schema):
    """`revision`: the newest one that is known, draft or live. `live`: false keeps the change of a rule that is on as a
    draft."""

    document: dict[str, Any]
    revision: int | None = None
    live: bool = True


class EnableIn(Schema):
    enabled: bool


class DraftIn(Schema):
    """`rule`: the rule whose live revision the draft is set beside."""

    document: Any
    rule: str | None = None


class DocumentIn(Schema):
    document: dict[str, Any]


class TextIn(Schema):
    text: str


class TextedOut(Schema):
    text: str


class LineProblem(Schema):
    """`line` from 1; 0 where none is to blame."""

    path: str
    message: str
    line: int


class ReadOut(Schema):
    """`document` is null where the text cannot be read at all."""

    document: dict[str, Any] | None
    problems: list[LineProblem]


class ChangedOut(Schema):
    """A part that reads otherwise than before; empty where it was not, or is not any more."""

    part: str
    label: str
    before: str
    after: str


class MeanwhileOut(Schema):
    """The newest revision and whose it is; `theirs`: what it says otherwise than the one that was begun with; `mine`: what the
    document says otherwise than the newest."""

    revision: int
    by: str
    at: str
    theirs: list[ChangedOut]
    mine: list[ChangedOut]


class PhraseOut(Schema):
    """`part`: the path of the part it describes; `name`: it is the name of something at the site."""

    text: str
    part: str
    name: bool


class GripOut(Schema):
    """A number of the document that an edge of a bar stands for: `way` times its distance from `origin`."""

    path: str
    origin: float
    way: int


class BarOut(Schema):
    """One thing on the time plan, in seconds from the zero of its axis (`anchor`). `open_end`: its end is not known
    beforehand; `asks`: whether it is to be done is asked when it is due."""

    label: str
    above: bool
    start: float
    end: float
    part: str
    style: str
    open_end: bool
    asks: bool
    anchor: str
    moves: GripOut | None
    begins: GripOut | None
    ends: GripOut | None


class AxisOut(Schema):
    """What its zero is, and the stretches that are drawn of it."""

    anchor: str
    zero: str
    stretches: list[tuple[float, float]]


class PlanOut(Schema):
    bars: list[BarOut]
    axes: list[AxisOut]
    decided: float


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
    """Where `problems` are, the draft cannot be read and nothing else is told. `words`: what each part says, by its
    path."""

    problems: list[dict[str, str]]
    sentence: list[PhraseOut] = []
    words: dict[str, str] = {}
    plan: PlanOut | None = None
    findings: list[MendableFinding] = []
    changes: list[ChangedOut] = []
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
    rule = find_rule(found, rule_id)
    if content.muted and not rule.document.get("mutable"):
        raise Refused(
            [Problem(path="muted", message="This rule may not be muted: whoever it is for has to hear of it.")]
        )
    mute(found.person, found.site.id, rule.id, content.muted)
    return 204, None


@router.post("/rules/preview", response=PreviewOut, summary="What a draft reads like, its time plan, and its findings")
def preview(request: HttpRequest, content: DraftIn, site: Site = None) -> Any:
    found = at_site(request, site)
    live = find_rule(found, content.rule) if content.rule else None
    return preview_of(found, content.document, live)


@router.post(
    "/rules/beside",
    response={200: list[MendableFinding], 422: Error},
    summary="What the checks find of a draft beside the others",
)
def beside(request: HttpRequest, content: DraftIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return [asdict(f) for f in findings_beside(found, read_document(content.document), content.rule or "")]


@router.post("/rules/text", response=TextedOut, summary="A document as the text that people edit (YAML)")
def text(request: HttpRequest, content: DocumentIn, site: Site = None) -> Any:
    at_site(request, site)
    return {"text": text_of(content.document)}


@router.post("/rules/read", response=ReadOut, summary="The document that a text holds, and its problems by line")
def read(request: HttpRequest, content: TextIn, site: Site = None) -> Any:
    at_site(request, site)
    document, problems = read_text(content.text)
    return {"document": document, "problems": [p.model_dump() for p in problems]}


@router.get("/rules/{rule_id}", response={200: RuleOut, 404: Error}, summary="One rule with its document")
def rule(request: HttpRequest, rule_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    return _rule(found, find_rule(found, rule_id))


@router.put(
    "/rules/{rule_id}",
    response={200: RuleOut, 409: Error, 422: Error},
    summary="Replace the document: the next revision",
)
def replace_rule(request: HttpRequest, rule_id: str, content: RuleIn, site: Site = None) -> Any:
    found = at_site(request, site)
    known = find_rule(found, rule_id)
    if content.revision is None:
        message = "Say which revision you replace, so that nobody's change is lost unseen."
        raise Refused([Problem(path="revision", message=message)])
    return _rule(found, save(found, content.document, known, content.revision, live=content.live))


@router.post(
    "/rules/{rule_id}/live", response={200: RuleOut, 404: Error, 422: Error}, summary="Have the draft of a rule count"
)
def put_rule_live(request: HttpRequest, rule_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    return _rule(found, put_live(found, find_rule(found, rule_id)))


@router.delete("/rules/{rule_id}/draft", response={200: RuleOut, 404: Error}, summary="Drop the draft of a rule")
def drop_rules_draft(request: HttpRequest, rule_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    return _rule(found, drop_draft(found, find_rule(found, rule_id)))


@router.get(
    "/rules/{rule_id}/revisions/{number}", response={200: RevisionOut, 404: Error}, summary="A rule as it once was"
)
def revision(request: HttpRequest, rule_id: str, number: int, site: Site = None) -> Any:
    found = at_site(request, site)
    kept = find_rule(found, rule_id).revisions.filter(number=number).first()
    if kept is None:
        raise Http404("There is no such revision.")
    return {"number": kept.number, "document": kept.document}


@router.post(
    "/rules/{rule_id}/meanwhile", response={200: MeanwhileOut, 404: Error, 422: Error},
    summary="What somebody else has saved since a revision, and what a document says otherwise",
)  # fmt: skip
def since_revision(request: HttpRequest, rule_id: str, content: RuleIn, site: Site = None) -> Any:
    found = at_site(request, site)
    known, mine = find_rule(found, rule_id), read_document(content.document)
    told = meanwhile(known, content.revision or 0, mine, names_of(found.site))
    by = told.newest.by.shown_name if told.newest.by else ""
    return {
        "revision": told.newest.number,
        "by": by,
        "at": iso(told.newest.at),
        "theirs": told.theirs,
        "mine": told.mine,
    }


@router.post("/rules/{rule_id}/enable", response={200: RuleOut, 422: Error}, summary="Switch a rule on or off")
def enable_rule(request: HttpRequest, rule_id: str, content: EnableIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return _rule(found, switch(found, find_rule(found, rule_id), content.enabled))


@router.delete(
    "/rules/{rule_id}", response={204: None, 404: Error}, summary="Take a rule out of the rulebook; its history stays"
)
def delete_rule(request: HttpRequest, rule_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    delete(found, find_rule(found, rule_id))
    return 204, None


@router.post("/rules/{rule_id}/restore", response={200: RuleOut, 404: Error}, summary="Bring a deleted rule back, off")
def restore_rule(request: HttpRequest, rule_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    row = Rule.objects.filter(pk=rule_id, site=found.site).first()
    if row is None:
        raise Http404("There is no such rule.")
    delete(found, row, False)
    return _rule(found, row)


def find_rule(found: Access, rule_id: str) -> Rule:
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
        "draft": row.draft,
        "sentence": words,
        "document": document,
    }
