"""Which messages are alike: of the same shape, whatever their values are."""

import hashlib
import json
import re

#: So many names tell a shape.
MOST = 200
_DIGITS = re.compile(r"\d+")
_QUOTED = re.compile(r"“[^”]*”|'[^']*'|\"[^\"]*\"")


def likeness(reason: str, raw: str) -> str:
    """The same for messages that are alike: whose reason is the same but for what it quotes, and which have the same names at
    the same places, or, where they have none, the same words but for numbers."""
    told = f"{_QUOTED.sub('“…”', reason)}\n{_shape(raw)}"
    return hashlib.sha256(told.encode()).hexdigest()[:16]


def _shape(raw: str) -> str:
    try:
        content = json.loads(raw)
    except (ValueError, RecursionError):
        return _DIGITS.sub("0", raw[:80])
    names: set[str] = set()
    _gather(content, "", names, 12)
    return " ".join(sorted(names))


def _gather(content: object, place: str, names: set[str], deep: int) -> None:
    if len(names) >= MOST or not deep:
        return
    if isinstance(content, dict):
        for name, below in content.items():
            _gather(below, f"{place}.{name}", names, deep - 1)
    elif isinstance(content, list):
        for below in content[:20]:
            _gather(below, f"{place}[]", names, deep - 1)
    else:
        names.add(place)
