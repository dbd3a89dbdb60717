"""The values at which a rule looks for readings: what a chart draws in."""

from collections.abc import Iterator

from pydantic import BaseModel

from dromikon.core.rules.causes.level import LevelCause
from dromikon.core.rules.comparison import FieldCondition
from dromikon.core.rules.document import RuleDocument

NUMERIC = ("at_least", "at_most", "between")


def limits_of(document: RuleDocument) -> list[float]:
    """Every value with which a rule compares a reading."""
    return [limit for part in _parts(document) for limit in _limits(part)]


def _limits(part: BaseModel) -> Iterator[float]:
    if isinstance(part, LevelCause) and part.way != "rate":
        yield part.value
        if part.low is not None and part.way == "out":
            yield part.low
    if isinstance(part, FieldCondition) and part.field == "value" and part.op in NUMERIC:
        values = part.value if isinstance(part.value, tuple) else (part.value,)
        yield from (float(v) for v in values if isinstance(v, int | float))


def _parts(part: BaseModel) -> Iterator[BaseModel]:
    """A part, and all that are in it."""
    yield part
    for name in type(part).model_fields:
        value = getattr(part, name)
        for inner in value if isinstance(value, list | tuple) else (value,):
            if isinstance(inner, BaseModel):
                yield from _parts(inner)
