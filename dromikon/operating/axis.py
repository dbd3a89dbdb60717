"""One time axis of several cameras: what happened there and at the points that they look at, what was recorded and why, and where the
next thing happened."""

from collections.abc import Sequence
from contextlib import closing
from dataclasses import dataclass
from typing import Literal

from django.db.models import Q, QuerySet

from dromikon.archive.models import Bookmark
from dromikon.archive.services import camera_of
from dromikon.authoring.readings import MEASURING
from dromikon.core.instants import Instant
from dromikon.core.kinds import KINDS
from dromikon.core.words import t
from dromikon.daybook.models import EventRow, RunRow, Step
from dromikon.daybook.readings import pieces
from dromikon.desk.models import Alarm
from dromikon.desk.services import visible_alarms
from dromikon.people.access import Access
from dromikon.scene import store
from dromikon.sources.models import Point, Sightline

#: So many cameras are in step, and so many marks of each sort are told, the newest.
MOST_CAMERAS, MOST_MARKS = 9, 2_000
#: So many curves are drawn, each of so many pieces at most.
MOST_CURVES, PIECES = 3, 240
What = Literal["event", "alarm", "bookmark", "seen"]


@dataclass(frozen=True, slots=True)
class Mark:
    """Something on the axis (ms UTC), until `end` where it lasted. `sort`: event, alarm, bookmark or recorded; `ref`: the event, alarm,
    bookmark or run that it leads to; `words` say what it is, `place` where; `camera`: of what is one camera's own."""

    sort: str
    at: Instant
    end: Instant
    ref: str
    words: str
    place: str
    camera: str = ""


@dataclass(frozen=True, slots=True)
class Curve:
    """What a sensor read that the cameras look at: moments (ms UTC) with means."""

    point: str
    name: str
    unit: str
    readings: list[tuple[Instant, float]]


def sets_of(access: Access) -> list[tuple[str, str, list[str]]]:
    """Points that several cameras look at: id, name, and these cameras."""
    found: dict[str, list[str]] = {}
    lines = Sightline.objects.filter(point__site=access.site, point__retired_at=None, camera__retired_at=None).order_by(
        "pk"
    )
    for point, camera in lines.values_list("point_id", "camera_id"):
        found.setdefault(point, []).append(camera)
    names = dict(Point.objects.filter(pk__in=found).values_list("pk", "name"))
    sets = ((point, names[point], cameras[:MOST_CAMERAS]) for point, cameras in found.items() if len(cameras) > 1)
    return sorted(sets, key=lambda one: one[1])


def marks_of(access: Access, cameras: Sequence[str], start: Instant, end: Instant) -> list[Mark]:
    """What lies on the axis of some cameras, in order. Raises Http404 where one is none of the site's."""
    known = _checked(access, cameras)
    points = _points(known)
    found = [*_events(access, points, start, end), *_alarms(access, points, start, end)]
    found += [*_bookmarks(access, known, start, end), *_recorded(access, known, start, end)]
    return sorted(found, key=lambda mark: mark.at)


def next_of(
    access: Access, cameras: Sequence[str], at: Instant, way: Literal["on", "back"], what: What
) -> Instant | None:
    """The next moment, one way or the other, at which something of a sort happened; None where there is none. Raises Http404."""
    known = _checked(access, cameras)
    if what == "seen":
        return _seen(known, at, way)
    if what == "alarm":
        return _nearest(visible_alarms(access).filter(point__in=_points(known)), "zero", at, way)
    if what == "bookmark":
        return _nearest(Bookmark.objects.filter(site=access.site, camera__in=known), "zero", at, way)
    return _nearest(_happened(access, list(_points(known))), "occurred_at", at, way)


def curves_of(access: Access, cameras: Sequence[str], start: Instant, end: Instant) -> list[Curve]:
    """What the sensors read that some cameras look at, those with the most readings first. Raises Http404."""
    points = Point.objects.filter(pk__in=_points(_checked(access, cameras)), kind__in=MEASURING, retired_at=None)
    known = {p.pk: p for p in points}
    found = pieces(access.site.id, list(known), start, end, PIECES)
    curves = [
        Curve(id, known[id].name, known[id].unit, [(p.at, round(p.mean, 3)) for p in read])
        for id, read in found.items()
        if len(read) > 1
    ]
    return sorted(curves, key=lambda curve: -len(curve.readings))[:MOST_CURVES]


