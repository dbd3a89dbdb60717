"""What a message says, whatever it is written in: JSON, a form, the address' query, XML or plain text become one content of
objects, lists, texts and numbers."""

from collections.abc import Callable, Mapping
from typing import Any
from urllib.parse import parse_qsl

from dromikon.core.decoding.xml_content import content_of
from dromikon.core.reading import NotReadable, content, xml
from dromikon.core.words import t

#: A message has at most so many pairs.
MOST_PAIRS = 500
Flat = dict[str, Any]


def read(content_type: str, query: str, body: bytes) -> tuple[Any, bool]:
    """The content, and whether it is typed: JSON knows numbers, all else knows text alone. Raises NotReadable, or
    json.JSONDecodeError."""
    kind = content_type.partition(";")[0].strip().lower()
    if not body.strip():
        return _pairs(query), False
    begins = body.lstrip()[:1]
    # Senders often name the type of a form, or none, and send JSON.
    if begins in (b"{", b"[") or kind == "application/json" or kind.endswith("+json"):
        return content(body), True
    for reads, reader in _READERS:
        if reads(kind, begins):
            found = reader(body)
            return ({**_pairs(query), **found} if query and isinstance(found, dict) else found), False
    return content(body), True


def _pairs(text: str) -> Flat:
    try:
        found = parse_qsl(text, keep_blank_values=True, max_num_fields=MOST_PAIRS, encoding="utf-8", errors="strict")
    except ValueError as error:
        raise NotReadable(t("it has more fields than can be read, or letters that are none")) from error
    made: Flat = {}
    for name, value in found:
        _storable(name + value)
        made[name] = [*_listed(made[name]), value] if name in made else value
    return made


def _listed(value: Any) -> list[Any]:
    return value if isinstance(value, list) else [value]


def _form(body: bytes) -> Flat:
    return _pairs(_text(body))


def _lines(body: bytes) -> Flat:
    """Lines of `name=value` or `name: value`; and the whole as `text`."""
    text = _text(body)
    found: Flat = {"text": text.strip()}
    for line in text.splitlines()[:MOST_PAIRS]:
        name, sign, value = line.partition("=") if "=" in line else line.partition(":")
        if sign and name.strip() and " " not in name.strip():
            found.setdefault(name.strip(), value.strip())
    return found


def _xml(body: bytes) -> Any:
    return content_of(xml(body))


def _text(body: bytes) -> str:
    try:
        text = body.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise NotReadable(t("it is not UTF-8")) from error
    return _storable(text)


def _storable(text: str) -> str:
    if "\0" in text:
        raise NotReadable(t("it holds NUL bytes"))
    return text


def _is_xml(kind: str, begins: bytes) -> bool:
    return kind in ("application/xml", "text/xml") or kind.endswith("+xml") or begins == b"<"


_READERS: tuple[tuple[Callable[[str, bytes], bool], Callable[[bytes], Any]], ...] = (
    (_is_xml, _xml),
    (lambda kind, _: kind == "application/x-www-form-urlencoded", _form),
    (lambda kind, _: kind.startswith("text/"), _lines),
)


def nested(flat: Mapping[str, Any], known: tuple[str, ...]) -> Flat:
    """Pairs as an event: the `known` names as they are, `fields` as it is, and every other one a field; one that is called
    `fields.plate` is the field `plate`."""
    fields = dict(flat["fields"]) if isinstance(flat.get("fields"), Mapping) else {}
    rest = {name.removeprefix("fields."): v for name, v in flat.items() if name not in known and name != "fields"}
    return {**{name: flat[name] for name in known if name in flat}, "fields": {**rest, **fields}}
