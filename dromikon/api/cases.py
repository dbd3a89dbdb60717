"""Cases over the API: opened, added to, closed."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Number, Site, at_site
from dromikon.cases.adding import Asked, add
from dromikon.cases.models import Case, Piece
from dromikon.cases.services import close_case, find_case, hide_in, open_case, take_out
from dromikon.core.cases.blurring import Blur
from dromikon.core.instants import iso
from dromikon.people.roles import May

router = Router(tags=["cases"])
ERRORS: dict[int, Any] = {403: Error, 404: Error, 422: Error}


class PieceOut(Schema):
    """`state`: waiting until its recorder has given it, ready, or failed (`why`). Times are ISO 8601."""

    id: int
    sort: str
    title: str
    words: str
    place: str
    camera: str
    start: str | None
    end: str | None
    state: str
    why: str
    sha256: str
    size: int
    added_at: str
    added_by: str


class CaseOut(Schema):
    id: int
    title: str
    note: str
    opened_at: str
    opened_by: str
    closed_at: str | None
    closed_by: str
    pieces: list[PieceOut]


class CaseIn(Schema):
    title: str
    note: str = ""


@router.get("/cases", response={200: list[CaseOut], 403: Error}, summary="Cases, the newest first")
def cases(request: HttpRequest, site: Site = None) -> Any:
    access = at_site(request, site)
    access.need(May.BOOKMARK)
    return 200, [_case(case) for case in Case.objects.filter(site=access.site).prefetch_related("pieces")[:200]]


@router.post("/cases", response={201: CaseOut, **ERRORS}, summary="Begin a case")
def make(request: HttpRequest, content: CaseIn, site: Site = None) -> Any:
    return 201, _case(open_case(at_site(request, site), content.title, content.note))


@router.get("/cases/{number}", response={200: CaseOut, **ERRORS}, summary="One case with what is in it")
def one(request: HttpRequest, number: Number, site: Site = None) -> Any:
    access = at_site(request, site)
    access.need(May.BOOKMARK)
    return 200, _case(find_case(access, number))


@router.post(
    "/cases/{number}/pieces",
    response={201: list[PieceOut], **ERRORS},
    summary="Add clips, a still, an event, an alarm or a note",
)
def put(request: HttpRequest, number: Number, content: Asked, site: Site = None) -> Any:
    access = at_site(request, site)
    return 201, [_piece(piece) for piece in add(access, find_case(access, number), content)]


@router.delete("/cases/{number}/pieces/{piece}", response={204: None, **ERRORS}, summary="Take a piece out of a case")
def out(request: HttpRequest, number: Number, piece: Number, site: Site = None) -> Any:
    access = at_site(request, site)
    take_out(access, find_case(access, number), piece)
    return 204, None


@router.post(
    "/cases/{number}/close", response={200: CaseOut, **ERRORS}, summary="Close a case: nothing comes in any more"
)
def close(request: HttpRequest, number: Number, site: Site = None) -> Any:
    access = at_site(request, site)
    case = find_case(access, number)
    close_case(access, case)
    return 200, _case(case)


@router.put(
    "/cases/{number}/pieces/{piece}/blur", response={200: PieceOut, **ERRORS}, summary="Hide somebody in a clip, or nobody"
)  # fmt: skip
def blur(request: HttpRequest, number: Number, piece: Number, content: Blur, site: Site = None) -> Any:
    access = at_site(request, site)
    return 200, _piece(hide_in(access, find_case(access, number), piece, content.model_dump()))


def _case(case: Case) -> dict[str, Any]:
    return {
        "id": case.pk, "title": case.title, "note": case.note, "opened_at": iso(case.opened_at), "opened_by": case.opened_name,
        "closed_at": iso(case.closed_at) if case.closed_at else None, "closed_by": case.closed_name,
        "pieces": [_piece(piece) for piece in case.pieces.all()],
    }  # fmt: skip


def _piece(piece: Piece) -> dict[str, Any]:
    return {
        "id": piece.pk, "sort": piece.sort, "title": piece.title, "words": piece.words, "place": piece.where, "camera": piece.camera,
        "start": iso(piece.start) if piece.start is not None else None, "end": iso(piece.end) if piece.end is not None else None,
        "state": piece.state, "why": piece.why, "sha256": piece.sha256, "size": piece.size, "added_at": iso(piece.added_at),
        "added_by": piece.added_name,
    }  # fmt: skip
