"""What the desk shows beside the alarms: notices that pass, and how loaded it is."""

from typing import Any

from dromikon.clock import now_ms
from dromikon.desk.models import Notice
from dromikon.desk.services import visible_alarms
from dromikon.people.access import Access

#: An operator can deal with about one alarm in ten minutes for long, and two at the most (EEMUA 191, IEC 62682).
BUSY, FLOOD = 2, 10
#: The load figure counts so many stretches of so many ms.
STRETCHES, STRETCH = 12, 600_000
MOST_NOTICES = 20


def notices(access: Access) -> list[dict[str, Any]]:
    """What is shown to this person just now and passes by itself, newest first."""
    now = now_ms()
    found = Notice.objects.filter(site=access.site, until__gt=now, since__lte=now).order_by("-since")[:MOST_NOTICES]
    return [
        {"id": str(n.pk), "text": n.text, "until": n.until, "sound": n.sound, "spoken": n.spoken}
        for n in found
        if access.receives(n.groups)
    ]


def load_of(access: Access) -> dict[str, Any]:
    """The alarm load figure: alarms in the last ten minutes, and by ten minutes over the last two hours."""
    now = now_ms()
    raised = visible_alarms(access).filter(raised_at__gt=now - STRETCHES * STRETCH).values_list("raised_at", flat=True)
    counts = [0] * STRETCHES
    for at in raised:
        counts[STRETCHES - 1 - max(0, now - at) // STRETCH] += 1
    last = counts[-1]
    return {"last": last, "level": "flood" if last >= FLOOD else "busy" if last >= BUSY else "calm", "counts": counts}
