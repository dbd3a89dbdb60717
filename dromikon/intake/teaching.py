"""Trying a decoder on messages that an intake was really sent, and on one that somebody pastes."""

import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from dromikon.core import reading
from dromikon.core.decoders import paths
from dromikon.core.decoders.decode import Reading, read_with
from dromikon.core.decoders.document import DecoderDocument
from dromikon.core.decoding import bodies, snmp
from dromikon.core.instants import iso
from dromikon.intake.looking import Captured, captured
from dromikon.sources.models import Intake, Point

#: A pasted message has no number.
PASTED = 0


@dataclass(frozen=True, slots=True)
class Message:
    """A message as far as it can be read: its content, or why there is none."""

    id: int
    at: int
    content: Any
    why: str


def messages_of(intake: Intake, limit: int = 40) -> list[Message]:
    """The last messages of an intake, the newest first."""
    return [_read(c) for c in captured(intake, limit)]


def pasted(text: str, content_type: str = "") -> Message:
    """A message that somebody has at hand."""
    kind = content_type or ("text/plain" if text.lstrip()[:1] not in "{[<" else "")
    return _read(Captured(PASTED, 0, kind, "", text.encode()))


def _read(message: Captured) -> Message:
    try:
        content = _content(message)
    except reading.NotReadable as error:
        return Message(message.id, message.at, None, str(error))
    except ValueError:
        return Message(message.id, message.at, None, "It is not JSON.")
    return Message(message.id, message.at, content, "")


def _content(message: Captured) -> Any:
    if message.adapter == "snmp":
        return snmp.read(message.body)
    return bodies.read(message.content_type, message.query, message.body)[0]


def tried(document: DecoderDocument, intake: Intake, messages: list[Message]) -> Iterator[dict[str, Any]]:
    """What each message would become, as JSON."""
    points = dict(Point.objects.filter(site=intake.site, retired_at=None).values_list("id", "name"))
    by_name = {
        token: id
        for id, token in Point.objects.filter(site=intake.site, retired_at=None, device=None).values_list("id", "token")
        if token
    }
    for message in messages:
        found = Reading("failed", why=message.why) if message.why else read_with(document, message.content)
        events = [_event(made, points, by_name) for made in found.made]
        lost = next((e["said"] for e in events if not e["point"]), None)
        why = found.why or (f"There is no point “{lost}” here." if lost is not None else "")
        outcome = "failed" if lost is not None else found.outcome
        yield {"id": message.id, "outcome": outcome, "why": why, "events": events}


def _event(made: Any, points: dict[str, str], by_name: dict[str, str]) -> dict[str, Any]:
    decoded = made.decoded
    point = decoded.token if decoded.token in points else by_name.get(decoded.token, "")
    return {
        "kind": decoded.kind, "phase": decoded.phase.value, "point": point, "name": points.get(point, ""), "said": decoded.token,
        "fields": decoded.fields, "at": iso(made.at) if made.at is not None else None,
    }  # fmt: skip


def shown(message: Message) -> dict[str, Any]:
    """A message with every value that can be pointed at."""
    found = paths.leaves(message.content)
    return {
        "id": message.id, "at": message.at, "why": message.why,
        "leaves": [{"path": path, "value": json.dumps(value, ensure_ascii=False)[:200]} for path, value in found],
    }  # fmt: skip
