"""A message of an MQTT broker as content that decoders read."""

from typing import Any

from dromikon.core import reading
from dromikon.core.decoding import bodies
from dromikon.core.reading import NotReadable
from dromikon.core.words import t


def read(topic: str, retained: bool, payload: bytes) -> dict[str, Any]:
    """Topic, its levels, and what is sent: JSON or XML where it is that, otherwise text. Raises NotReadable."""
    return {"topic": topic, "levels": topic.split("/"), "retained": retained, "payload": _said(payload)}


def _said(payload: bytes) -> Any:
    if payload.lstrip()[:1] == b"<":
        return bodies.read("text/xml", "", payload)[0]
    try:
        return reading.content(payload)
    except NotReadable:
        raise
    except ValueError:
        # A single word or number, as many sensors send it.
        return _text(payload)


def _text(payload: bytes) -> str:
    try:
        text = payload.decode()
    except UnicodeDecodeError as error:
        raise NotReadable(t("it is neither JSON nor text")) from error
    if "\0" in text:
        raise NotReadable(t("it is neither JSON nor text"))
    return text.strip()


def bad_filter(topics: str) -> bool:
    """Whether a topic filter is none (MQTT 3.1.1, 4.7.1): + stands for a level, # for all that follow, at the end only."""
    levels = topics.split("/")
    wild = any(("+" in level and level != "+") or ("#" in level and level != "#") for level in levels)
    return not topics or "\0" in topics or wild or "#" in levels[:-1]
