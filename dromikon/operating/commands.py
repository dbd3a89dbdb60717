"""Commands by hand: what somebody at a desk tells a door, an output, a siren, a speaker or a camera.

They go the way of a rule's steps: into the outbox, in the device's lane, each at most once and never late; what was held is let
go of. Who it was stands in the audit trail, and in the history of the alarm at which it was done.
"""

from dataclasses import replace
from typing import Any

from django.db import transaction
from pydantic import ValidationError

from dromikon.clock import now_ms
from dromikon.core.at_hand import Offer, at_hand, offer_of
from dromikon.core.events import Event, Phase
from dromikon.core.facts import Facts
from dromikon.core.instants import Instant
from dromikon.core.kinds import CLOCK
from dromikon.core.rules.actions import Delivery, Firing, Order
from dromikon.core.rules.document import Problem
from dromikon.daybook.models import Step
from dromikon.daybook.trial import ASKED, put_command
from dromikon.desk.models import Alarm, AlarmAct
from dromikon.desk.services import addressed_alarm
from dromikon.facts import names_of
from dromikon.ids import new_id
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused

MAX_WORDS = 300
#: How a run begins that a person asked for at a desk.
BY_HAND = f"{ASKED}hand-"


def offered(access: Access, place: str) -> list[dict[str, Any]]:
    """What this person can tell the points of a place: one row a point, with its commands; nothing without the right."""
    if not access.may(May.COMMAND):
        return []
    return [
        {
            "id": one.point.id, "name": one.point.name, "kind": one.point.kind,
            "offers": [{"key": o.key, "words": o.short, "says": o.says, "asks": o.asks} for o in one.offers],
        }
        for one in at_hand(names_of(access.site), place)
    ]  # fmt: skip


def command(access: Access, place: str, key: str, words: str = "", alarm_id: int | None = None) -> str:
    """Carry out one of the offers of a place. Returns the run under which its outcome is found. Raises Refused,
    PermissionDenied, Alarm.DoesNotExist."""
    access.need(May.COMMAND)
    facts, at = names_of(access.site), now_ms()
    offer = offer_of(facts, place, key)
    if offer is None:
        raise _refused("key", "This cannot be done here any more.")
    offer = _spoken(offer, words) if offer.says else offer
    run = f"{BY_HAND}{new_id()}"
    with transaction.atomic():
        alarm = addressed_alarm(access, alarm_id) if alarm_id is not None else None
        firing = Firing("", Event(0, CLOCK, place, Phase.PULSE, at, at, at), facts, at=at)
        orders = offer.orders(firing)
        for order in orders:
            _put(access.site.id, run, offer, order, facts, at)
        said = offer.words(facts)
        target = orders[0].target if orders else place
        record(access.site, access.person, "commanded", f"point:{target}", at, words=said, run=run)
        if alarm is not None:
            _note(alarm, access, said, at)
    return run


def _spoken(offer: Offer, words: str) -> Offer:
    if not words.strip():
        raise _refused("words", "Write what is to be said.")
    if len(words) > MAX_WORDS:
        raise _refused("words", f"At most {MAX_WORDS} characters.")
    try:
        action = type(offer.action).model_validate({**offer.action.model_dump(), "text": words.strip()})
    except ValidationError as error:
        raise _refused("words", "This cannot be spoken.") from error
    return replace(offer, action=action)


def _put(site: str, run: str, offer: Offer, order: Order, facts: Facts, at: Instant) -> None:
    """Put one order out. What is let go of is repeated until the device confirms; anything else is sent once."""
    action, lane = offer.action, f"device:{facts.point_by_id[order.target].device}"
    if offer.lets_go or action.carried is Delivery.RELEASE:
        put_command(site, run, action.do, order, lane, at, None, Delivery.REPEATABLE)
        return
    held = action.hold if order.hold is None else order.hold
    lasts = round(float(held) * 1000) if isinstance(held, float | int) else None
    put_command(site, run, action.do, order, lane, at, lasts)


def _note(alarm: Alarm, access: Access, said: str, at: Instant) -> None:
    AlarmAct.objects.create(
        alarm=alarm, site=alarm.site_id, at=at, act="did", name=access.person.shown_name, why=said[:300]
    )


def outcome(access: Access, run: str) -> dict[str, Any]:
    """What came of a command: `status` as of its step, and what its device said."""
    if not run.startswith(BY_HAND):
        raise _refused("run", "This is no command by hand.")
    steps = list(Step.objects.filter(site=access.site.id, run=run, release=False).order_by("id"))
    worst = next((s for s in steps if s.status != Step.Status.DONE), steps[-1] if steps else None)
    return {"status": worst.status if worst else "unknown", "answer": worst.answer if worst else ""}


def _refused(path: str, message: str) -> Refused:
    return Refused([Problem(path=path, message=message)])
