"""Who sends traps that belong to no intake: gathered, and written together, so that a page can say who it is and what is amiss."""

import contextlib

from django.db import OperationalError, connection, transaction
from django.db.models import F

from dromikon.core.words import N_
from dromikon.database import writer
from dromikon.sources.models import Stranger

#: So many are kept, those that sent last; and so many are gathered at a time.
MOST = 200
#: What is amiss, by word.
REASONS = {
    "community": N_("another community"), "user": N_("an unknown SNMP user"), "unreadable": N_("no trap that can be read"),
    "crowd": N_("more came at a time than could be looked at"), "engine": N_("an inform for another engine"),
    "shut_out": N_("shut out for a minute, after too many that were wrong"),
}  # fmt: skip


class Strangers:
    """What has gathered since it was last written."""

    def __init__(self) -> None:
        self._gathered: dict[tuple[str, str], list[int]] = {}

    def note(self, address: str, why: str, at: int) -> None:
        """One more datagram that is not taken."""
        if (address, why) in self._gathered or len(self._gathered) < MOST:
            known = self._gathered.setdefault((address, why), [0, at, at])
            known[0], known[2] = known[0] + 1, at

    def take(self) -> dict[tuple[str, str], list[int]]:
        """What has gathered; it is gathered anew from here on."""
        gathered, self._gathered = self._gathered, {}
        return gathered


def write_strangers(gathered: dict[tuple[str, str], list[int]]) -> None:
    """Add to what is known of them, and forget whoever has long been quiet."""
    try:
        with contextlib.suppress(OperationalError), writer.turn(), transaction.atomic():
            for (address, why), (count, first, last) in gathered.items():
                known = Stranger.objects.filter(address=address, why=why)
                if not known.update(count=F("count") + count, last_at=last):
                    Stranger.objects.create(address=address, why=why, count=count, first_at=first, last_at=last)
            kept = Stranger.objects.order_by("-last_at").values_list("pk", flat=True)[:MOST]
            Stranger.objects.exclude(pk__in=list(kept)).delete()
    finally:
        connection.close()
