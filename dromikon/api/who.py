"""Who passed: faces and plates that cameras read, and who was there on which day."""

from itertools import islice
from typing import Annotated, Any, Literal

from django.http import HttpRequest
from ninja import Query, Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.api.tables import as_sheet
from dromikon.core.words import t
from dromikon.operating.who import Passed, attendance, like, passed, table_of

router = Router(tags=["who"])
ERRORS: dict[int, Any] = {403: Error, 422: Error}


class PassageOut(Schema):
    """A passage (ms UTC). `who`: the entry that it is, of `list`; empty for a stranger. `event`: the surest reading, `readings` in all."""

    event: int
    first: int
    last: int
    readings: int
    who: str
    list: str
    similar: float | None
    sure: float
    point: str
    camera: str


class PresenceOut(Schema):
    """Somebody on one day, which began at `day` (ms UTC); `gaps`: stretches of two hours or longer without them."""

    who: str
    day: int
    first: int
    last: int
    count: int
    places: list[str]
    gaps: list[tuple[int, int]]


@router.get("/who", response={200: list[PassageOut], **ERRORS}, summary="Who passed, the latest first")
def who(
    request: HttpRequest, start: int, end: int, sort: Literal["faces", "plates"] = "faces", like_event: int | None = None,
    limit: Annotated[int, Query(ge=1, le=1_000)] = 200, site: Site = None,
) -> Any:  # fmt: skip
    """`like_event`: only the one whom this event read."""
    access = at_site(request, site)
    wanted = (start, end)
    found = passed(access, sort, *wanted) if like_event is None else like(access, sort, like_event, *wanted)
    return 200, [_told(p) for p in islice(found, limit)]


def _told(p: Passed) -> dict[str, Any]:
    best = p.passage.best
    return {
        "event": best.event, "first": p.passage.first, "last": p.passage.last, "readings": p.passage.count,
        "who": p.who, "list": p.list, "similar": p.similar, "sure": best.sure, "point": best.point, "camera": p.camera,
    }  # fmt: skip


@router.get(
    "/who/attendance", response={200: list[PresenceOut], **ERRORS}, url_name="attendance",
    summary="Who of the lists was there on which day; also as CSV or XLSX",
)  # fmt: skip
def present(
    request: HttpRequest, start: int, end: int, sort: Literal["faces", "plates"] = "faces",
    form: Literal["json", "csv", "xlsx"] = "json", site: Site = None,
) -> Any:  # fmt: skip
    access = at_site(request, site)
    found = attendance(access, sort, start, end)
    if form == "json":
        return 200, found
    return as_sheet(table_of(access, found), "attendance", t("Attendance"), form, [12, 24, 8, 8, 8, 40])
