"""What stands on somebody's desk, or on a display: what they watch, and what rules have put up."""

from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.db.models import QuerySet

from dromikon.clock import now_ms
from dromikon.core.instants import Instant
from dromikon.core.rules.actions.alarm import SOUNDS
from dromikon.core.rules.document import Problem
from dromikon.core.showing import MOST_CELLS, MOST_PUT_UP, PutUp, Shown, shown
from dromikon.desk.models import PRIORITY_ORDER, Arrangement, Display, OwnDesk, Showing, Sound
from dromikon.people.access import Access
from dromikon.refusals import Refused
from dromikon.sources.models import Point

#: A person keeps so many arrangements at a site.
MOST_ARRANGEMENTS = 30
#: What was put up is looked at for so long after its end, in ms: it may have begun late, and have its least time.
LINGERS = 600_000


@dataclass(frozen=True, slots=True)
class Screen:
    """What stands there now: the places, and what comes next. `at`: the server's clock, for pages whose own is wrong."""

    cells: int
    shown: Shown
    at: Instant

    def to_json(self) -> dict[str, Any]:
        return {
            "cells": [
                {
                    "camera": cell.camera, "title": cell.put_up.title if cell.put_up else "",
                    "until": cell.put_up.until if cell.put_up else None,
                    "rank": cell.put_up.rank if cell.put_up else None,
                }
                for cell in self.shown.cells
            ],
            "waiting": [{"camera": w.camera, "title": w.title, "until": w.until} for w in self.shown.waiting],
            "until": self.shown.until,
            "at": self.at,
        }  # fmt: skip


def of_display(display: Display) -> Screen:
    """What stands on a display now."""
    at = now_ms()
    rows = _put_up(display.site_id, display.id, at)
    allowed = set(display.shows)
    put_up = [_value(row) for row in rows if not allowed or row.camera in allowed]
    return Screen(display.cells, shown(display.cells, display.usual, put_up, at), at)


def of_desk(access: Access, own: OwnDesk | None = None) -> Screen:
    """What stands on somebody's desk now. Where they have turned it off, nothing is put up by itself; it waits."""
    own, at = own or own_desk(access), now_ms()
    rows = [row for row in _put_up(access.site.id, "", at) if access.receives(row.groups)]
    put_up = [_value(row) for row in rows]
    usual = watched(access, own)
    if own.switching:
        return Screen(own.cells, shown(own.cells, usual, put_up, at), at)
    there = shown(own.cells, usual, [], at)
    waiting = tuple(p for p in put_up if p.until > at)
    return Screen(own.cells, Shown(there.cells, waiting, min((p.until for p in waiting), default=None)), at)


def _put_up(site: str, display: str, at: Instant) -> QuerySet[Showing]:
    """The newest of what was put up on a display, or on desks (""), and may still count."""
    known = Showing.objects.filter(site=site, display=display, until__gt=at - LINGERS, since__lte=at)
    return known.order_by("-since")[:MOST_PUT_UP]


def _value(row: Showing) -> PutUp:
    return PutUp(row.camera, row.since, row.until, row.rank, row.at_least, row.title)


def own_desk(access: Access) -> OwnDesk:
    """How somebody left their desk; as it comes, for who was never there."""
    known = OwnDesk.objects.filter(site=access.site, person=access.person).first()
    return known or OwnDesk(site=access.site, person=access.person)


def cameras_of(access: Access) -> QuerySet[Point]:
    """The cameras that can be watched."""
    return (
        Point.objects.filter(site=access.site, kind="camera", retired_at=None)
        .exclude(device__enabled=False)
        .select_related("area")
    )


def watched(access: Access, own: OwnDesk) -> list[str]:
    """What somebody watches, without what is gone; the site's own cameras in order where they never chose."""
    there = list(cameras_of(access).values_list("id", flat=True))
    if own.cameras is None:
        return there[: own.cells]
    return [camera if camera in there else "" for camera in own.cameras][: own.cells]


def arrange(access: Access, cameras: list[str], cells: int, switching: bool | None = None, name: str = "") -> OwnDesk:
    """Watch some cameras, "" for an empty place. Raises Refused."""
    there = {"", *cameras_of(access).values_list("id", flat=True)}
    if not 1 <= cells <= MOST_CELLS:
        raise _refused("cells", f"A desk has one to {MOST_CELLS} pictures.")
    if len(cameras) > cells or any(camera not in there for camera in cameras):
        raise _refused("cameras", "Choose cameras of this site, and no more than there are pictures.")
    own = own_desk(access)
    own.cameras, own.cells, own.arrangement = cameras, cells, name
    own.switching = own.switching if switching is None else switching
    own.save()
    return own


def set_sounds(access: Access, sounds: dict[str, str]) -> OwnDesk:
    """How alarms of each priority sound to somebody; empty: as their rules say. Raises Refused."""
    own_sounds = set(Sound.objects.filter(site=access.site, retired_at=None).values_list("id", flat=True))
    for priority, sound in sounds.items():
        if priority not in PRIORITY_ORDER or sound not in {"", *SOUNDS, *own_sounds}:
            raise _refused("sounds", "Choose a sound for a priority.")
    own = own_desk(access)
    own.sounds = {priority: sound for priority, sound in sounds.items() if sound}
    own.save()
    return own


def arrangements(access: Access) -> QuerySet[Arrangement]:
    """The arrangements of somebody at a site, by name."""
    return Arrangement.objects.filter(site=access.site, person=access.person)


def keep_arrangement(access: Access, name: str) -> Arrangement:
    """Give what one watches now a name; another of that name is replaced. Raises Refused."""
    name = name.strip()
    if not 0 < len(name) <= 60:
        raise _refused("name", "Give it a name of at most 60 characters.")
    own, mine = own_desk(access), arrangements(access)
    if mine.exclude(name=name).count() >= MOST_ARRANGEMENTS:
        raise _refused("name", f"You have {MOST_ARRANGEMENTS} already; delete one first.")
    with transaction.atomic():
        kept, _ = Arrangement.objects.update_or_create(
            site=access.site, person=access.person, name=name,
            defaults={"cells": own.cells, "cameras": watched(access, own)},
        )  # fmt: skip
        own.arrangement = name
        own.save()
    return kept


def take_arrangement(access: Access, name: str) -> OwnDesk:
    """Watch what one has named so. Raises Refused."""
    known = arrangements(access).filter(name=name).first()
    if known is None:
        raise _refused("name", "You have no such arrangement.")
    there = set(cameras_of(access).values_list("id", flat=True))
    return arrange(access, [c if c in there else "" for c in known.cameras], known.cells, name=name)


def drop_arrangement(access: Access, name: str) -> None:
    """Delete one by its name."""
    arrangements(access).filter(name=name).delete()


def _refused(path: str, message: str) -> Refused:
    return Refused([Problem(path=path, message=message)])
