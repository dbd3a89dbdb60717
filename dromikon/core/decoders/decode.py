"""Reading a message with a decoder: whether it fits, and the events that it means."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from dromikon.core import reading
from dromikon.core.decoders import paths
from dromikon.core.decoders.document import ConditionPart, DecoderDocument, FieldPart
from dromikon.core.decoders.paths import Part
from dromikon.core.decoding import Decoded, NotDecoded
from dromikon.core.events import Phase, Scalar
from dromikon.core.instants import Instant
from dromikon.core.kinds import KINDS
from dromikon.core.words import t

#: A message means so many events at most, and a text is kept so long.
MOST_EVENTS, LONGEST_TEXT = 200, 500


@dataclass(frozen=True, slots=True)
class Made:
    """An event that a message means; its token is a point's id or name. `at`: the sender's own time."""

    decoded: Decoded
    at: Instant | None


@dataclass(frozen=True, slots=True)
class Reading:
    """What came of a message: it does not fit (`other`), it means `made`, or it fits and cannot be read, and `why`."""

    outcome: Literal["other", "read", "failed"]
    made: tuple[Made, ...] = ()
    why: str = ""


OTHER = Reading("other")


def read_with(decoder: DecoderDocument, content: Any) -> Reading:
    """Read one message. Never raises for anything a message can be."""
    try:
        parts = _parts(decoder, content)
        own = [part for part in parts if all(_holds(c, part) for c in decoder.when)]
        if not own:
            return OTHER
        return Reading("read", tuple(_made(decoder, part) for part in own[:MOST_EVENTS]))
    except NotDecoded as error:
        return Reading("failed", why=str(error))
    except (paths.BadPath, RecursionError) as error:
        return Reading("failed", why=str(error) or t("it is nested too deeply"))


def read_with_all(decoders: Sequence[DecoderDocument], content: Any) -> list[tuple[DecoderDocument, Reading]]:
    """What each decoder that fits reads, in order: up to the first that leaves nothing to those after it."""
    read = []
    for decoder in decoders:
        found = read_with(decoder, content)
        if found.outcome != "other":
            read.append((decoder, found))
            if not decoder.goes_on:
                break
    return read


def _parts(decoder: DecoderDocument, content: Any) -> list[Part]:
    if not decoder.each:
        return [Part(content, content)]
    return [Part(found, content) for found in paths.values(decoder.each, Part(content, content))]


def _holds(condition: ConditionPart, part: Part) -> bool:
    found = paths.values(condition.path, part)
    return _COMPARE[condition.how](found, condition.value)


Comparing = Callable[[list[Any], str], bool]


def _any(test: Callable[[str, str], bool]) -> Comparing:
    return lambda found, wanted: any(test(_text(value), wanted) for value in found)


def _number_of(test: Callable[[float, float], bool]) -> Comparing:
    def compare(found: list[Any], wanted: str) -> bool:
        try:
            return any(test(reading.number(value), reading.number(wanted)) for value in found)
        except reading.NotReadable:
            return False

    return compare


_COMPARE: dict[str, Comparing] = {
    "is": _any(lambda value, wanted: value == wanted),
    "is_not": lambda found, wanted: all(_text(value) != wanted for value in found),
    "contains": _any(lambda value, wanted: wanted in value),
    "begins": _any(lambda value, wanted: value.startswith(wanted)),
    "there": lambda found, _: any(value is not None for value in found),
    "not_there": lambda found, _: all(value is None for value in found),
    "at_least": _number_of(lambda value, wanted: value >= wanted),
    "at_most": _number_of(lambda value, wanted: value <= wanted),
}


def _made(decoder: DecoderDocument, part: Part) -> Made:
    fields = {field.name: made for field in decoder.fields if (made := _field(decoder, field, part)) is not None}
    phase = _phase(decoder, part)
    ends_after = decoder.ends_after if decoder.ends_itself and phase is Phase.BEGIN else None
    decoded = Decoded(decoder.kind, _point(decoder, part), phase, fields, ends_after=ends_after)
    return Made(decoded, _time(decoder, part))


def _field(decoder: DecoderDocument, field: FieldPart, part: Part) -> Scalar:
    """A field's value, by its meaning and its type; None where the message has none."""
    found = paths.value(field.path, part)
    if found is None:
        return None
    meaning = next((m.means for m in field.meanings if m.said == _text(found)), None)
    said = found if meaning is None else meaning
    known = KINDS[decoder.kind].field(field.name)
    if known is not None and known.type == "number":
        try:
            return reading.number(said)
        except reading.NotReadable as error:
            raise NotDecoded(t("{name} is {value}, and no number.", name=field.name, value=repr(said)[:60])) from error
    return said if isinstance(said, bool | int | float) and known is None else _text(said)[:LONGEST_TEXT]


def _point(decoder: DecoderDocument, part: Part) -> str:
    if not decoder.point_path:
        return decoder.point.id if decoder.point else ""
    said = _text(paths.value(decoder.point_path, part))
    named = next((p.point.id for p in decoder.points if p.said == said), None)
    if named is None and decoder.point is not None:
        return decoder.point.id
    if named is None and not said:
        raise NotDecoded(t("It names no point at {path}.", path=decoder.point_path))
    return named or said


def _phase(decoder: DecoderDocument, part: Part) -> Phase:
    if not decoder.phase_path:
        return decoder.phase
    said = _text(paths.value(decoder.phase_path, part))
    if said in decoder.begins:
        return Phase.BEGIN
    if said in decoder.ends:
        return Phase.END
    raise NotDecoded(t("“{value}” says neither that it begins nor that it ends.", value=said[:60]))


def _time(decoder: DecoderDocument, part: Part) -> Instant | None:
    said = paths.value(decoder.time_path, part) if decoder.time_path else None
    if said is None:
        return None
    try:
        if decoder.time_as == "iso":
            return reading.instant(str(said))
        return round(reading.number(said) * (1000 if decoder.time_as == "seconds" else 1))
    except (reading.NotReadable, OverflowError) as error:
        raise NotDecoded(t("{value} is no time of that form.", value=repr(said)[:60])) from error


def _text(value: Any) -> str:
    """A value as text, as JSON writes it; parts with parts of their own are no text."""
    if value is None or isinstance(value, dict | list):
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, float) and value.is_integer() and abs(value) < reading.MOST:
        return str(int(value))
    return str(value)
