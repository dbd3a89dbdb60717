"""What the stand-ins of outside services have last received."""

import itertools
import time
from collections import deque
from collections.abc import Iterable
from dataclasses import dataclass, field

#: So much of each sort is kept.
KEPT = 200


@dataclass(frozen=True, slots=True)
class Item:
    """Something that came: when (ms UTC), to whom, what it says; what it says besides; pictures (JPEG) and sound (WAV)."""

    number: int
    at: int
    to: str
    title: str
    text: str = ""
    more: tuple[tuple[str, str], ...] = ()
    pictures: tuple[bytes, ...] = field(default=(), repr=False)
    sound: bytes = field(default=b"", repr=False)


class Received:
    """By sort, the newest last. What comes twice under one id is kept once, as a gateway sends it once."""

    def __init__(self) -> None:
        self._kept: dict[str, deque[Item]] = {}
        self._ids: dict[str, deque[str]] = {}
        self._numbers = itertools.count(1)

    def take(
        self, sort: str, to: str, title: str, text: str = "", more: Iterable[tuple[str, str]] = (), id: str = "",
        pictures: Iterable[bytes] = (), sound: bytes = b"",
    ) -> None:  # fmt: skip
        """Keep something."""
        ids = self._ids.setdefault(sort, deque(maxlen=10 * KEPT))
        if id and id in ids:
            return
        if id:
            ids.append(id)
        item = Item(
            next(self._numbers), time.time_ns() // 1_000_000, to, title, text, tuple(more), tuple(pictures), sound
        )
        self._kept.setdefault(sort, deque(maxlen=KEPT)).append(item)

    def of(self, sort: str) -> list[Item]:
        """What came of a sort, the newest first."""
        return list(reversed(self._kept.get(sort, ())))

    def sound(self, number: int) -> bytes | None:
        """The sound that came; None where there is none any more."""
        return next((i.sound for items in self._kept.values() for i in items if i.number == number and i.sound), None)

    def picture(self, number: int, which: int) -> bytes | None:
        """A picture of something that came; None where there is none any more."""
        for items in self._kept.values():
            for item in items:
                if item.number == number and which < len(item.pictures):
                    return item.pictures[which]
        return None
