"""Checks between rules that raise alarms: two alarms for one thing that happened."""

from collections.abc import Iterator

from dromikon.core.rules.actions.alarm import AlarmAction
from dromikon.core.rules.checks.base import Finding, Reading
from dromikon.core.rules.comparison import FieldCondition
from dromikon.core.rules.condition import Condition, Pair
from dromikon.core.rules.conditions import Every
from dromikon.core.rules.in_list import ListCondition
from dromikon.core.rules.situations import ModeCondition
from dromikon.core.words import t

TWICE = "two-alarms"


def two_alarms(readings: list[Reading]) -> Iterator[tuple[str, Finding]]:
    """A rule that raises an alarm at what another raises one at already, where nothing keeps them apart."""
    known: list[tuple[Reading, frozenset[Pair]]] = []
    for reading in readings:
        if not any(isinstance(s, AlarmAction) and s.anchor == "start" for s in reading.document.response):
            continue
        about = _about(reading)
        other = next((o for o, pairs in known if not about.isdisjoint(pairs) and not _apart(o, reading)), None)
        known.append((reading, about))
        if other is None or _same(other, reading):
            continue
        where = _named(reading, about & _about(other))
        reason = t("“{rule}” raises an alarm at the same event of {where}.", rule=other.document.name, where=where)
        hint = t("Tell them apart by a condition or by hours, or put both into one rule.")
        yield reading.id, Finding(TWICE, "warning", "cause", reason, hint)


def _same(some: Reading, other: Reading) -> bool:
    """Of a duplicate that is said already."""
    a, b = some.document, other.document
    return (a.cause, a.provided, a.hours) == (b.cause, b.provided, b.hours)


def _about(reading: Reading) -> frozenset[Pair]:
    """The events at which it fires, of those that it is shown; what follows from several, or from waiting, is of its own
    sort."""
    cause = reading.document.cause
    kind = cause.event_kind()
    return frozenset((f"{type(cause).__name__} {k}", p) for k, p in reading.triggers if k == kind)


def _named(reading: Reading, pairs: frozenset[Pair]) -> str:
    first = min(point for _, point in pairs)
    return reading.facts.name_of("point", first) or first or reading.facts.name


def _apart(some: Reading, other: Reading) -> bool:
    """Whether no event can set off both, as far as their conditions and hours say so plainly."""
    a, b = some.document, other.document
    if a.hours and b.hours and a.hours.hours.id == b.hours.hours.id and a.hours.inside != b.hours.inside:
        return True
    return any(_exclude(x, y) for x in _always(a.provided) for y in _always(b.provided))


def _always(tree: Condition | None) -> tuple[Condition, ...]:
    """The leaves that must all hold."""
    if isinstance(tree, Every):
        return tuple(leaf for part in tree.of for leaf in _always(part))
    return (tree,) if tree is not None else ()


def _exclude(x: Condition, y: Condition) -> bool:
    if isinstance(x, ModeCondition) and isinstance(y, ModeCondition):
        return set(x.modes).isdisjoint(y.modes)
    if isinstance(x, ListCondition) and isinstance(y, ListCondition):
        return (x.field, x.among.id) == (y.field, y.among.id) and x.listed != y.listed
    if isinstance(x, FieldCondition) and isinstance(y, FieldCondition) and x.field == y.field:
        return _values_exclude(x, y)
    return False


def _values_exclude(x: FieldCondition, y: FieldCondition) -> bool:
    first, second = _values(x), _values(y)
    if x.op in ("is", "one_of") and y.op in ("is", "one_of"):
        return first.isdisjoint(second)
    if {x.op, y.op} == {"is", "is_not"}:
        return first == second
    return False


def _values(condition: FieldCondition) -> set[str]:
    many = condition.value if isinstance(condition.value, tuple) else (condition.value,)
    return {str(v).casefold() for v in many}
