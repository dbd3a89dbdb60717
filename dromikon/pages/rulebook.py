"""Rulebook: rules as sentences, and one rule opened in the editor."""

from datetime import date
from itertools import groupby
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import dateformat
from django.views.decorators.cache import never_cache

from dromikon.authoring.beginnings import Beginning, begin, what_can_happen
from dromikon.authoring.catalogue import catalogue_of
from dromikon.authoring.known import known_of
from dromikon.authoring.listing import By, matrix_of, rules_of
from dromikon.authoring.revisions import revisions_of
from dromikon.authoring.services import rulebook_findings
from dromikon.authoring.trace import lately_of
from dromikon.core import reading
from dromikon.core.rules.actions.base import GROUPS
from dromikon.core.rules.form import forms
from dromikon.core.rules.starting import STARTING
from dromikon.core.words import t
from dromikon.facts import names_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.rulebook.models import Rule
from dromikon.rulebook.receivers import receivers_of, rotate_secret, show_secret
from dromikon.web.views import site_view

#: Bars of a rule's week, in its drawing.
BAR_HEIGHT, BAR_STEP = 30, 20


#: So many rules come with the page, and so many with each piece that its script asks for afterwards.
FIRST, PIECE = 40, 80


@site_view()
def rulebook(request: HttpRequest, access: Access) -> HttpResponse:
    """The first rules; the page asks for the others, and for what the checks say, when it stands."""
    return render(request, "rulebook/rulebook.html", _listed(request, access, 0, FIRST))


@site_view()
@never_cache
def rows(request: HttpRequest, access: Access) -> HttpResponse:
    """The rules from the nth on."""
    start = reading.whole_or_none(request.GET.get("from"), most=1_000_000) or 0
    return render(request, "rulebook/_rows.html", _listed(request, access, start, PIECE))


@site_view()
@never_cache
def checks(request: HttpRequest, access: Access) -> HttpResponse:
    """What the checks say of each rule."""
    return render(request, "rulebook/_findings.html", {"access": access, "found": rulebook_findings(access).items()})


@site_view()
def as_matrix(request: HttpRequest, access: Access) -> HttpResponse:
    """Causes down, responses across."""
    made = matrix_of(access)
    groups = [(t(GROUPS[g]), len(list(columns))) for g, columns in groupby(made.columns, key=lambda c: c.group)]
    rows = [(row, [row.cells.get(column, ()) for column in made.columns]) for row in made.rows]
    context = {"access": access, "matrix": made, "groups": groups, "rows": rows, "view": "matrix"}
    return render(request, "rulebook/matrix.html", context)


def _listed(request: HttpRequest, access: Access, start: int, count: int) -> dict[str, Any]:
    """Some of the rules, in groups, as the address wants them."""
    wanted = request.GET.get("by", "")
    by: By = wanted if wanted in ("area", "kind") else "purpose"  # type: ignore[assignment]
    retired = "retired" in request.GET
    found = rules_of(access, by, start, count, retired)
    groups = [
        (name, [(line, _bars(line.week)) for line in lines]) for name, lines in groupby(found.lines, lambda x: x.group)
    ]
    return {
        "access": access, "may_edit": access.may(May.EDIT_RULES), "groups": groups, "count": found.count, "by": by,
        "following": found.following, "retired": retired, "view": "retired" if retired else "rules",
    }  # fmt: skip


def _bars(counts: dict[date, int]) -> list[dict[str, Any]]:
    most = max([*counts.values(), 4])
    return [
        {
            "x": i * BAR_STEP,
            "y": BAR_HEIGHT - max(1, round(BAR_HEIGHT * count / most)),
            "height": max(1, round(BAR_HEIGHT * count / most)),
            "opacity": ".8" if count else ".2",
            "day": dateformat.format(day, "D")[:2],
        }
        for i, (day, count) in enumerate(counts.items())
    ]


def _rule(access: Access, rule_id: str) -> Rule:
    rule = Rule.objects.filter(pk=rule_id, site=access.site).first()
    if rule is None:
        raise Http404("There is no such rule at this site.")
    return rule


def _kept(access: Access, rule_id: str) -> Rule:
    """A rule that is not deleted. One that is can only be brought back."""
    rule = _rule(access, rule_id)
    if rule.deleted:
        raise Http404("This rule was deleted; its history stays in the Daybook.")
    return rule


@site_view()
def edit(request: HttpRequest, access: Access, rule_id: str | None = None) -> HttpResponse:
    """The editor: for a rule, for an event just seen (?event=), or for nothing yet."""
    rule, facts = _kept(access, rule_id) if rule_id else None, names_of(access.site)
    if rule is None:
        access.need(May.EDIT_RULES)
    begun = Beginning(rule.document_of(rule.latest)) if rule else begin(access, facts, request.GET.dict())
    starts = rule is None and not begun.document.get("cause")
    context = {
        "access": access,
        "rule": rule,
        "document": begun.document,
        "catalogue": catalogue_of(facts, known_of(access.site.id).sends),
        "forms": forms(),
        "open_places": begun.asks,
        "may_edit": access.may(May.EDIT_RULES),
        "starting": _starting() if starts else [],
        "happens": what_can_happen(access, request.GET.get("point", "")) if starts else None,
        "rule_names": {r.id: r.name for r in access.site.rules.filter(deleted=False)} if starts else {},
        "muted": rule is not None and access.person.mutes.filter(rule=rule.id).exists(),
        "revisions": revisions_of(rule, facts) if rule else [],
        "lately": lately_of(rule, facts) if rule else [],
    }
    return render(request, "rulebook/editor.html", context)


@site_view()
@never_cache
def lately(request: HttpRequest, access: Access, rule_id: str) -> HttpResponse:
    """What a rule made of the latest events, for a page that heard of one."""
    found = lately_of(_kept(access, rule_id), names_of(access.site))
    return render(request, "rulebook/_lately.html", {"access": access, "lately": found})


def _starting() -> list[dict[str, str]]:
    """Rules for common jobs, in the page's language."""
    return [{"id": s.id, "title": t(s.title), "about": t(s.about)} for s in STARTING]


@site_view(May.EDIT_RULES)
@never_cache
def receivers(request: HttpRequest, access: Access) -> HttpResponse:
    """Addresses that webhooks go to. POST shows a secret once, or makes a new one."""
    context: dict[str, Any] = {"access": access, "page": "receivers"}
    address = request.POST.get("address", "")
    if request.method == "POST" and address in {r.address for r in receivers_of(access.site)}:
        context["address"] = address
        context["secret"] = (rotate_secret if request.POST.get("do") == "rotate" else show_secret)(access, address)
    context["receivers"] = receivers_of(access.site)
    return render(request, "rulebook/receivers.html", context)
