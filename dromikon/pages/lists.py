"""Lists: what there is to compare with, how current it is, and the entries of one list."""

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.translation import gettext_lazy as _

from dromikon.core.kinds import KINDS
from dromikon.lists.models import WatchList
from dromikon.lists.services import lists_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.naming import Uses
from dromikon.web.views import site_view

#: What each column of a table is called.
COLUMNS = (
    ("value", _("Value")),
    ("label", _("Shown as")),
    ("note", _("Note")),
    ("valid_from", _("Valid from")),
    ("valid_until", _("Valid until")),
    ("template", _("Face")),
    ("pictured", _("Face taken on")),
    ("agreed", _("Agreed on")),
)
#: In which a list may stand out.
COLOUR_WORDS = (
    ("", _("no colour")),
    ("own", _("plum")),
    ("good", _("teal")),
    ("wait", _("amber")),
    ("alert", _("rust")),
)


@site_view()
def lists(request: HttpRequest, access: Access, list_id: str | None = None) -> HttpResponse:
    """All lists; with an id, one of them opened. Entries are personal data and need the right to edit them."""
    rows = lists_of(access.site)
    chosen = list_id or (rows[0]["id"] if rows else None)
    opened = next((r for r in rows if r["id"] == chosen), None)
    if list_id and opened is None:
        raise Http404
    may_edit = access.may(May.EDIT_LISTS)
    context = {
        "access": access,
        "rows": rows,
        "opened": opened,
        "users": Uses.of(access.site).rules_naming(opened["id"]) if opened else [],
        "columns": [(name, words, opened["columns"].get(name, "")) for name, words in COLUMNS] if opened else [],
        "may_edit": may_edit,
        "may_erase": may_edit and access.may(May.SET_UP_PEOPLE),
        "may_set_up": access.may(May.EDIT_SOURCES),
        "recogniser": access.site.recognisers.filter(retired_at=None).exists(),
        "readers": access.site.points.filter(retired_at=None, kind__in=KINDS["face.seen"].point_kinds).order_by("name"),
        "sorts": WatchList.Sort.values,
        "colours": COLOUR_WORDS,
    }
    return render(request, "lists/lists.html", context)
