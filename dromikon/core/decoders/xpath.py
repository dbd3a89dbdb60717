"""Places in XML as XPath 1.0, by those who know them so: asked of the element that came, below a part of it or from its root."""

from functools import lru_cache
from itertools import islice
from typing import Any

from lxml import etree

from dromikon.core.decoding.xml_content import XmlContent, said
from dromikon.core.reading import NotReadable

#: A place leads to so many values at most.
MOST = 500


class BadXPath(ValueError):
    """What is written is no XPath that is read here."""


def is_xpath(path: str) -> bool:
    """Whether a place is written so: /alarm/@id, //spot, ./spot."""
    return path.startswith(("/", "./", ".//"))


@lru_cache(maxsize=1_000)
def compiled(path: str) -> etree.XPath:
    """Raises BadXPath."""
    if path.count("//") > 1:
        # It can take for ever on a message that was made for it.
        raise BadXPath("it may look below everything once")
    try:
        return etree.XPath(path, smart_strings=False, regexp=False)
    except etree.XPathError as error:
        raise BadXPath(str(error)) from error


def values(path: str, content: Any) -> list[Any]:
    """What is there, in order; nothing in what is no XML. Raises BadXPath."""
    query = compiled(path)
    if not isinstance(content, XmlContent):
        return []
    try:
        found = query(content.element)
    except etree.XPathError as error:
        raise BadXPath(str(error)) from error
    return [_value(one) for one in islice(found if isinstance(found, list) else [found], MOST)]


def _value(found: Any) -> Any:
    """An element's content, or a text, number or truth."""
    if not isinstance(found, etree._Element):
        return found
    try:
        return said(found)
    except NotReadable as error:
        raise BadXPath(str(error)) from error
