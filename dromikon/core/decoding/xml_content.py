"""What XML says, as content like any other, which remembers the element that it is of: so that XPath is asked of what really
came."""

from typing import Any

from lxml import etree

from dromikon.core.reading import NotReadable
from dromikon.core.words import t

#: Elements are so deep in one another at most.
DEEPEST = 40


class XmlContent(dict[str, Any]):
    """An element's attributes, children and text by name; `element` is the element, without its namespaces."""

    element: etree._Element


def content_of(root: etree._Element) -> Any:
    """What an element says. Its names lose their namespaces. Raises NotReadable."""
    for element in root.iter(etree.Element):
        element.tag = _local(element.tag)
        for name in [n for n in element.attrib if isinstance(n, str) and n.startswith("{")]:
            element.attrib[_local(name)] = element.attrib.pop(name)
    return said(root)


def said(element: etree._Element, deep: int = DEEPEST) -> Any:
    """An element without anything in it is its text; otherwise its children by name, several of one name as a list, and its
    attributes with @ before their names. Raises NotReadable."""
    if not deep:
        raise NotReadable(t("it is nested too deeply"))
    found = XmlContent({f"@{name!s}": str(value) for name, value in element.attrib.items()})
    for child in element:
        if isinstance(child.tag, str):
            value = said(child, deep - 1)
            before = found.get(child.tag)
            several = [*before, value] if isinstance(before, list) else [before, value]
            found[child.tag] = several if child.tag in found else value
    text = (element.text or "").strip()
    if not found:
        return text
    if text:
        found["text"] = text
    found.element = element
    return found


def _local(name: Any) -> str:
    return str(etree.QName(name).localname)
