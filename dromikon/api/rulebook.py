"""The rulebook over the API: files, schema, checks, starting rules, trial calls."""

from typing import Annotated, Any, Literal

from django.http import Http404, HttpRequest, HttpResponse
from ninja import Query, Router, Schema

from dromikon.api.base import Error, Number, Site, at_site
from dromikon.api.devices import find_device
from dromikon.api.tables import as_sheet
from dromikon.authoring.files import export_rules, import_rules
from dromikon.authoring.known import known_of
from dromikon.authoring.listing import matrix_of
from dromikon.authoring.proposals import decline
from dromikon.authoring.services import read_document, rulebook_findings
from dromikon.authoring.several import Verb, do_to_several
from dromikon.authoring.sheets import WIDTHS, table_of
from dromikon.authoring.trials import try_call
from dromikon.core.rules.checks import Finding
from dromikon.core.rules.document import Problem
from dromikon.core.rules.exchange import json_schema
from dromikon.core.rules.sentence import plain, sentence
from dromikon.core.rules.starting import STARTING, NotBound, bind, suggested
from dromikon.core.words import t
from dromikon.facts import names_of
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule

router = Router(tags=["rulebook"])
#: What stands below a device.
devices = Router(tags=["rulebook"])


class FindingOut(Schema):
    check: str
    severity: str
    path: str
    reason: str
    hint: str


class RuleFindings(Schema):
    rule: str
    findings: list[FindingOut]


class OptionOut(Schema):
    id: str
    name: str


class MissingOut(Schema):
    """What rules of the file name and the site does not have, and what it could be here."""

    what: str
    id: str
    name: str
    rules: list[str]
    options: list[OptionOut]


Bind = Annotated[list[str], Query(description="what:id=id here, for what the site does not have")]


class ImportedOut(Schema):
    """Names of rules. `left_off`: they were on in the file, but must be mended before they are switched on."""

    made: list[str]
    changed: list[str]
    same: list[str]
    left_off: list[str]
    missing: list[MissingOut]
    findings: dict[str, list[FindingOut]]


class SeveralIn(Schema):
    """`tag`: the one to give or to take."""

    rules: list[str]
    verb: Verb
    tag: str = ""


class DoneOut(Schema):
    """Ids of rules; with those that were refused, why."""

    done: list[str]
    refused: dict[str, str]


class PlaceOut(Schema):
    name: str
    label: str
    what: str
    point_kinds: list[str]
    standard: float | None


class StartingOut(Schema):
    id: str
    title: str
    about: str
    places: list[PlaceOut]
    suggested: dict[str, Any]


class BindingsIn(Schema):
    bindings: dict[str, Any] = {}


class BoundOut(Schema):
    document: dict[str, Any]
    sentence: str


class TrialOut(Schema):
    run: str


@router.get("/schema", summary="JSON Schema (2020-12) of a rule document")
def schema(request: HttpRequest) -> dict[str, Any]:
    return json_schema()


@router.get("/export", summary="All rules, or one, as a file", url_name="export_rules")
def export(
    request: HttpRequest, site: Site = None, syntax: Literal["json", "yaml"] = "json", rule: str | None = None
) -> HttpResponse:
    """`rule`: the ids of those wanted, with commas; without, all."""
    found = at_site(request, site)
    ids = rule.split(",") if rule else []
    only = list(Rule.objects.filter(pk__in=ids, site=found.site, deleted=False)) if rule else None
    if only is not None and len(only) < len(set(ids)):
        raise Http404("There is no such rule.")
    kind = "application/json" if syntax == "json" else "application/yaml"
    answer = HttpResponse(export_rules(found, syntax, only), content_type=f"{kind}; charset=utf-8")
    name = only[0].id if only and len(only) == 1 else "rulebook"
    answer["Content-Disposition"] = f'attachment; filename="{name}.{syntax}"'
    return answer


@router.post(
    "/import",
    response={200: ImportedOut, 403: Error, 422: Error},
    summary="Take over the rules of a JSON or YAML file (the request's body), all of them or none",
)
def take_over(request: HttpRequest, site: Site = None, trial: bool = False, bind: Bind = []) -> Any:  # noqa: B006
    done = import_rules(at_site(request, site), request.body, trial, _bindings(bind))
    return {
        "missing": [
            {"what": m.what, "id": m.id, "name": m.name, "rules": m.rules,
             "options": [{"id": id, "name": name} for id, name in m.options]}
            for m in done.missing
        ],
        "made": done.made, "changed": done.changed, "same": done.same, "left_off": done.left_off,
        "findings": {name: [_finding(f) for f in found] for name, found in done.findings.items()},
    }  # fmt: skip


