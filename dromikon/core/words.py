"""Words for people, in the language that is spoken just now.

Messages stand in the code in English, with {names} for what is filled in, and are looked up by whoever was named with
`speak`; by themselves they stay as they are. So the core can be translated without knowing how.
"""

import re
from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext

_PLACE = re.compile(r"\{(\w+)\}")

Translate = Callable[[str], str]
TranslateCounted = Callable[[str, str, int], str]
Within = Callable[[str], AbstractContextManager[object]]


def _as_it_is(message: str) -> str:
    return message


def _counted_as_it_is(one: str, many: str, count: int) -> str:
    return one if count == 1 else many


def _whatever_is_spoken(language: str) -> AbstractContextManager[object]:
    return nullcontext()


_translate: Translate = _as_it_is
_translate_counted: TranslateCounted = _counted_as_it_is
_within: Within = _whatever_is_spoken


def speak(
    translate: Translate = _as_it_is,
    counted: TranslateCounted = _counted_as_it_is,
    within: Within = _whatever_is_spoken,
) -> None:
    """Look messages up with these from now on, in the whole process. `within`: speaks a language, named as the site
    names it, for as long as its context lasts."""
    global _translate, _translate_counted, _within
    _translate, _translate_counted, _within = translate, counted, within


def speaking(language: str) -> AbstractContextManager[object]:
    """Speak a language while the context lasts: what is sent is in the site's, whoever looks at a page."""
    return _within(language)


def t(message: str, /, **values: object) -> str:
    """A message in the language that is spoken, with its places filled in."""
    return _fill(_translate(message), values) if message else ""


def tn(one: str, many: str, count: int, /, **values: object) -> str:
    """One or several: the form that fits `count`, which fills the place {count}."""
    return _fill(_translate_counted(one, many, count), {"count": count, **values})


def N_(message: str) -> str:  # noqa: N802
    """Mark a message for the catalogue that is looked up later, by `t` or `told`."""
    return message


def _fill(message: str, values: dict[str, object]) -> str:
    if not values:
        return message
    return _PLACE.sub(lambda place: str(values.get(place[1], place[0])), message)
