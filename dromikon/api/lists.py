"""Lists over the API: entries as JSON, tables as CSV."""

from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router, Schema
from pydantic import Field

from dromikon.api.base import Error, Site, at_site
from dromikon.core.instants import iso
from dromikon.keeping.erasing import erase_entry
from dromikon.lists.entries import entries_of
from dromikon.lists.models import WatchList
from dromikon.lists.services import change_list, delete_list, lists_of, make_list
from dromikon.people.access import Access
from dromikon.people.roles import May

router = Router(tags=["lists"])


class ListOut(Schema):
    """`colour`: in which its entries stand out. `likeness`: from how similar on, in percent, a face is taken for one of its entries.
    `columns`: which of the source's columns is which of ours. `stale`: kept from a source that has given nothing good for long. `trouble`: why the last fetch failed.
    `cameras`: points at which its faces are looked for on the page of who passed; none: all. `renew`: days after which a face is to
    be taken anew (0: never), `outdated`: how many are older. `consent`: a face is put on it only of somebody who agreed."""

    id: str
    name: str
    sort: str
    count: int
    changed_at: str
    source: str
    columns: dict[str, str]
    every: int
    good_at: str | None
    trouble: str
    stale: bool
    colour: str
    likeness: float
    cameras: list[str]
    renew: int
    outdated: int
    consent: bool


class ListWithEntries(ListOut):
    entries: list[dict[str, Any]]


class ListIn(Schema):
    name: str
    sort: str = "values"
    source: str = ""
    columns: dict[str, str] = {}
    every: int = 3600
    colour: str = ""
    likeness: float = 85
    cameras: list[str] = Field(default=[], max_length=200)
    renew: int = 0
    consent: bool = False


@router.get("", response=list[ListOut], summary="Lists of the site")
def lists(request: HttpRequest, site: Site = None) -> Any:
    return [_out(row) for row in lists_of(at_site(request, site).site)]


@router.post("", response={201: ListOut, 403: Error, 422: Error}, summary="Make an empty list")
def make(request: HttpRequest, content: ListIn, site: Site = None) -> Any:
    found = at_site(request, site)
    made = make_list(found, content.name, content.sort, content.source, content.every)
    return 201, list_out(found, made.id)


@router.get("/{list_id}", response={200: ListWithEntries, 403: Error, 404: Error}, summary="One list with its entries")
def read(request: HttpRequest, list_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    known = find_list(found, list_id)
    return {**list_out(found, list_id), "entries": _entries(known)}


@router.put("/{list_id}", response={200: ListOut, 403: Error, 404: Error, 422: Error}, summary="Change name and source")
def change(request: HttpRequest, list_id: str, content: ListIn, site: Site = None) -> Any:
    found = at_site(request, site)
    change_list(found, find_list(found, list_id), **content.model_dump(exclude={"sort"}))
    return list_out(found, list_id)


class EraseIn(Schema):
    value: str


class ErasedOut(Schema):
    """In how many events it was seen: those have lost it, and the pictures kept because of it are deleted."""

    events: int


@router.post(
    "/{list_id}/erase",
    response={200: ErasedOut, 403: Error, 404: Error},
    summary="Erase an entry here and in everything that has been kept",
)
def erase(request: HttpRequest, list_id: str, content: EraseIn, site: Site = None) -> Any:
    found = at_site(request, site)
    found.need(May.SET_UP_PEOPLE)
    return {"events": erase_entry(found, find_list(found, list_id), content.value)}


@router.delete("/{list_id}", response={204: None, 403: Error, 404: Error}, summary="Delete a list")
def delete(request: HttpRequest, list_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    delete_list(found, find_list(found, list_id))
    return 204, None


def find_list(found: Access, list_id: str) -> WatchList:
    """A list of the site. Lists hold personal data: reading their entries needs the same right as changing them. Raises PermissionDenied,
    Http404."""
    found.need(May.EDIT_LISTS)
    known = WatchList.objects.filter(pk=list_id, site=found.site).first()
    if known is None:
        raise Http404("There is no such list.")
    return known


def _entries(known: WatchList) -> list[dict[str, Any]]:
    return [e.model_dump(mode="json", exclude_defaults=True) for e in entries_of(known.content_id)]


def list_out(found: Access, list_id: str) -> dict[str, Any]:
    """A list as it is told."""
    return next(_out(row) for row in lists_of(found.site) if row["id"] == list_id)


def _out(row: dict[str, Any]) -> dict[str, Any]:
    return {**row, "changed_at": iso(row["changed_at"]), "good_at": iso(row["good_at"]) if row["good_at"] else None}