@router.get("/matrix", summary="All rules as a matrix (CSV or XLSX)", url_name="matrix")
def as_matrix(request: HttpRequest, site: Site = None, form: Literal["csv", "xlsx"] = "csv") -> HttpResponse:
    found = at_site(request, site)
    made = matrix_of(found)
    return as_sheet(table_of(made), f"matrix-{found.site.id}", t("Matrix"), form, WIDTHS)


@router.post("/several", response={200: DoneOut, 403: Error}, summary="Do something to several rules")
def several(request: HttpRequest, content: SeveralIn, site: Site = None) -> Any:
    done = do_to_several(at_site(request, site), content.rules, content.verb, content.tag.strip())
    return {"done": done.done, "refused": done.refused}


def _bindings(told: list[str]) -> dict[tuple[str, str], str]:
    """`what:id=id here`, each. Raises Refused."""
    found = {}
    for one in told:
        key, _, here = one.partition("=")
        what, _, id = key.partition(":")
        if not (what and id and here):
            raise Refused([Problem(path="bind", message="Bindings are written as what:id=id here.")])
        found[what, id] = here
    return found


@router.get("/checks", response=list[RuleFindings], summary="What the checks find, for each rule that has a finding")
def checks(request: HttpRequest, site: Site = None) -> Any:
    found = rulebook_findings(at_site(request, site))
    return [{"rule": id, "findings": [_finding(f) for f in findings]} for id, findings in found.items() if findings]


@router.get("/starting", response=list[StartingOut], summary="Starting rules with their places, and what fits here")
def starting(request: HttpRequest, site: Site = None) -> Any:
    found = at_site(request, site)
    facts, sends = names_of(found.site), known_of(found.site.id).sends
    return [
        {
            "id": s.id, "title": t(s.title), "about": t(s.about), "suggested": suggested(s, facts, sends),
            "places": [
                {"name": p.name, "label": t(p.label), "what": p.what, "point_kinds": list(p.point_kinds), "standard": p.standard}
                for p in s.places
            ],
        }
        for s in STARTING
    ]  # fmt: skip


@router.post(
    "/starting/{starting_id}",
    response={200: BoundOut, 404: Error, 422: Error},
    summary="The document of a starting rule with its places bound; nothing is saved",
)
def bound(request: HttpRequest, starting_id: str, content: BindingsIn, site: Site = None) -> Any:
    found = at_site(request, site)
    chosen = STARTING.get(starting_id)
    if chosen is None:
        raise Http404("There is no such starting rule.")
    try:
        document = bind(chosen, content.bindings)
    except NotBound as error:
        raise Refused(error.problems) from error
    return {"document": document.to_json(), "sentence": plain(sentence(document, names_of(found.site)))}


@router.post(
    "/rules/{rule_id}/steps/{step}/trial",
    response={202: TrialOut, 403: Error, 404: Error, 422: Error},
    summary="Send one HTTP call or webhook of a rule now; its outcome is found under the run",
)
def trial(request: HttpRequest, rule_id: str, step: Number, site: Site = None) -> Any:
    found = at_site(request, site)
    rule = Rule.objects.filter(pk=rule_id, site=found.site, deleted=False).first()
    if rule is None:
        raise Http404("There is no such rule.")
    return 202, {"run": try_call(found, read_document(rule.document), step)}


def _finding(f: Finding) -> dict[str, str]:
    return {"check": f.check, "severity": f.severity, "path": f.path, "reason": f.reason, "hint": f.hint}


class DeclineIn(Schema):
    declined: bool


@devices.put(
    "/devices/{device_id}/proposals/{starting_id}", response={204: None, 403: Error, 404: Error, 422: Error},
    summary="Turn down a starting rule that is proposed for a device, or have it proposed again",
)  # fmt: skip
def turn_down(request: HttpRequest, device_id: str, starting_id: str, content: DeclineIn, site: Site = None) -> Any:
    found = at_site(request, site)
    decline(found, find_device(found, device_id), starting_id, content.declined)
    return 204, None
