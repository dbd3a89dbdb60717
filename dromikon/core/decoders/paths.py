"""Places in a message: JSONPath (RFC 9535) below one part of it, or with `^` in front below the whole; in XML also XPath."""

import json
import re
from dataclasses import dataclass
from functools import lru_cache
from itertools import islice
from typing import Any

import jsonpath_rfc9535 as jsonpath

from dromikon.core.decoders import xpath
from dromikon.core.decoders.xpath import is_xpath
from dromikon.core.words import t

#: A place is written in so many letters, and leads to so many values at most.
LONGEST, MOST = 300, 500
WHOLE = "^"
#: Names that need no quotes.
_PLAIN = re.compile(r"[A-Za-z_][A-Za-z0-9_]*")


class BadPath(ValueError):
    """What is written leads nowhere; the message says why."""


@dataclass(frozen=True, slots=True)
class Part:
    """A part of a message, and the whole that it is of."""

    content: Any
    whole: Any


def check(path: str) -> None:
    """Raises BadPath."""
    if is_xpath(path):
        _by_xpath(path, None)
    else:
        _compiled(path)


def values(path: str, part: Part) -> list[Any]:
    """What is there, in order. Raises BadPath."""
    if is_xpath(path):
        return _by_xpath(path, part.content)
    query = _compiled(path)
    return [node.value for node in islice(query.finditer(part.whole if path.startswith(WHOLE) else part.content), MOST)]


def value(path: str, part: Part) -> Any:
    """The first value there, or None. Raises BadPath."""
    return next(iter(values(path, part)), None)


def _by_xpath(path: str, content: Any) -> list[Any]:
    if len(path) > LONGEST:
        raise BadPath(t("A place has at most {most} letters.", most=LONGEST))
    try:
        return xpath.values(path, content)
    except xpath.BadXPath as error:
        raise BadPath(t("“{path}” is no XPath: {error}", path=path, error=str(error)[:120])) from error


@lru_cache(maxsize=1_000)
def _compiled(path: str) -> jsonpath.JSONPathQuery:
    if len(path) > LONGEST:
        raise BadPath(t("A place has at most {most} letters.", most=LONGEST))
    if path.count("..") > 1 or "match(" in path or "search(" in path:
        # Both can take for ever on a message that was made for it.
        raise BadPath(t("A place may look below everything once, and not by pattern."))
    try:
        return jsonpath.compile("$" + path[1:] if path.startswith(WHOLE) else path)
    except (jsonpath.JSONPathError, ValueError, RecursionError) as error:
        raise BadPath(t("“{path}” is no JSONPath: {error}", path=path, error=str(error)[:120])) from error


def leaves(content: Any, most: int = 300, deep: int = 20) -> list[tuple[str, Any]]:
    """Every single value of a message with the place where it is, in order."""
    found: list[tuple[str, Any]] = []

    def walk(here: Any, path: str, left: int) -> None:
        if len(found) >= most or not left:
            return
        if isinstance(here, dict):
            for name, below in here.items():
                walk(below, path + _step(str(name)), left - 1)
        elif isinstance(here, list):
            for place, below in enumerate(here[:50]):
                walk(below, f"{path}[{place}]", left - 1)
        elif _leads(path):
            found.append((path, here))

    walk(content, "$", deep)
    return found


def _step(name: str) -> str:
    return f".{name}" if _PLAIN.fullmatch(name) else f"[{json.dumps(name, ensure_ascii=False)}]"


def _leads(path: str) -> bool:
    try:
        check(path)
    except BadPath:
        return False
    return True
