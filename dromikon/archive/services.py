"""Verbs on the archive."""

import re
from collections.abc import Iterable

from django.db import transaction
from django.db.models import QuerySet
from django.http import Http404

from dromikon.archive.models import Bookmark
from dromikon.clock import now_ms
from dromikon.core.rules.document import Problem
from dromikon.daybook import feed
from dromikon.daybook.services import tell
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sources.models import Point, Recorder

LONGEST = 24 * 3_600_000


def find_bookmarks(
    access: Access, text: str = "", tag: str = "", camera: str = "", start: int | None = None, end: int | None = None
) -> QuerySet[Bookmark]:
    """Bookmarks by words (all must occur in title, note or tags), tag, camera and time, newest first."""
    found = Bookmark.objects.filter(site=access.site).order_by("-zero", "-id")
    for word in text.casefold().split()[:10]:
        found = found.filter(words__contains=word)
    if tag:
        found = found.filter(words__regex=rf"(^|\s)#{_escaped(tag)}($|\s)")
    if camera:
        found = found.filter(camera=camera)
    if start is not None:
        found = found.filter(end__gte=start)
    if end is not None:
        found = found.filter(start__lte=end)
    return found


def camera_of(access: Access, camera: str) -> tuple[Point, Recorder]:
    """A camera of the site, and the recorder that keeps its pictures. Raises Http404."""
    point = Point.objects.select_related("recorder").filter(id=camera, site=access.site, kind="camera").first()
    if point is None or point.recorder is None:
        raise Http404("There is no such camera at this site.")
    return point, point.recorder


def _escaped(tag: str) -> str:
    return re.escape(tag.strip().lstrip("#").casefold())


def mark(access: Access, camera: str, start: int, end: int, title: str, tags: list[str], note: str = "") -> Bookmark:
    """Make a bookmark by hand. Raises Refused, PermissionDenied, Point.DoesNotExist."""
    access.need(May.BOOKMARK)
    point = Point.objects.get(pk=camera, site=access.site, kind="camera")
    if not title.strip() or not 0 < end - start <= LONGEST:
        raise Refused([Problem(path="title", message="Give it a title, and a stretch of at most a day.")])
    at = now_ms()
    bookmark = Bookmark(
        site=access.site, camera=point.id, start=start, end=end, zero=start, title=title.strip()[:200],
        note=note.strip()[:2000], tags=_clean(tags), by=access.person, made_at=at,
    )  # fmt: skip
    bookmark.gather_words()
    with transaction.atomic():
        bookmark.save(force_insert=True)
        record(access.site, access.person, "bookmarked", f"bookmark:{bookmark.pk}", at, title=bookmark.title)
        tell(feed.bookmark(access.site.id, str(bookmark.pk), point.id, start, at))
    return bookmark


def change_bookmark(access: Access, number: int, title: str, note: str, tags: list[str]) -> Bookmark:
    """Give a bookmark other words. Raises Refused, PermissionDenied, Http404."""
    access.need(May.BOOKMARK)
    if not title.strip():
        raise Refused([Problem(path="title", message="Give it a title.")])
    with transaction.atomic():
        bookmark = _found(access, number)
        bookmark.title, bookmark.note, bookmark.tags = title.strip()[:200], note.strip()[:2000], _clean(tags)
        bookmark.gather_words()
        bookmark.save()
        at = now_ms()
        record(access.site, access.person, "changed bookmark", f"bookmark:{bookmark.pk}", at, title=bookmark.title)
        tell(feed.bookmark(access.site.id, str(bookmark.pk), bookmark.camera, bookmark.start, at))
    return bookmark


def drop_bookmarks(access: Access, numbers: Iterable[int]) -> int:
    """Take bookmarks away; what they marked stays recorded. How many there were. Raises PermissionDenied."""
    access.need(May.BOOKMARK)
    with transaction.atomic():
        found = list(Bookmark.objects.filter(site=access.site, pk__in=list(numbers)))
        at = now_ms()
        for bookmark in found:
            record(access.site, access.person, "dropped bookmark", f"bookmark:{bookmark.pk}", at, title=bookmark.title)
            tell(feed.bookmark(access.site.id, str(bookmark.pk), bookmark.camera, bookmark.start, at))
            bookmark.delete()
    return len(found)


def _found(access: Access, number: int) -> Bookmark:
    bookmark = Bookmark.objects.filter(site=access.site, pk=number).first()
    if bookmark is None:
        raise Http404("There is no such bookmark at this site.")
    return bookmark


def _clean(tags: list[str]) -> list[str]:
    return sorted({t.strip().lstrip("#").lower()[:40] for t in tags if t.strip().lstrip("#")})[:20]
