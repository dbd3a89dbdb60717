"""Records: everything that happened, found by words and facets, as pages and as files; searches kept under a name."""

from json import dumps
from typing import Annotated, Any, Literal

from django.http import Http404, HttpRequest
from ninja import Query, Router, Schema
from pydantic import ValidationError

from dromikon.api.base import Error, Limit, Number, Site, at_site
from dromikon.api.tables import as_file, as_sheet
from dromikon.authoring.recorded import table_of
from dromikon.core.records.search import Search, from_pairs
from dromikon.core.rules.document import Problem, problems_of
from dromikon.core.words import t
from dromikon.records.models import KeptSearch
from dromikon.records.services import all_of, drop_search, find, keep_search, kept_by
from dromikon.refusals import Refused

router = Router(tags=["records"])
ERRORS: dict[int, Any] = {403: Error, 422: Error}
#: What goes behind the question mark besides the search itself.
OTHERS = ("site", "limit", "beyond", "counted", "form")
WIDTHS = (22, 10, 40, 40, 16, 24, 24, 18, 14)


class RecordOut(Schema):
    """`sort`: alarm, event, run, delivery, line, bookmark, note or act. `ref`: its number where it comes from, `seq`: the event in the
    journal that it goes back to; `at` in ms UTC."""

    id: str
    at: int
    sort: str
    ref: str
    title: str
    more: str
    area: str
    point: str
    kind: str
    rule: str
    person: str
    outcome: str
    seq: int | None

    @staticmethod
    def resolve_id(found: Any) -> str:
        """Text: it is longer than numbers of some languages."""
        return str(found.id)


class PageOut(Schema):
    """`beyond`: to be given for the next page. `count`: of all, one more than 10,000 where there are more. `facets`: by facet, its values
    with how many have them, of the first 20,000. `left`: so many rows are still to be taken up."""

    records: list[RecordOut]
    beyond: str | None
    count: int
    facets: dict[str, list[tuple[str, int]]]
    left: int


class KeptOut(Schema):
    id: int
    name: str
    everybody: bool
    document: dict[str, Any]


class KeptIn(Schema):
    """`document`: a search as it stands behind the question mark. `everybody`: at the site, by those who build rules."""

    name: str
    document: dict[str, Any]
    everybody: bool = False


@router.get("/records", response={200: PageOut, **ERRORS}, summary="What happened, by words and facets")
def records(
    request: HttpRequest,
    limit: Limit = 50,
    beyond: Annotated[int, Query(ge=0)] | None = None,
    counted: bool = True,
    site: Site = None,
) -> Any:
    """Behind the question mark, besides: `words`; `last` (ms) or `start` and `end` (ms UTC); `order` (newest, oldest); and any number of
    `sort`, `kind`, `area`, `point`, `rule`, `outcome` and `person`."""
    page = find(at_site(request, site), _search(request), limit, beyond, counted)
    return 200, {
        "records": page.records, "beyond": None if page.beyond is None else str(page.beyond), "count": page.count, "facets": page.facets,
        "left": page.left,
    }  # fmt: skip


@router.get(
    "/records/file", response={200: list[RecordOut], **ERRORS}, url_name="records_file",
    summary="What happened as CSV, XLSX or JSON, at most 50,000 rows",
)  # fmt: skip
def as_a_file(request: HttpRequest, form: Literal["csv", "xlsx", "json"] = "csv", site: Site = None) -> Any:
    access = at_site(request, site)
    found = list(all_of(access, _search(request)))
    if form == "json":
        told = [RecordOut.from_orm(one).model_dump() for one in found]
        return as_file(dumps(told, ensure_ascii=False, indent=1), "records.json", "application/json")
    return as_sheet(table_of(access.site, found), "records", t("Records"), form, WIDTHS)


@router.get("/records/searches", response={200: list[KeptOut], 403: Error}, summary="Searches kept under a name")
def searches(request: HttpRequest, site: Site = None) -> Any:
    return 200, [_kept(one) for one in kept_by(at_site(request, site))]


@router.put("/records/searches", response={200: KeptOut, **ERRORS}, summary="Keep a search under a name")
def keep(request: HttpRequest, content: KeptIn, site: Site = None) -> Any:
    return 200, _kept(keep_search(at_site(request, site), content.name, content.document, content.everybody))


@router.delete(
    "/records/searches/{number}", response={204: None, 403: Error, 404: Error}, summary="Take a kept search away"
)
def drop(request: HttpRequest, number: Number, site: Site = None) -> Any:
    try:
        drop_search(at_site(request, site), number)
    except KeptSearch.DoesNotExist as error:
        raise Http404 from error
    return 204, None


def _search(request: HttpRequest) -> Search:
    """What stands behind the question mark. Raises Refused, also for what is none of a search's."""
    given = {name: request.GET.getlist(name) for name in request.GET if name not in OTHERS}
    if strange := sorted(set(given) - set(Search.model_fields)):
        raise Refused([Problem(path=strange[0], message=t("Records are not searched by {name}.", name=strange[0]))])
    try:
        return from_pairs(given)
    except ValidationError as error:
        raise Refused(problems_of(error)) from error


def _kept(one: KeptSearch) -> dict[str, Any]:
    return {"id": one.pk, "name": one.name, "everybody": one.person_id is None, "document": one.document}
