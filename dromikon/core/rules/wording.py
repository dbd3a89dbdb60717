"""Texts with `{field|filter}` places: no loops, no calls.

Places are filled from an event's fields and the names around it. An unknown field is found by a check before the rule
goes live; should one slip through, its place stays visible instead of failing the step.
"""

import re
from collections.abc import Callable, Mapping

from dromikon.core.events import Scalar

_PLACE = re.compile(r"\{([a-z_]+)(?:\|([a-z]+))?\}")

#: Names that every text may use, besides the fields of the event's kind.
COMMON = (
    "point", "area", "site", "rule", "time", "date", "kind", "listed", "device", "tags", "cameras", "camera", "run", "link",
)  # fmt: skip
#: No value takes more room in a text than this, in characters, and no text more than that.
LONGEST_VALUE, LONGEST_TEXT = 500, 8_000


def _rounded(value: Scalar) -> str:
    return f"{value:.0f}" if isinstance(value, float) else str(value)


FILTERS: dict[str, Callable[[Scalar], str]] = {
    "upper": lambda v: str(v).upper(),
    "lower": lambda v: str(v).lower(),
    "capital": lambda v: str(v)[:1].upper() + str(v)[1:],
    "round": _rounded,
}


def places(text: str) -> list[tuple[str, str | None]]:
    """All places of a text as (field, filter)."""
    return [(m[1], m[2]) for m in _PLACE.finditer(text)]


def fill(text: str, values: Mapping[str, Scalar], escape: Callable[[str], str] = str) -> str:
    """The text with its places filled once: what is put in is never read again. `escape`: how a value is written in a
    text of some format."""

    def put(match: re.Match[str]) -> str:
        name, chosen = match[1], match[2]
        if name not in values:
            return match[0]
        convert = FILTERS.get(chosen) if chosen else None
        value = convert(values[name]) if convert else str(values[name])
        return escape(value[:LONGEST_VALUE])

    return _PLACE.sub(put, text)[:LONGEST_TEXT]
