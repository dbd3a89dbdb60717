"""Rulebook: rules as sentences, and one rule opened in the editor."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import dateformat
from django.views.decorators.cache import never_cache

from dromikon.authoring.catalogue import catalogue_of
from dromikon.authoring.drafts import draft_of_event
from dromikon.authoring.known import known_of
from dromikon.authoring.services import rulebook_findings
from dromikon.clock import now_ms
from dromikon.core import reading
from dromikon.core.facts import Facts
from dromikon.core.hours import wall_clock
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.form import forms
from dromikon.core.rules.sentence import plain, sentence
from dromikon.core.rules.starting import STARTING, bind, open_places, suggested
from dromikon.core.words import t
from dromikon.daybook.models import EventRow, RunRow
from dromikon.facts import facts_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.rulebook.models import Rule
from dromikon.rulebook.receivers import receivers_of, rotate_secret, show_secret
from dromikon.web.views import site_view

DAY = 86_400_000
#: Bars of a rule's week, in its drawing.
BAR_HEIGHT, BAR_STEP = 30, 20


@site_view()
def rulebook(request: HttpRequest, access: Access) -> HttpResponse:
    facts, found = facts_of(access.site), rulebook_findings(access)
    groups: dict[str, list[dict[str, Any]]] = {}
    for rule in Rule.objects.filter(site=access.site, deleted=False):
        document = RuleDocument.model_validate(rule.document)
        groups.setdefault(document.purpose or t("Other"), []).append(
            {
                "rule": rule,
                "sentence": sentence(document, facts),
                "plain": plain(sentence(document, facts)),
                "findings": found.get(rule.id, []),
                "week": _week(rule, access.site.zone),
            }
        )
    context = {"access": access, "groups": sorted(groups.items()), "may_edit": access.may(May.EDIT_RULES)}
    return render(request, "rulebook/rulebook.html", context)


def _week(rule: Rule, zone: str) -> dict[str, Any]:
    """Runs on each of the past seven days of the site's calendar, today last."""
    now = now_ms()
    days = [wall_clock(now - i * DAY, zone).date() for i in range(6, -1, -1)]
    counts = dict.fromkeys(days, 0)
    for zero in RunRow.objects.filter(rule=rule.id, at__gt=now - 8 * DAY).values_list("zero", flat=True):
        day = wall_clock(zero, zone).date()
        if day in counts:
            counts[day] += 1
    most = max([*counts.values(), 4])
    bars = [
        {
            "x": i * BAR_STEP,
            "y": BAR_HEIGHT - max(1, round(BAR_HEIGHT * count / most)),
            "height": max(1, round(BAR_HEIGHT * count / most)),
            "opacity": ".8" if count else ".2",
            "day": dateformat.format(day, "D")[:2],
        }
        for i, (day, count) in enumerate(counts.items())
    ]
    return {"total": sum(counts.values()), "bars": bars}


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
    rule = _kept(access, rule_id) if rule_id else None
    facts = facts_of(access.site)
    if rule:
        document = rule.document
    else:
        access.need(May.EDIT_RULES)
        document = _draft_from(request, access, facts)
    context = {
        "access": access,
        "rule": rule,
        "document": document,
        "catalogue": catalogue_of(facts, known_of(access.site.id).sends),
        "forms": forms(),
        "open_places": [] if rule else _open_places(request, access, facts),
        "may_edit": access.may(May.EDIT_RULES),
        "starting": [] if rule or document.get("cause") else _starting(),
        "revisions": rule.revisions.select_related("by")[:12] if rule else [],
        "runs": RunRow.objects.filter(rule=rule.id).order_by("-at")[:8] if rule else [],
        "point_names": {p.id: p.name for p in facts.points},
    }
    return render(request, "rulebook/editor.html", context)


def _starting() -> list[dict[str, str]]:
    """Rules for common jobs, in the page's language."""
    return [{"id": s.id, "title": t(s.title), "about": t(s.about)} for s in STARTING]


def _draft_from(request: HttpRequest, access: Access, facts: Facts) -> dict[str, Any]:
    seq = reading.whole_or_none(request.GET.get("event"))
    event = EventRow.objects.filter(site=access.site.id, seq=seq).first() if seq is not None else None
    if event is not None:
        return draft_of_event(event, facts)
    chosen = STARTING.get(request.GET.get("from", ""))
    if chosen is not None:
        return bind(chosen, suggested(chosen, facts, known_of(access.site.id).sends)).to_json()
    return {"format": "dromikon-rule/1", "name": "", "response": []}


def _open_places(request: HttpRequest, access: Access, facts: Facts) -> list[dict[str, Any]]:
    """What a starting rule leaves to be chosen, for the page to ask in this order."""
    chosen = STARTING.get(request.GET.get("from", ""))
    if chosen is None:
        groups = [{"id": g.id, "name": g.name} for g in facts.groups if g.roles or g.persons]
        who = {"label": t("who sees it"), "many": True, "paths": ["response.0.groups"], "chosen": [], "options": groups}
        return [who] if "event" in request.GET else []
    return [
        {
            "label": t(o.place.label), "many": o.many, "paths": list(o.paths), "chosen": [],
            "options": [{"id": id, "name": name} for id, name in o.options],
        }
        for o in open_places(chosen, facts, known_of(access.site.id).sends)
    ]  # fmt: skip


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