def _checked(access: Access, cameras: Sequence[str]) -> list[str]:
    return [camera_of(access, camera)[0].id for camera in dict.fromkeys(cameras[:MOST_CAMERAS])]


def _points(cameras: Sequence[str]) -> dict[str, str]:
    """The cameras, their detectors, and what they look at: ids with names."""
    at = Q(pk__in=cameras) | Q(channel__in=cameras)
    looked_at = Sightline.objects.filter(camera__in=cameras).values("point")
    return dict(Point.objects.filter(at | Q(pk__in=looked_at)).values_list("pk", "name"))


def _happened(access: Access, points: Sequence[str]) -> QuerySet[EventRow]:
    """What happened or began there; how a sensor stands is no happening."""
    found = EventRow.objects.filter(site=access.site.id, point__in=points, initial=False, test=False)
    return found.exclude(phase__in=("end", "reading"))


def _events(access: Access, points: dict[str, str], start: Instant, end: Instant) -> list[Mark]:
    rows = _happened(access, list(points)).filter(occurred_at__gte=start, occurred_at__lt=end).order_by("-occurred_at")
    found = rows.values_list("seq", "kind", "point", "occurred_at")[:MOST_MARKS]
    return [Mark("event", at, at, str(seq), _label(kind), points[point]) for seq, kind, point, at in found]


def _label(kind: str) -> str:
    known = KINDS.get(kind)
    return t(known.label) if known else kind


def _alarms(access: Access, points: dict[str, str], start: Instant, end: Instant) -> list[Mark]:
    rows: QuerySet[Alarm] = (
        visible_alarms(access).filter(point__in=points, zero__gte=start, zero__lt=end).order_by("-zero")
    )
    return [Mark("alarm", a.zero, a.ended_at or a.zero, a.run, a.title, points[a.point]) for a in rows[:MOST_MARKS]]


def _bookmarks(access: Access, cameras: Sequence[str], start: Instant, end: Instant) -> list[Mark]:
    rows = Bookmark.objects.filter(site=access.site, camera__in=cameras, end__gte=start, start__lt=end).order_by(
        "-zero"
    )
    return [Mark("bookmark", b.start, b.end, str(b.pk), b.title, "", b.camera) for b in rows[:MOST_MARKS]]


def _recorded(access: Access, cameras: Sequence[str], start: Instant, end: Instant) -> list[Mark]:
    """What rules had recorded, and which."""
    steps = Step.objects.filter(site=access.site.id, action="record", target__in=cameras, release=False, status="done")
    rows = list(steps.filter(due__gte=start - 3_600_000, due__lt=end).order_by("-due")[:MOST_MARKS])
    rules = dict(RunRow.objects.filter(ref__in=[row.run for row in rows]).values_list("ref", "rule_name"))
    marks = (
        Mark(
            "recorded",
            row.payload.get("start", row.due),
            row.payload.get("end", row.due),
            row.run,
            rules.get(row.run, ""),
            "",
            row.target,
        )
        for row in rows
    )
    return [mark for mark in marks if mark.end >= start]


def _nearest(found: QuerySet, column: str, at: Instant, way: str) -> Instant | None:  # type: ignore[type-arg]
    side, order = ("gt", column) if way == "on" else ("lt", f"-{column}")
    moment: Instant | None = (
        found.filter(**{f"{column}__{side}": at}).order_by(order).values_list(column, flat=True).first()
    )
    return moment


def _seen(cameras: Sequence[str], at: Instant, way: str) -> Instant | None:
    """The next minute in which anything was seen."""
    with closing(store.connect()) as opened:
        found = [moment for camera in cameras if (moment := store.nearest(opened, camera, at, way == "on")) is not None]
    if not found:
        return None
    return min(found) if way == "on" else max(found)
