"""Drawings that are taken as site plans: SVG and PNG, read carefully since they come from outside."""

import re
import struct
from dataclasses import dataclass

from lxml import etree

from dromikon.core.words import t

#: Larger ones are refused, in bytes.
LARGEST = 4_000_000
SVG, PNG = "image/svg+xml", "image/png"
_SIGNATURE = b"\x89PNG\r\n\x1a\n"
#: What a drawing does not need, and what could reach out of it.
_REFUSED = {"script", "foreignObject", "iframe", "object", "embed", "audio", "video", "handler", "listener"}
_INSIDE = re.compile(r"\s*(#|data:image/(png|jpeg);base64,)")
_OUTSIDE = re.compile(r"url\(\s*['\"]?(?!['\"]?#)|@import|javascript:", re.IGNORECASE)


class NoDrawing(ValueError):
    """It cannot be taken; the message says why."""


@dataclass(frozen=True, slots=True)
class Drawing:
    """Its media type, and its proportions: how tall it is for a width of 1."""

    media: str
    tall: float


def read_drawing(data: bytes) -> Drawing:
    """Read an SVG or PNG drawing. Raises NoDrawing."""
    if len(data) > LARGEST:
        raise NoDrawing(t("The drawing is larger than {n} MB.", n=str(LARGEST // 1_000_000)))
    return _read_png(data) if data.startswith(_SIGNATURE) else _read_svg(data)


def _read_png(data: bytes) -> Drawing:
    if len(data) < 33 or data[12:16] != b"IHDR":
        raise NoDrawing(t("The PNG is not whole."))
    wide, tall = struct.unpack(">II", data[16:24])
    if not 0 < wide <= 20_000 or not 0 < tall <= 20_000:
        raise NoDrawing(t("The PNG has no size that can be used."))
    return Drawing(PNG, tall / wide)


def _read_svg(data: bytes) -> Drawing:
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    try:
        root = etree.fromstring(data, parser)
    except etree.XMLSyntaxError as error:
        raise NoDrawing(t("This is neither PNG nor SVG that can be read.")) from error
    if etree.QName(root).localname != "svg":
        raise NoDrawing(t("This is neither PNG nor SVG that can be read."))
    for element in root.iter():
        _check(element)
    return Drawing(SVG, _proportions(root))


def _check(element: etree._Element) -> None:
    """Nothing in a drawing runs, and nothing in it is fetched from elsewhere."""
    if not isinstance(element.tag, str):
        if isinstance(element, etree._Entity):
            raise NoDrawing(t("The SVG declares entities, which a drawing does not need."))
        return
    name = etree.QName(element).localname
    if name in _REFUSED:
        raise NoDrawing(t("The SVG has a {name} in it, which a drawing does not need.", name=name))
    for attribute, value in element.attrib.items():
        own = etree.QName(str(attribute)).localname
        if own.lower().startswith("on") or (own == "href" and not _INSIDE.match(str(value))):
            raise NoDrawing(t("The SVG runs or fetches something ({name}), which a drawing does not need.", name=own))
        if _OUTSIDE.search(str(value)):
            raise NoDrawing(t("The SVG runs or fetches something ({name}), which a drawing does not need.", name=own))
    if name == "style" and _OUTSIDE.search(element.text or ""):
        raise NoDrawing(t("The SVG runs or fetches something ({name}), which a drawing does not need.", name=name))


def _proportions(root: etree._Element) -> float:
    box = [float(n) for n in re.findall(r"-?\d+(?:\.\d+)?", root.get("viewBox", ""))]
    wide, tall = (box[2], box[3]) if len(box) == 4 else (_length(root.get("width")), _length(root.get("height")))
    if wide <= 0 or tall <= 0:
        raise NoDrawing(t("The SVG says neither viewBox nor width and height."))
    return tall / wide


def _length(text: str | None) -> float:
    found = re.match(r"\s*(\d+(?:\.\d+)?)\s*(px|mm|cm|in|pt)?\s*$", text or "")
    return float(found.group(1)) if found else 0.0
