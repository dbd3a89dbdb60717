"""What a page would ask for as soon as it heard of a change goes with the message: nobody waits for a second request.

A companion is made once for each message, role and language, however many people listen.
"""

import asyncio
import logging
from collections import OrderedDict
from collections.abc import Callable
from typing import Any

from asgiref.sync import sync_to_async
from django.utils.translation import get_language

from dromikon.people.access import Access

log = logging.getLogger("dromikon.web")

Made = dict[str, Any]
Companion = Callable[[Access, str], Made]
#: So many are kept, for those who hear of it a moment later.
KEPT = 64
_companions: dict[str, Companion] = {}


def accompanies(topic: str) -> Callable[[Companion], Companion]:
    """Register what goes with messages of a topic. It is given who hears of it and the subject, and may depend on the
    site and the role only."""

    def register(companion: Companion) -> Companion:
        _companions[topic] = companion
        return companion

    return register


class Companions:
    """Those of the last messages, in one event loop."""

    def __init__(self) -> None:
        self._made: OrderedDict[tuple[int, str, str | None], asyncio.Future[Made]] = OrderedDict()

    async def of(self, message: int, topic: str, subject: str, found: Access) -> Made:
        """What goes with a message for somebody; empty when there is nothing, or it cannot be made."""
        companion = _companions.get(topic)
        if companion is None:
            return {}
        key = message, found.role, get_language()
        if key not in self._made:
            self._made[key] = asyncio.ensure_future(_make(companion, found, subject))
            if len(self._made) > KEPT:
                self._made.popitem(last=False)
        # Whoever asked first may leave before it is made; the others still want it.
        return await asyncio.shield(self._made[key])


async def _make(companion: Companion, found: Access, subject: str) -> Made:
    try:
        return await sync_to_async(companion)(found, subject)
    except Exception:
        # The page asks for it itself then, and is told what is wrong.
        log.exception("what goes with a message could not be made")
        return {}
