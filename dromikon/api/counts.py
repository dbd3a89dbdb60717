"""What counters counted."""

from typing import Any, Literal

from django.http import Http404, HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.api.tables import as_sheet
from dromikon.core.counting import Step
from dromikon.core.words import t
from dromikon.operating.counts import between, counter_of, table_of

router = Router(tags=["situation"])


class CountsOut(Schema):
    """One step (ms UTC): `most` inside at once, `stands`: inside at its end; null where nothing was counted."""

    start: int
    end: int
    came: int
    went: int
    most: int | None
    stands: int | None


@router.get(
    "/counters/{counter_id}/counts", response={200: list[CountsOut], 404: Error, 422: Error},
    summary="What a counter counted, in steps; also as CSV or XLSX", url_name="counts",
)  # fmt: skip
def counts(
    request: HttpRequest, counter_id: str, start: int, end: int, step: Step = "quarter",
    form: Literal["json", "csv", "xlsx"] = "json", site: Site = None,
) -> Any:  # fmt: skip
    found = at_site(request, site)
    counter = counter_of(found, counter_id)
    if counter is None:
        raise Http404("There is no such counter.")
    steps = between(found, counter, start, end, step)
    if form == "json":
        return 200, steps
    table = table_of(steps, found.site.zone)
    return as_sheet(table, "counts", t("Counts"), form, [20, 20, 12])
