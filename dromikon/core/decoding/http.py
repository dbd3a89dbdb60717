"""Decoder of events that arrive as JSON over HTTP in Dromikon's own plain form:

``{"kind": "input.active", "point": "<token or id>", "phase": "begin", "fields": {...}, "occurred_at": "2026-…Z"}``
"""

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError

from dromikon.core.decoding import Decoded, NotDecoded
from dromikon.core.events import Phase
from dromikon.core.instants import Instant
from dromikon.core.kinds import KINDS
from dromikon.core.reading import MOST, NotReadable, instant
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
