"""Set-up: what a site, or the whole installation, is made of. One page for every sort of thing."""

from typing import Any

from django.contrib.auth.decorators import login_required
from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from dromikon.core.rules.form import forms_of
from dromikon.core.words import t
from dromikon.people.access import Access, Everywhere
from dromikon.setup.offers import offers_of
from dromikon.setup.registry import SORTS, sorts_for
from dromikon.setup.sort import Row, Sort, Who
from dromikon.web.views import person_of, site_view


@site_view()
def setup(request: HttpRequest, access: Access, sort: str = "") -> HttpResponse:
    """What the site is made of."""
    if not sort:
        return redirect("setup.sort", access.site.id, _first(access, whole=False).name)
    return _page(request, access, _sort(sort, whole=False), {"access": access})


@login_required
def installation(request: HttpRequest, sort: str = "") -> HttpResponse:
    """What is the installation's, not one site's."""
    who = Everywhere(person_of(request))
    who.need()
    if not sort:
        return redirect("installation.sort", _first(who, whole=True).name)
    return _page(request, who, _sort(sort, whole=True), {})


def _first(who: Who, whole: bool) -> Sort[Any]:
    mine = sorts_for(who, whole)
    if not mine:
        raise PermissionDenied("Your role here may not set anything up.")
    return mine[0]


def _sort(name: str, whole: bool) -> Sort[Any]:
    found = SORTS.get(name)
    if found is None or found.whole != whole:
        raise Http404("There is no such page.")
    return found


def _page(request: HttpRequest, who: Who, sort: Sort[Any], context: dict[str, Any]) -> HttpResponse:
    sort.check_allowed(who)
    rows = sort.rows(who)
    carried = {
        "sort": sort.name,
        "single": sort.single,
        "forms": forms_of(sort.document),
        "catalogue": offers_of(who),
        "things": {row.id: _carried(row) for row in rows},
        "verbs": [{"name": v.name, "label": t(v.label), "asks": t(v.asks) if v.asks else ""} for v in sort.verbs],
    }
    tabs = [(known, known.name == sort.name) for known in sorts_for(who, sort.whole)]
    context |= {"sort": sort, "rows": rows, "carried": carried, "tabs": tabs, "whole": sort.whole}
    return render(request, "setup/setup.html", context)


def _carried(row: Row) -> dict[str, Any]:
    return {
        "name": row.name, "document": row.document.model_dump(mode="json", exclude_defaults=True), "version": row.version,
        "verbs": list(row.verbs), "retirable": row.retirable,
    }  # fmt: skip
