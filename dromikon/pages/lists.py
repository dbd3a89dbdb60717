"""Lists: what there is to compare with, how current it is, and the entries of one list."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.lists.entries import entries_of
from dromikon.lists.models import WatchList
from dromikon.lists.services import lists_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.web.views import site_view


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
        "may_erase": may_edit and access.may(May.SET_UP_PEOPLE),
        "sorts": WatchList.Sort.values,
    }
    return render(request, "lists/lists.html", context)


def _entries(list_id: str) -> list[dict[str, Any]]:
    content = WatchList.objects.values_list("content_id", flat=True).get(pk=list_id)
    return [e.model_dump(mode="json", exclude_defaults=True) for e in entries_of(content)]
