"""Archive: one camera's time axis, playback, bookmarks."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.archive.models import Bookmark
from dromikon.archive.services import find_bookmarks
from dromikon.clock import now_ms
from dromikon.core.words import N_, t
from dromikon.desk.services import find_alarms
from dromikon.operating.axis import MOST_CAMERAS, sets_of
from dromikon.operating.outlines import outlines_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.sources.models import Point
from dromikon.web.views import in_address, site_view

#: How fast it is played, and backwards.
SPEEDS = (
    (-16, "−16×"), (-4, "−4×"), (-1, "−1×"), (0.125, "⅛×"), (0.25, "¼×"), (0.5, "½×"), (1, "1×"), (2, "2×"), (4, "4×"), (8, "8×"),
    (16, "16×"),
)  # fmt: skip
#: What is jumped to.
SOUGHT = {
    "event": N_("what happened"), "alarm": N_("alarms"), "bookmark": N_("bookmarks"), "seen": N_("somebody in the picture"),
}  # fmt: skip


@site_view()
def archive(request: HttpRequest, access: Access) -> HttpResponse:
    cameras = list(Point.objects.filter(site=access.site, kind="camera", retired_at=None).select_related("area"))
    ids = {c.id for c in cameras}
    several = [c for c in dict.fromkeys(request.GET.get("camera", "").split(",")) if c in ids][:MOST_CAMERAS]
    chosen = ",".join(several)
    query, tag = request.GET.get("q", ""), request.GET.get("tag", "")
    found = list(find_bookmarks(access, query, tag)[:60])
    asked = in_address(request.GET.get("bookmark"))
    opened = Bookmark.objects.filter(site=access.site, pk=asked).first() if asked is not None else None
    if not several:
        chosen = (
            opened.camera
            if opened
            else found[0].camera
            if found and (query or tag)
            else cameras[0].id
            if cameras
            else ""
        )
    context = {
        "access": access,
        "cameras": cameras,
        "chosen": chosen,
        "query": query,
        "tag": tag,
        "bookmarks": found,
        # Words that were said of an alarm are found also where no bookmark carries them.
        "alarms": list(find_alarms(access, query, tag)[:20]) if query or tag else [],
        "tags": _tags(access),
        "opened": opened,
        "at": in_address(request.GET.get("at")) or (opened.start if opened else now_ms() - 60_000),
        "camera_names": {c.id: c.name for c in cameras},
        "outlines": outlines_of(access, [c.id for c in cameras]),
        "sets": sets_of(access),
        "speeds": [(f"{speed:g}", words) for speed, words in SPEEDS],
        "sought": [(name, t(words)) for name, words in SOUGHT.items()],
        "may_bookmark": access.may(May.BOOKMARK),
    }
    return render(request, "archive/archive.html", context)


def _tags(access: Access) -> list[tuple[str, int]]:
    counts: dict[str, int] = {}
    for tags in Bookmark.objects.filter(site=access.site).order_by("-zero").values_list("tags", flat=True)[:2000]:
        for tag in tags:
            counts[tag] = counts.get(tag, 0) + 1
    return sorted(counts.items(), key=lambda item: -item[1])[:14]
