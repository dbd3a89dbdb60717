"""Decoder of events that arrive over HTTP in Dromikon's own plain form:

``{"kind": "input.active", "point": "<token or id>", "phase": "begin", "fields": {...}, "occurred_at": "2026-…Z"}``
"""

from collections.abc import Mapping
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError

from dromikon.core.decoding import Decoded, NotDecoded
from dromikon.core.decoding.bodies import nested
from dromikon.core.events import Phase
from dromikon.core.instants import Instant
from dromikon.core.kinds import KINDS, Kind
from dromikon.core.reading import MOST, NotReadable, instant, number
from dromikon.core.words import t

Text = Annotated[str, StringConstraints(max_length=500)]
#: Long enough for a face template.
Value = Annotated[str, StringConstraints(max_length=6000)]


#: What JSON keeps exactly; longer ones could not be stored.
Whole = Annotated[int, Field(ge=-MOST, le=MOST)]


class PlainEvent(BaseModel):
    """The accepted form. Unknown fields are refused."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    kind: Text
    point: Text
    phase: Phase
    fields: dict[Text, Value | Whole | float | bool | None] = Field(default_factory=dict, max_length=50)
    occurred_at: Text | None = None


def decode(content: Any) -> tuple[Decoded, Instant | None]:
    """The event and the sender's own time. Raises NotDecoded naming the field at fault."""
    try:
        plain = PlainEvent.model_validate(content)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        raise NotDecoded(f"{'.'.join(str(p) for p in first['loc']) or 'message'}: {first['msg']}") from error
    kind = KINDS.get(plain.kind)
    if kind is None:
        raise NotDecoded(t("kind: there is no kind {kind}.", kind=repr(plain.kind)))
    if plain.phase not in kind.phases:
        raise NotDecoded(t("phase: {kind} has no phase {value}.", kind=plain.kind, value=repr(plain.phase.value)))
    try:
        said = instant(plain.occurred_at) if plain.occurred_at else None
    except NotReadable as error:
        raise NotDecoded(t("occurred_at: not an ISO 8601 time.")) from error
    return Decoded(plain.kind, plain.point, plain.phase, plain.fields), said


#: What an event has besides its fields.
KNOWN = ("kind", "point", "phase", "occurred_at")


def decode_text(content: Any) -> tuple[Decoded, Instant | None]:
    """The event in pairs of text, of a form, a query, XML or lines: what is no part of an event is a field, numbers are read
    where the kind has numbers, and a kind with one phase needs none. Raises NotDecoded."""
    if not isinstance(content, Mapping):
        raise NotDecoded(t("the message has no named parts."))
    found = nested({name: value for name, value in content.items() if name != "text"}, KNOWN)
    kind = KINDS.get(str(found.get("kind", "")))
    if kind is not None:
        found["fields"] = {name: _typed(kind, name, value) for name, value in found["fields"].items()}
        if len(kind.phases) == 1:
            found.setdefault("phase", kind.phases[0].value)
    return decode(found)


def _typed(kind: Kind, name: str, value: Any) -> Any:
    field = kind.field(name)
    if field is None or field.type != "number" or not isinstance(value, str):
        return value
    try:
        return number(value)
    except NotReadable as error:
        raise NotDecoded(t("{name}: {error}.", name=f"fields.{name}", error=error)) from error
