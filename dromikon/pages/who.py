"""Who passed: a wall of faces and plates as cameras read them, the history of one, and attendance."""

from base64 import b64encode
from itertools import islice
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.authoring.enrolling import Found, faces_in, part_of, upright
from dromikon.clock import now_ms
from dromikon.core.instants import Instant
from dromikon.core.lists.faces import LARGEST_PICTURE
from dromikon.core.words import N_, t
from dromikon.operating.who import SORTS, Passed, attendance, like, passed, resembling
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.web.views import in_address, site_view

DAY = 86_400_000
#: How far back is looked, in days, and what that is called.
SPANS = {"day": (1, N_("24 hours")), "week": (7, N_("7 days")), "month": (30, N_("30 days"))}
SORT_WORDS = {"faces": N_("Faces"), "plates": N_("Plates")}
#: Which of them are shown, and how many at most.
SHOWN = {"all": N_("everybody"), "known": N_("of lists"), "strangers": N_("strangers")}
MOST = 60
#: So many faces of one picture are looked for.
MOST_FACES = 6


@site_view(May.EDIT_LISTS)
def who(request: HttpRequest, access: Access) -> HttpResponse:
    """The wall; with `like` the history of whoever an event read."""
    context = _context(request, access)
    event, chosen = in_address(request.GET.get("like")), request.GET.get("show", "all")
    wanted = context["sort"], context["start"], context["end"]
    try:
        if event is not None:
            found = list(islice(like(access, wanted[0], event, *wanted[1:]), MOST + 1))
        else:
            found = list(islice((p for p in passed(access, *wanted) if _wanted(p, chosen)), MOST + 1))
    except Refused as refused:
        found, context["problem"] = [], refused.problems[0].message
    context |= {
        "found": found[:MOST], "more": len(found) > MOST, "like": event, "chosen": chosen,
        "one": next((p for p in found if p.known), found[0] if found else None) if event is not None else None,
        "places": sorted({p.place for p in found}), "shows": [(name, t(words)) for name, words in SHOWN.items()],
    }  # fmt: skip
    return render(request, "who/who.html", context)


@site_view(May.EDIT_LISTS)
def by_picture(request: HttpRequest, access: Access) -> HttpResponse:
    """Those who passed and resemble the faces of a picture; it is kept nowhere."""
    context = _context(request, access)
    given = request.FILES.get("picture")
    try:
        if isinstance(given, UploadedFile):
            picture = upright(given.read(LARGEST_PICTURE + 1))
            faces = faces_in(access, picture)[:MOST_FACES]
            context["faces"] = [_looked_for(access, picture, face, context["start"], context["end"]) for face in faces]
    except Refused as refused:
        context["problem"] = refused.problems[0].message
    return render(request, "who/by_picture.html", context)


def _looked_for(access: Access, picture: bytes, found: Found, start: Instant, end: Instant) -> dict[str, Any]:
    """A face of a picture with those who resemble it."""
    alike = resembling(access, found.face.template, start, end)
    part = b64encode(part_of(picture, found.face)).decode()
    return {"found": found, "part": f"data:image/jpeg;base64,{part}", "alike": alike[:MOST], "count": len(alike)}


@site_view(May.EDIT_LISTS)
def present(request: HttpRequest, access: Access) -> HttpResponse:
    """Who of the lists was there on which day."""
    context = _context(request, access)
    try:
        found = attendance(access, context["sort"], context["start"], context["end"])
    except Refused as refused:
        found, context["problem"] = [], refused.problems[0].message
    names = {p.id: p.name for p in access.site.points.all()}
    context["days"] = [
        {"one": p, "places": ", ".join(names.get(point, point) for point in p.places)}
        for p in sorted(found, key=lambda p: (-p.day, p.who))
    ]
    return render(request, "who/attendance.html", context)


def _context(request: HttpRequest, access: Access) -> dict[str, Any]:
    sort, over = request.GET.get("sort", ""), request.GET.get("over", "")
    over = over if over in SPANS else "week"
    end = now_ms()
    return {
        "access": access, "sort": sort if sort in SORTS else "faces", "over": over, "end": end,
        "start": end - SPANS[over][0] * DAY, "sorts": [(name, t(words)) for name, words in SORT_WORDS.items()],
        "spans": [(name, t(words)) for name, (_, words) in SPANS.items()],
    }  # fmt: skip


def _wanted(p: Passed, show: str) -> bool:
    return show == "all" or (show == "known") is p.known
