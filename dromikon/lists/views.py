"""Lists: what there is to compare with, how current it is, and the entries of one list."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render

from dromikon.core import reading
from dromikon.core.lists.table import LARGEST, write_table
from dromikon.lists.models import WatchList
from dromikon.lists.services import change_list, delete_list, import_table, lists_of, make_list, set_entries
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sites.facts import entries_of
from dromikon.web.views import body_of, site_view


@site_view()
def lists(request: HttpRequest, access: Access, list_id: str | None = None) -> HttpResponse:
    """All lists; with an id, one of them opened. Entries are personal data and need the right to edit them."""
    rows = lists_of(access.site)
    chosen = list_id or (rows[0]["id"] if rows else None)
    opened = next((r for r in rows if r["id"] == chosen), None)
    if list_id and opened is None:
        raise Http404
    may_edit = access.may(May.EDIT_LISTS)
    entries = _entries(opened["id"]) if opened and may_edit else []
    context = {
        "access": access,
        "rows": rows,
        "opened": opened,
        "entries": entries,
        "may_edit": may_edit,
        "sorts": WatchList.Sort.values,
    }
    return render(request, "lists/lists.html", context)


def _entries(list_id: str) -> list[dict[str, Any]]:
    content = WatchList.objects.values_list("content_id", flat=True).get(pk=list_id)
    return [e.model_dump(mode="json", exclude_defaults=True) for e in entries_of(content)]


def _find(access: Access, list_id: str) -> WatchList:
    known = WatchList.objects.filter(pk=list_id, site=access.site).first()
    if known is None:
        raise Http404("There is no such list at this site.")
    return known


@site_view(May.EDIT_LISTS)
def new_list(request: HttpRequest, access: Access) -> JsonResponse:
    """POST {name, sort}."""
    content = body_of(request)
    if request.method != "POST" or not isinstance(content, dict):
        return JsonResponse({"error": "POST {name, sort}."}, status=400)
    return _told(lambda: make_list(access, str(content.get("name", "")), str(content.get("sort", ""))).id)


@site_view(May.EDIT_LISTS)
def change(request: HttpRequest, access: Access, list_id: str) -> JsonResponse:
    """POST {entries}, {name, source, every} or {deleted}."""
    content = body_of(request)
    if request.method != "POST" or not isinstance(content, dict):
        return JsonResponse({"error": "POST {entries}, {name, source, every} or {deleted}."}, status=400)
    known = _find(access, list_id)
    if content.get("deleted"):
        delete_list(access, known)
        return JsonResponse({"id": list_id})
    if "entries" in content:
        return _told(lambda: set_entries(access, known, content["entries"]).id)
    try:
        every = reading.whole(content.get("every", known.every))
    except reading.NotReadable:
        every = 0
    name, source = str(content.get("name", known.name)), str(content.get("source", known.source))
    return _told(lambda: change_list(access, known, name=name, source=source, every=every).id)


@site_view(May.EDIT_LISTS)
def table(request: HttpRequest, access: Access, list_id: str) -> HttpResponse:
    """The entries as CSV; POST replaces them by those of a CSV."""
    known = _find(access, list_id)
    if request.method == "POST":
        if (reading.whole_or_none(request.headers.get("content-length")) or 0) > LARGEST:
            return JsonResponse({"error": f"A table is at most {LARGEST // 1_000_000} MB."}, status=413)
        return _told(lambda: import_table(access, known, request.body).id)
    answer = HttpResponse(write_table(entries_of(known.content_id)), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{known.id}.csv"'
    return answer


def _told(verb: Any) -> JsonResponse:
    try:
        return JsonResponse({"id": verb()})
    except Refused as refused:
        return JsonResponse({"problems": [p.model_dump() for p in refused.problems]}, status=422)
