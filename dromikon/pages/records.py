"""Records: everything that happened at the site in one list, narrowed by words and facets; every row leads to where it can be seen."""

from collections.abc import Iterable
from typing import Any
from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from pydantic import ValidationError

from dromikon.authoring.recorded import Labels, cameras_of
from dromikon.clock import now_ms
from dromikon.core.alarms.states import OPEN_TO_ANSWER, OUTCOMES
from dromikon.core.kinds import KINDS
from dromikon.core.records.entry import SINGLE, SORTS
from dromikon.core.records.search import FACETS, STRETCHES, Search, from_pairs
from dromikon.core.rules.document import problems_of
from dromikon.core.words import t
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.records.index import MOST_COUNTED, MOST_FACETED
from dromikon.records.services import Found, Page, find, kept_by
from dromikon.refusals import Refused
from dromikon.web.templatetags.kit import STEP_LOOKS
from dromikon.web.views import in_address, site_view

#: So many stand on a page.
ROWS = 50
ICONS = {
    "alarm": "bell", "event": "wave-sine", "run": "route", "delivery": "send", "line": "list-details", "bookmark": "bookmark",
    "note": "note", "act": "user",
}  # fmt: skip


@site_view()
def records(request: HttpRequest, access: Access) -> HttpResponse:
    """A page of what fits. `beyond`: where it goes on."""
    problem, page = "", Page([], None)
    try:
        search = from_pairs({name: request.GET.getlist(name) for name in request.GET})
        page = find(access, search, ROWS, in_address(request.GET.get("beyond")))
    except ValidationError as error:
        search, problem = Search(), problems_of(error)[0].message
    except Refused as refused:
        problem = refused.problems[0].message
    labels = Labels(access.site)
    context = {
        "access": access, "search": search, "problem": problem, "page": "records", "found": page, "rows": _rows(access, page.records, labels),
        "facets": [_facet(name, page.facets.get(name, []), search, labels) for name in FACETS] if page.facets else [],
        "stretches": [(ms, t(words), _address(search, last=ms, start=None, end=None)) for ms, words in STRETCHES.items()],
        "count": min(page.count, MOST_COUNTED), "many": page.count > MOST_COUNTED, "faceted": MOST_FACETED,
        "pairs": search.pairs(), "asked_on": f"&{urlencode(search.pairs())}", "next": _next(search, page.beyond), "whole": _address(search, start=None, end=None),
        "fixed": search.start is not None or search.end is not None, "stretch": search.stretch(now_ms()),
        "kept": [{"kept": kept, "href": _asked(kept.document), "mine": kept.person_id is not None} for kept in kept_by(access)],
        "may_share": access.may(May.EDIT_RULES), "may_gather": access.may(May.BOOKMARK), "first": "beyond" not in request.GET,
    }  # fmt: skip
    return render(request, "records/records.html", context)


def _rows(access: Access, found: Iterable[Found], labels: Labels) -> list[dict[str, Any]]:
    rows = list(found)
    seen_from = cameras_of(access.site, {row.point for row in rows})
    runs = labels.runs_of_alarms([row.ref for row in rows if row.sort == "alarm"])
    return [
        {
            "row": row, "icon": _icon(row), "sort": t(SINGLE[row.sort]), "title": _title(row), "point": labels.of("point", row.point),
            "area": labels.of("area", row.area), "rule": labels.of("rule", row.rule), "outcome": labels.of("outcome", row.outcome), "look": _look(row),
            "camera": seen_from.get(row.point), "run": runs.get(row.ref) if row.sort == "alarm" else None,
        }
        for row in rows
    ]  # fmt: skip


def _icon(row: Found) -> str:
    kind = KINDS.get(row.kind)
    return kind.icon if kind else ICONS[row.sort]


def _look(row: Found) -> str:
    """What has gone well or not looks so; what an alarm was is a word."""
    if row.sort in ("run", "delivery"):
        return STEP_LOOKS.get(row.outcome, "wait") if row.outcome else ""
    return "wait" if row.outcome in (*OPEN_TO_ANSWER, "test", "late") and row.outcome not in OUTCOMES else ""


def _title(row: Found) -> str:
    """What a row says first: of an event, what its kind is called."""
    if row.sort == "event":
        kind = KINDS.get(row.kind)
        label = t(kind.label) if kind else row.kind
        return {"begin": t("{what} begins", what=label), "end": t("{what} ends", what=label)}.get(row.title, label)
    return t(row.title) if row.sort == "delivery" else row.title


def _facet(name: str, values: list[tuple[str, int]], search: Search, labels: Labels) -> dict[str, Any]:
    chosen = search.values(name)
    return {
        "name": name, "label": t(FACETS[name]), "chosen": bool(chosen),
        "values": [
            {
                "label": labels.of(name, value), "count": count, "chosen": value in chosen,
                "href": _asked(search.toggled(name, value)),
            }
            for value, count in (values if name != "sort" else sorted(values, key=lambda one: list(SORTS).index(one[0])))
        ],
    }  # fmt: skip


def _address(search: Search, **changed: Any) -> str:
    return _asked(search.model_copy(update=changed))


def _asked(search: Search | dict[str, Any]) -> str:
    known = search if isinstance(search, Search) else Search.model_validate(search)
    return f"?{urlencode(known.pairs())}"


def _next(search: Search, beyond: int | None) -> str | None:
    return None if beyond is None else f"?{urlencode([*search.pairs(), ('beyond', beyond)])}"
