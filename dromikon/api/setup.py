"""API: what an installation and its sites are made of. Every sort of thing in the same way; `sort` says which."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router, Schema

from dromikon.api.base import Error, Site, at_site, person_of
from dromikon.api.tables import TakenOut, as_file, said_of
from dromikon.core.rules.form import forms_of
from dromikon.core.words import t
from dromikon.people.access import Everywhere
from dromikon.setup import changes
from dromikon.setup.registry import SORTS
from dromikon.setup.sort import Row, Saved, Sort, Who
from dromikon.setup.table import points_as_table, take_points

router = Router(tags=["set-up"])


class ThingOut(Schema):
    """`version`: give it back with a change, and somebody else's change is not overwritten."""

    id: str
    name: str
    document: dict[str, Any]
    version: str


class ThingIn(Schema):
    document: dict[str, Any]
    version: str | None = None


class FormOut(Schema):
    """`form`: the parts of its document with their fields and controls."""

    label: str
    form: dict[str, Any]


class SavedOut(Schema):
    """`shown`: a token or password, shown this once; `said`: what came of it in words. Both may be empty."""

    id: str
    shown: str
    said: str


@router.get("/points/table", summary="All points as a table (CSV)", url_name="points_table")
def table(request: HttpRequest, site: Site = None) -> HttpResponse:
    found = at_site(request, site)
    SORTS["points"].check_allowed(found)
    return as_file(points_as_table(found), f"points-{found.site.id}.csv")


@router.put("/points/table", response={200: TakenOut, 403: Error, 422: Error}, summary="Points from a table (CSV)")
def take_table(request: HttpRequest, site: Site = None) -> Any:
    return said_of(take_points(at_site(request, site), request.body.decode("utf-8", "replace")))


@router.get("/{sort}", response={200: list[ThingOut], 403: Error, 404: Error}, summary="All things of a sort")
def things(request: HttpRequest, sort: str, site: Site = None) -> list[dict[str, Any]]:
    known, who = _asked(request, sort, site)
    known.check_allowed(who)
    return [_thing(row) for row in known.rows(who)]


@router.get("/{sort}/form", response={200: FormOut, 403: Error, 404: Error}, summary="The form of a sort of thing")
def form(request: HttpRequest, sort: str, site: Site = None) -> Any:
    known, who = _asked(request, sort, site)
    known.check_allowed(who)
    return {"label": t(known.one), "form": forms_of(known.document)}


@router.post("/{sort}", response={201: SavedOut, 403: Error, 404: Error, 422: Error}, summary="Add one")
def add(request: HttpRequest, sort: str, content: ThingIn, site: Site = None) -> Any:
    known, who = _asked(request, sort, site)
    return 201, _saved(changes.save(known, who, None, content.document))


@router.put(
    "/{sort}/{thing}", response={200: SavedOut, 403: Error, 404: Error, 409: Error, 422: Error}, summary="Change one"
)
def change(request: HttpRequest, sort: str, thing: str, content: ThingIn, site: Site = None) -> Any:
    known, who = _asked(request, sort, site)
    return _saved(changes.save(known, who, thing, content.document, content.version))


@router.delete(
    "/{sort}/{thing}",
    response={204: None, 403: Error, 404: Error, 409: Error, 422: Error},
    summary="Take one out of use; what rules name only with anyway=true",
)
def retire(request: HttpRequest, sort: str, thing: str, anyway: bool = False, site: Site = None) -> Any:
    known, who = _asked(request, sort, site)
    changes.retire(known, who, thing, anyway)
    return 204, None


@router.post(
    "/{sort}/{thing}/{verb}", response={200: SavedOut, 403: Error, 404: Error, 422: Error}, summary="Another verb"
)
def do(request: HttpRequest, sort: str, thing: str, verb: str, site: Site = None) -> Any:
    known, who = _asked(request, sort, site)
    return _saved(changes.do(known, who, thing, verb))


def _asked(request: HttpRequest, sort: str, site: str | None) -> tuple[Sort[Any], Who]:
    known = SORTS.get(sort)
    if known is None:
        raise Http404(f"There is no such sort of thing; there are {', '.join(SORTS)}.")
    return known, Everywhere(person_of(request)) if known.whole else at_site(request, site)


def _thing(row: Row) -> dict[str, Any]:
    return {
        "id": row.id, "name": row.name, "version": row.version,
        "document": row.document.model_dump(mode="json", exclude_none=True),
    }  # fmt: skip


def _saved(saved: Saved) -> dict[str, str]:
    return {"id": saved.id, "shown": saved.shown, "said": t(saved.said) if saved.said else ""}
