"""Speaking at a place: the voice of somebody at a desk, played at a door station or speaker."""

from base64 import b64encode

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.rules.actions import Order
from dromikon.core.rules.actions.announce import AnnounceOrder
from dromikon.core.rules.document import Problem
from dromikon.core.sound import RATE, from_wave, to_wave
from dromikon.daybook.trial import put_command
from dromikon.ids import new_id
from dromikon.operating.commands import BY_HAND
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sources.models import Point

#: What can be spoken at, and for how long at a time, in s.
SPEAKERS, LONGEST = ("station", "speaker"), 20
#: A WAV file of that length, at the rate that browsers record with, is no longer than this.
MOST_BYTES = 4_000_000


def speak(access: Access, point_id: str, wave: bytes) -> str:
    """Play a WAV file at a speaker. Returns the run under which its outcome is found. Raises Refused, PermissionDenied."""
    access.need(May.COMMAND)
    point = Point.objects.filter(pk=point_id, site=access.site, retired_at=None, kind__in=SPEAKERS).first()
    if point is None or point.device_id is None:
        raise _refused("Nobody can be spoken to there.")
    if len(wave) > MOST_BYTES:
        raise _refused(f"Speak for at most {LONGEST} s at a time.")
    try:
        samples = from_wave(wave)[: LONGEST * RATE]
    except ValueError as error:
        raise _refused(f"What was recorded cannot be used: {error}.") from error
    payload: AnnounceOrder = {"sound": "voice", "text": "", "voice": b64encode(to_wave(samples)).decode()}
    run, at = f"{BY_HAND}{new_id()}", now_ms()
    with transaction.atomic():
        put_command(access.site.id, run, "announce", Order(point.id, payload), f"device:{point.device_id}", at, None)
        record(
            access.site, access.person, "spoke", f"point:{point.id}", at, name=point.name, seconds=len(samples) // RATE
        )
    return run


def _refused(message: str) -> Refused:
    return Refused([Problem(path="voice", message=message)])
