"""Calls at door stations, from a desk: somebody stands there and waits."""

from typing import Any

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.calls import NotPossible, answer
from dromikon.core.facts import Facts
from dromikon.daybook import feed
from dromikon.daybook.services import record_act, tell
from dromikon.desk.models import Call
from dromikon.facts import names_of
from dromikon.operating.commands import offered
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May

#: So many of the last calls are shown.
LATELY = 5


class TooLate(Exception):
    """Somebody else was first, or they have gone; the message says so."""


def going_on(access: Access) -> list[dict[str, Any]]:
    """Calls that ring or are spoken in, the oldest first, with what can be done there: whoever may answer alarms hears them."""
    if not access.may(May.ACKNOWLEDGE):
        return []
    calls = list(Call.objects.filter(site=access.site, ended_at=None).order_by("id"))
    facts = names_of(access.site) if calls else None
    return [shown(access, facts, call) for call in calls if facts is not None]


def shown(access: Access, facts: Facts, call: Call) -> dict[str, Any]:
    """A call as a desk shows it."""
    point = facts.point_by_id.get(call.station)
    area = facts.area_by_id.get(point.area) if point and point.area else None
    camera = next(iter(facts.cameras_of(call.station)), "")
    looks = facts.point_by_id.get(camera)
    return {
        "id": str(call.pk), "station": call.station, "name": point.name if point else call.station,
        "area": area.name if area else "", "camera": camera,
        "heard": looks is not None and looks.told.heard, "state": call.state, "rings": call.rings,
        "rung_at": call.rung_at, "last_rung_at": call.last_rung_at, "answered_at": call.answered_at,
        "by": call.answered_name, "mine": call.answered_by_id == access.person.pk,
        "place": _nearest_first(facts, call.station, offered(access, call.station)),
    }  # fmt: skip


def _nearest_first(facts: Facts, station: str, rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """What hangs on the station itself, such as its latch, stands before the rest of the place."""
    device = facts.point_by_id[station].device if station in facts.point_by_id else None
    return sorted(rows, key=lambda row: (facts.point_by_id[row["id"]].device != device, row["id"] == station))


def lately(access: Access) -> list[dict[str, Any]]:
    """The last calls that are over, the newest first, with the camera that looks there."""
    calls = list(Call.objects.filter(site=access.site).exclude(ended_at=None).order_by("-rung_at")[:LATELY])
    facts = names_of(access.site) if calls else None
    return [
        {
            "call": call,
            "name": facts.name_of("point", call.station) or call.station,
            "camera": next(iter(facts.cameras_of(call.station)), ""),
        }
        for call in calls
        if facts is not None
    ]


def answer_call(access: Access, id: int) -> Call:
    """Speak with whoever rings. Raises TooLate, PermissionDenied, Call.DoesNotExist."""
    access.need(May.ACKNOWLEDGE)
    with transaction.atomic():
        call, at = Call.objects.get(pk=id, site=access.site), now_ms()
        try:
            call.stand(answer(call.standing, at))
        except NotPossible as error:
            who = f" It was {call.answered_name}." if call.answered_name else ""
            raise TooLate(f"{error}{who}") from error
        call.answered_by, call.answered_name = access.person, access.person.shown_name
        call.save()
        _told(access, call, "call.answered", "answered call", at)
    return call


def end_call(access: Access, id: int) -> Call:
    """It is over; whoever ends one that rings turns them away. Raises TooLate, PermissionDenied, Call.DoesNotExist."""
    access.need(May.ACKNOWLEDGE)
    with transaction.atomic():
        call, at = Call.objects.get(pk=id, site=access.site), now_ms()
        if call.ended_at is not None or call.hung_up_at is not None:
            raise TooLate("That call is over.")
        if call.answered_by_id not in (None, access.person.pk):
            raise TooLate(f"{call.answered_name} speaks with them.")
        # The engine ends it by its event, so that it is over in one place only; two who end it at once make one.
        call.hung_up_at = at
        call.save(update_fields=["hung_up_at"])
        record(access.site, access.person, "ended call", f"point:{call.station}", at)
        record_act(
            access.site.id,
            "call",
            at,
            kind="call.ended",
            point=call.station,
            fields={"person": access.person.shown_name},
        )
    return call


def _told(access: Access, call: Call, kind: str, verb: str, at: int) -> None:
    record(access.site, access.person, verb, f"point:{call.station}", at)
    record_act(access.site.id, "call", at, kind=kind, point=call.station, fields={"person": access.person.shown_name})
    tell(feed.call(access.site.id, call.pk, call.station, call.state, at, by=call.answered_name))
