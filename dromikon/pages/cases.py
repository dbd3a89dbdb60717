"""Cases: all of them, and one with what is in it. Forms are sent to the page itself, which comes back with what is wrong at its place."""

import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect, render
from django.views.decorators.cache import never_cache

from dromikon.cases.adding import Asked, add, asked_for
from dromikon.cases.handing import Changed, fingerprint, hand_over
from dromikon.cases.models import Case, Piece
from dromikon.cases.services import (
    add_note,
    close_case,
    delete_case,
    find_case,
    hide_in,
    move_piece,
    open_case,
    path_of,
    take_out,
    who_is_in,
)
from dromikon.core.boxes import Box, cut_out
from dromikon.core.cases.handing import SORTS
from dromikon.core.scene.sight import Sides
from dromikon.core.words import t
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.web.views import in_address, site_view

#: So many bytes of a clip are sent at a time where parts are wanted.
MOST_AT_ONCE = 4_000_000
#: So many are asked about one by one.
MOST_SEEN = 24
WIDE, TALL = 1920, 1080
MEDIA = {".jpg": "image/jpeg", ".webm": "video/webm"}


@site_view(May.BOOKMARK)
@never_cache
def cases(request: HttpRequest, access: Access) -> HttpResponse:
    """All of them; with something to be added (see `cases.adding`) the question to which."""
    asked = asked_for(request.GET)
    context: dict[str, Any] = {"access": access, "asked": asked, "pairs": asked.pairs() if asked else []}
    if request.method == "POST":
        try:
            return _put(request, access, asked)
        except Refused as refused:
            context["problems"] = {p.path: p.message for p in refused.problems}
            context["given"] = request.POST
    context["cases"] = Case.objects.filter(site=access.site)
    context["waits"] = [case for case in context["cases"] if case.closed_at is None]
    return render(request, "cases/cases.html", context)


def _put(request: HttpRequest, access: Access, asked: Asked | None) -> HttpResponse:
    """Into a case that was chosen, or into a new one. Raises Refused."""
    number = in_address(request.POST.get("case"))
    if number is None:
        case = open_case(access, request.POST.get("title", ""), request.POST.get("note", ""))
    else:
        case = find_case(access, number)
    if asked is not None:
        add(access, case, asked)
    return redirect("cases.one", access.site.id, case.pk)


@site_view(May.BOOKMARK)
@never_cache
def one(request: HttpRequest, access: Access, case_id: int) -> HttpResponse:
    """A case, in order."""
    case, problems = find_case(access, case_id), {}
    if request.method == "POST":
        try:
            done = _DOING[request.POST.get("do", "")](access, case, request)
            return redirect("cases") if done is None else redirect("cases.one", access.site.id, case.pk)
        except KeyError as error:
            raise Http404 from error
        except Refused as refused:
            problems = {p.path: p.message for p in refused.problems}
    pieces = list(case.pieces.all())
    hiding = next((p for p in pieces if p.pk == in_address(request.GET.get("hide")) and p.file), None)
    context = {
        "access": access, "case": case, "pieces": [{"piece": p, "sort": t(SORTS[p.sort])} for p in pieces], "problems": problems, "given": request.POST,
        "waiting": any(p.state == Piece.State.WAITING for p in pieces),
        "may_hand_over": access.may(May.SEE_AUDIT), "may_delete": access.may(May.SET_UP), "fingerprint": fingerprint(),
        "hiding": hiding, "seen": _seen(case, hiding) if hiding else [],
        "size": sum(p.size for p in pieces),
    }  # fmt: skip
    return render(request, "cases/case.html", context)


def _seen(case: Case, piece: Piece) -> list[dict[str, Any]]:
    """Who is in a clip, each with the part of the picture that shows them best, and whether they are hidden."""
    hidden = piece.blur or {}
    return [
        {
            "one": one, "seconds": (one.last - one.first) / 1000, "hidden": one.number in hidden.get("objects", ()),
            "part": _part(one.box),
        }
        for one in who_is_in(case, piece)[:MOST_SEEN]
    ]  # fmt: skip


def _part(sides: Sides) -> str:
    """The part of a picture of `WIDE` by `TALL` that shows somebody, as SVG has it."""
    left, top, right, bottom = cut_out(Box(*sides), WIDE, TALL)
    return f"{left} {top} {right - left} {bottom - top}"


def _hide(access: Access, case: Case, request: HttpRequest) -> bool:
    content = {name: request.POST[name] for name in ("who", "part") if name in request.POST}
    hide_in(access, case, _number(request), {**content, "objects": request.POST.getlist("object")})
    return True


def _note(access: Access, case: Case, request: HttpRequest) -> bool:
    add_note(access, case, request.POST.get("text", ""))
    return True


def _take_out(access: Access, case: Case, request: HttpRequest) -> bool:
    take_out(access, case, _number(request))
    return True


def _move(way: int) -> "Callable[[Access, Case, HttpRequest], bool | None]":
    def move(access: Access, case: Case, request: HttpRequest) -> bool:
        move_piece(access, case, _number(request), way)
        return True

    return move


def _close(access: Access, case: Case, request: HttpRequest) -> bool:
    close_case(access, case)
    return True


def _delete(access: Access, case: Case, request: HttpRequest) -> None:
    delete_case(access, case)


_DOING: dict[str, Callable[[Access, Case, HttpRequest], bool | None]] = {
    "note": _note, "out": _take_out, "up": _move(-1), "down": _move(1), "close": _close, "delete": _delete, "hide": _hide,
}  # fmt: skip


def _number(request: HttpRequest) -> int:
    return in_address(request.POST.get("piece")) or 0


@site_view(May.BOOKMARK)
def file(request: HttpRequest, access: Access, case_id: int, piece_id: int) -> HttpResponseBase:
    """What was copied of a piece."""
    case = find_case(access, case_id)
    piece = case.pieces.filter(pk=piece_id).exclude(file="").first()
    if piece is None:
        raise Http404
    try:
        answer = _served(path_of(case, piece.file), request.headers.get("range", ""))
    except OSError as error:
        raise Http404 from error
    answer["Cache-Control"] = "private, max-age=86400"
    answer["Accept-Ranges"] = "bytes"
    return answer


def _served(path: Path, wanted: str) -> HttpResponseBase:
    """A file, or the part of it that is wanted (RFC 9110, one range): a player goes to a moment only where parts can be had. Raises
    OSError."""
    media, size = MEDIA[path.suffix], path.stat().st_size
    found = re.fullmatch(r"bytes=(\d{1,15})-(\d{0,15})", wanted.strip())
    if found is None:
        return FileResponse(path.open("rb"), content_type=media)
    first, last = int(found[1]), min(int(found[2] or size), size - 1)
    if first > last:
        return HttpResponse(status=416, headers={"Content-Range": f"bytes */{size}"})
    # Less than was wanted may be sent: the player asks on.
    last = min(last, first + MOST_AT_ONCE - 1)
    with path.open("rb") as opened:
        opened.seek(first)
        part = opened.read(last - first + 1)
    return HttpResponse(part, status=206, content_type=media, headers={"Content-Range": f"bytes {first}-{last}/{size}"})


@site_view(May.SEE_AUDIT)
@never_cache
def archive(request: HttpRequest, access: Access, case_id: int) -> HttpResponseBase:
    """The case as one file to be handed over."""
    case = find_case(access, case_id)
    try:
        made = hand_over(access, case)
    except Changed as error:
        return HttpResponse(str(error), status=409, content_type="text/plain")
    return FileResponse(made, as_attachment=True, filename=f"case-{case.pk}.zip", content_type="application/zip")
