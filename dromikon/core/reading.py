"""The one way to read numbers, times, addresses and JSON that come from outside.

Python reads more than it should: ``²`` passes ``isdigit``, ``1e999`` becomes infinity, JSON may hold half characters and
numbers of any length, and an address with a broken IPv6 part raises. Everything here raises `NotReadable`, a ValueError
whose message says what was expected.
"""

import json
import math
import re
from collections.abc import Collection
from typing import Any
from urllib.parse import SplitResult, urlsplit
from urllib.request import parse_http_list

from lxml import etree

from dromikon.core.instants import Instant, parse
from dromikon.core.words import t

#: The largest number that JSON keeps exactly in every language, and well within what the database keeps.
MOST = 2**53
#: The last moment that dates can tell, in ms (end of the year 9999).
LATEST = 253_402_300_799_999
_WHOLE = re.compile(r"-?[0-9]{1,16}")


class NotReadable(ValueError):
    """What came is not what it should be; the message says what was expected."""


def whole(text: object, least: int = 0, most: int = MOST) -> int:
    """A whole number in ASCII digits, or an int, between two others."""
    if isinstance(text, bool) or not isinstance(text, int | str):
        raise NotReadable(t("give a whole number"))
    if isinstance(text, str) and not _WHOLE.fullmatch(text.strip()):
        raise NotReadable(t("give a whole number"))
    value = int(text)
    if not least <= value <= most:
        raise NotReadable(t("give a number from {least} to {most}", least=least, most=most))
    return value


def whole_or_none(text: object, least: int = 0, most: int = MOST) -> int | None:
    """A whole number, or None for anything else."""
    try:
        return whole(text, least, most)
    except NotReadable:
        return None


def number(text: object) -> float:
    """A finite number."""
    if isinstance(text, bool) or not isinstance(text, int | float | str):
        raise NotReadable(t("give a number"))
    try:
        value = float(text)
    except (ValueError, OverflowError) as error:
        raise NotReadable(t("give a number")) from error
    if not math.isfinite(value):
        raise NotReadable(t("give a finite number"))
    return value


def instant(text: str) -> Instant:
    """An ISO 8601 time."""
    try:
        return parse(text)
    except (ValueError, OverflowError, OSError) as error:
        raise NotReadable(t("give an ISO 8601 time")) from error


def address(text: str, schemes: Collection[str] = ("http", "https")) -> SplitResult:
    """An http or https address, or one of other schemes, with a host and without a user name in it."""
    named = " or ".join(schemes)
    try:
        parts = urlsplit(text)
        _ = parts.port
    except ValueError as error:
        raise NotReadable(t("give an {schemes} address", schemes=named)) from error
    if parts.scheme not in schemes or not parts.hostname or parts.username:
        raise NotReadable(t("give an {schemes} address without a user name in it", schemes=named))
    return parts


def typed_address(text: str, wanted: str) -> str:
    """A web address as somebody typed it, without spaces around it; nothing stays nothing. Raises NotReadable, which says
    what is `wanted`."""
    found = text.strip()
    try:
        if found:
            address(found)
    except NotReadable as error:
        raise NotReadable(wanted) from error
    return found


def parameters(text: str) -> dict[str, str]:
    """The parameters of a challenge or its answer (RFC 9110, 11.2): names in lower case, values without their quotes. What is no
    pair is left out."""
    pairs = (item.partition("=") for item in parse_http_list(text))
    return {name.strip().lower(): value.strip().strip('"') for name, equals, value in pairs if equals}


def content(data: bytes | str) -> Any:
    """JSON whose texts can be stored and whose numbers are finite and of a sensible length. Raises json.JSONDecodeError, which is a ValueError too and tells the place, or NotReadable."""
    try:
        found = json.loads(data, parse_int=_json_whole, parse_float=number, parse_constant=_no_constant)
        # Escaped half characters are JSON but no text; they could not be stored.
        json.dumps(found, ensure_ascii=False).encode()
    except (NotReadable, json.JSONDecodeError):
        raise
    except RecursionError as error:
        raise NotReadable(t("it is nested too deeply")) from error
    except ValueError as error:
        raise NotReadable(t("it is not JSON, or holds half characters")) from error
    return found


def _json_whole(text: str) -> int:
    return whole(text, -MOST, MOST)


def _no_constant(text: str) -> Any:
    raise NotReadable(t("{text} is not a number of JSON", text=text))


def xml(data: bytes) -> etree._Element:
    """The root of XML from outside: nothing in it is fetched, put in from elsewhere, or declared. Raises NotReadable."""
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    try:
        root = etree.fromstring(data, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        raise NotReadable(t("it is not well-formed XML")) from error
    if getattr(root.getroottree().docinfo, "doctype", ""):
        raise NotReadable(t("it declares a document type, which is not read here"))
    return root
