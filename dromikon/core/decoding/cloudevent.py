"""Decoder of CloudEvents 1.0 (cloudevents.io, JSON and HTTP bindings): `type` ends with one of our kinds, such as
``com.example.door.open``, `subject` names the point, `data` has the fields, and the extension attribute `phase` says which
phase of a state it is."""

from collections.abc import Mapping
from typing import Any

from dromikon.core.decoding import Decoded, NotDecoded
from dromikon.core.decoding import http as plain
from dromikon.core.instants import Instant
from dromikon.core.kinds import KINDS, Kind
from dromikon.core.words import t

#: Attributes that every CloudEvent has.
REQUIRED = ("specversion", "id", "source", "type")


def decode(attributes: Mapping[str, Any], data: Any) -> tuple[Decoded, Instant | None]:
    """The event and the sender's own time. Raises NotDecoded naming the attribute at fault."""
    missing = next((name for name in REQUIRED if not attributes.get(name)), None)
    if missing:
        raise NotDecoded(t("{missing}: a CloudEvent has one.", missing=missing))
    if attributes["specversion"] != "1.0":
        raise NotDecoded(t("specversion: {value} is not 1.0.", value=repr(attributes["specversion"])))
    if not isinstance(data, Mapping | None):
        raise NotDecoded(t("data: not an object of fields."))
    kind = _kind_of(str(attributes["type"]))
    return plain.decode(
        {
            "kind": kind.name,
            "point": attributes.get("subject", ""),
            "phase": attributes.get("phase") or _phase_of(kind),
            "fields": data or {},
            "occurred_at": attributes.get("time"),
        }
    )


def _kind_of(type: str) -> Kind:
    """The kind that a type is, or ends with."""
    parts = type.split(".")
    kind = next((k for i in range(len(parts)) if (k := KINDS.get(".".join(parts[i:]))) is not None), None)
    if kind is None:
        raise NotDecoded(t("type: no kind is, or ends, {type}.", type=repr(type)))
    return kind


def _phase_of(kind: Kind) -> str:
    if len(kind.phases) > 1:
        raise NotDecoded(t("phase: say whether {name} begins or ends, in the attribute “phase”.", name=kind.name))
    return kind.phases[0].value
