"""Taking a name or value out of what was kept: out of words for people and of what devices said, never out of what the
program reads itself."""

import re
from functools import lru_cache
from typing import Any

from dromikon.core.kinds import KINDS, PERSONAL

ERASED = "erased"

#: Under these stand ids and choices of the program, or what is compared as a whole, whatever it looks like.
OWN = frozenset((
    "id", "site", "zone", "kind", "type", "phase", "rule", "revision", "point", "points", "device", "devices",
    "area", "areas", "channel", "camera", "cameras", "hours", "mode", "modes", "counters", "groups", "group",
    "act", "change", "event", "run", "runs", "chain", "state", "sound", "priority", "status", "role", "delivery",
    "test", "op", "cause", "do", "field", "class", "direction", "way", "unit", "method", "icon", "format", "sort",
    "lists", "list", "content", "sightlines", "electrical", "action", "step",
)) | {f.name for kind in KINDS for f in kind.fields if f.type in PERSONAL}  # fmt: skip
#: A number of fewer digits stands in too many sentences to be told from others.
DIGITS = 6


def without(value: Any, word: str) -> Any:
    """A value of JSON, or a text, in which ERASED stands where a word stood: as a whole value and, where it is no common
    word, within sentences. Keys stay, and so does what is the program's own (OWN)."""
    if isinstance(value, str):
        return _text(value, word)
    if isinstance(value, list):
        return [without(v, word) for v in value]
    if isinstance(value, dict):
        return {k: v if _own(k, word) else without(v, word) for k, v in value.items()}
    return value


def _own(key: str, word: str) -> bool:
    """An event's person is a name or a card holder's number; an act's person is the number of who did it."""
    return key in OWN or (key == "person" and word.isdigit())


def _text(text: str, word: str) -> str:
    if text.casefold() == word.casefold():
        return ERASED
    return _within(word).sub(ERASED, text) if _tells(word) else text


def _tells(word: str) -> bool:
    """Whether a word in a sentence can only mean what is erased: it has a digit or a space, and is no short number."""
    if word.isdigit():
        return len(word) >= DIGITS
    return " " in word or any(c.isdigit() for c in word)


@lru_cache(maxsize=16)
def _within(word: str) -> re.Pattern[str]:
    return re.compile(rf"(?<!\w){re.escape(word)}(?!\w)", re.IGNORECASE)
