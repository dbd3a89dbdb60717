"""Cards of alarms: what each shows, with its evidence."""

from collections.abc import Mapping, Sequence
from typing import Any

from django.db.models import prefetch_related_objects

from dromikon.core.alarms.instruction import lines_of
from dromikon.core.alarms.states import OPEN_TO_ANSWER, OUTCOMES
from dromikon.core.boxes import cut_out, read_box
from dromikon.desk.handling import history_of
from dromikon.desk.models import Alarm, Evidence
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.sources.models import Point

#: Of the picture that is cut out of, in pixels: only proportions count.
WIDE, TALL = 1920, 1080


def cards_of(access: Access, alarms: Sequence[Alarm], next_first: bool = True) -> list[dict[str, Any]]:
    """What the cards of some alarms show; with `next_first` the first of them is marked as the one to deal with. However many
    they are, each table is asked once."""
    prefetch_related_objects(alarms, "evidence", "acts")
    wanted = {id for alarm in alarms for id in (alarm.point, *alarm.cameras)}
    points = {p.id: p for p in Point.objects.select_related("area").filter(id__in=wanted)}
    return [_card(access, alarm, points, first=next_first and i == 0) for i, alarm in enumerate(alarms)]


def _card(access: Access, alarm: Alarm, points: Mapping[str, Point], first: bool) -> dict[str, Any]:
    by_camera: dict[str, list[Evidence]] = {}
    for still in alarm.evidence.all():
        by_camera.setdefault(still.camera, []).append(still)
    return {
        "alarm": alarm,
        "point": points.get(alarm.point),
        "strips": [_strip(alarm, c, _name(points.get(c), c), stills) for c, stills in by_camera.items()],
        "lines": lines_of(alarm.instruction),
        "open": alarm.state in OPEN_TO_ANSWER,
        "may_answer": access.may(May.ACKNOWLEDGE),
        "outcomes": OUTCOMES.items(),
        "history": history_of(alarm),
        "looks": " ".join(
            look for look, has in (("is-answered", alarm.state not in OPEN_TO_ANSWER), ("current", first)) if has
        ),
    }


def _name(point: Point | None, id: str) -> str:
    return point.name if point else id


def _strip(alarm: Alarm, camera: str, name: str, stills: list[Evidence]) -> dict[str, Any]:
    """The stills of one camera, and the part of the one at zero that shows whom it is about."""
    box = read_box(alarm.box) if camera == alarm.box_camera else None
    zero = next((s for s in stills if s.offset == 0), None)
    if box is None or zero is None:
        return {"camera": camera, "name": name, "stills": stills}
    left, top, right, bottom = cut_out(box, WIDE, TALL)
    part = f"{left} {top} {right - left} {bottom - top}"
    return {"camera": camera, "name": name, "stills": stills, "subject": zero, "part": part}
