"""Checks: it can never be true."""

import math
from collections.abc import Iterator
from typing import Any

from dromikon.core.kinds import KINDS
from dromikon.core.rules.causes.clock import ClockCause
from dromikon.core.rules.causes.several import MissingCause, SeveralCause
from dromikon.core.rules.checks.base import Finding, Reading
from dromikon.core.rules.comparison import FieldCondition
from dromikon.core.rules.condition import Condition
from dromikon.core.rules.conditions import Every
from dromikon.core.rules.in_list import ListCondition
from dromikon.core.rules.situations import ModeCondition, StateCondition
from dromikon.core.rules.within import HoursPart
from dromikon.core.words import t

CONTRADICTION, HOURS, PATTERN = "contradiction", "hours-never-count", "impossible-pattern"


def contradiction(reading: Reading) -> Iterator[Finding]:
    """Conditions of one "all of" that cannot hold together, and choices that a field never takes."""
    for tree_path, kind, tree in reading.document.conditions():
        for path, leaf in tree.leaves(tree_path):
            if isinstance(leaf, FieldCondition):
                yield from _impossible_choice(path, kind, leaf)
        for path, together in _alls(tree_path, tree):
            reason = _clash(together)
            if reason:
                yield Finding(CONTRADICTION, "error", path, reason, t("As it stands this is never true."))


def _alls(path: str, tree: Condition) -> Iterator[tuple[str, list[Condition]]]:
    """Every "all of", with the leaves that hold together in it, nested ones included."""
    if isinstance(tree, Every):
        yield path, _together(tree)
        inner: list[tuple[str, Any]] = [(f"{path}.of.{i}", c) for i, c in enumerate(tree.of)]
        for inner_path, condition in inner:
            if not isinstance(condition, Every):
                yield from _alls(inner_path, condition)
        return
    of = getattr(tree, "of", ())
    for i, condition in enumerate(of if isinstance(of, tuple) else (of,)):
        yield from _alls(f"{path}.of.{i}" if isinstance(of, tuple) else f"{path}.of", condition)


def _together(tree: Every) -> list[Condition]:
    found: list[Condition] = []
    for condition in tree.of:
        found += _together(condition) if isinstance(condition, Every) else [condition]
    return found


def _clash(conditions: list[Condition]) -> str:
    """Why the conditions cannot all hold; empty when they may."""
    fields: dict[str, list[FieldCondition]] = {}
    for condition in conditions:
        if isinstance(condition, FieldCondition):
            fields.setdefault(condition.field, []).append(condition)
    for name, comparisons in fields.items():
        reason = _numbers_clash(name, comparisons) or _values_clash(name, comparisons)
        if reason:
            return reason
    return _situations_clash(conditions)


def _numbers_clash(name: str, comparisons: list[FieldCondition]) -> str:
    low, high = -math.inf, math.inf
    for c in comparisons:
        if c.op == "at_least":
            low = max(low, float(str(c.value)))
        elif c.op == "at_most":
            high = min(high, float(str(c.value)))
        elif c.op == "between" and isinstance(c.value, tuple):
            low, high = max(low, float(c.value[0])), min(high, float(c.value[1]))
    return (
        t("No {name} is at least {low} and at most {high}.", name=name, low=f"{low:g}", high=f"{high:g}")
        if low > high
        else ""
    )


def _values_clash(name: str, comparisons: list[FieldCondition]) -> str:
    allowed: set[str] | None = None
    for c in comparisons:
        if c.op in ("is", "one_of"):
            values = {str(v).casefold() for v in (c.value if isinstance(c.value, tuple) else (c.value,))}
            allowed = values if allowed is None else allowed & values
    for c in comparisons:
        if c.op == "is_not" and allowed is not None:
            allowed = allowed - {str(c.value).casefold()}
    return t("No {name} is all of what is wanted at once.", name=name) if allowed is not None and not allowed else ""


def _situations_clash(conditions: list[Condition]) -> str:
    states: dict[tuple[str, str], bool] = {}
    modes: set[str] | None = None
    lists: dict[tuple[str, str, str], bool] = {}
    for c in conditions:
        if isinstance(c, StateCondition):
            place = (c.kind, c.point.id if c.point else "")
            if states.setdefault(place, c.on) is not c.on:
                return t("A state is wanted both on and off.")
        elif isinstance(c, ModeCondition):
            modes = set(c.modes) if modes is None else modes & set(c.modes)
            if not modes:
                return t("The site is never in two modes at once.")
        elif isinstance(c, ListCondition):
            where = (c.field, c.among.id, c.how)
            if lists.setdefault(where, c.listed) is not c.listed:
                return t("A value is wanted both in and not in one list.")
    return ""


def _impossible_choice(path: str, kind: str, leaf: FieldCondition) -> Iterator[Finding]:
    known = KINDS[kind].field(leaf.field)
    if known is None or not known.choices or leaf.op not in ("is", "one_of"):
        return
    values = leaf.value if isinstance(leaf.value, tuple) else (leaf.value,)
    if not any(str(v).casefold() in known.choices for v in values):
        reason = t("“{label}” is never {wanted}.", label=known.label, wanted=leaf.wanted())
        yield Finding(CONTRADICTION, "error", path, reason, t("It is one of {list}.", list=", ".join(known.choices)))


def hours_never_count(reading: Reading) -> Iterator[Finding]:
    """Inside hours that are empty, outside hours that are always, or a time that never falls into its hours."""
    for path, part in reading.document.within():
        yield from _never_counts(reading, path, part)


def _never_counts(reading: Reading, path: str, part: HoursPart) -> Iterator[Finding]:
    known = reading.facts.hours_by_id.get(part.hours.id)
    if known is None:
        return
    if (part.inside and known.is_empty) or (not part.inside and known.is_always):
        empty = t("It is never inside {hours}: they are empty.", hours=known.name)
        reason = empty if part.inside else t("It is never outside {hours}: they are always.", hours=known.name)
        yield Finding(HOURS, "error", path, reason, t("Choose other hours, or fill these."))
        return
    cause = reading.document.cause
    if path != "hours" or not isinstance(cause, ClockCause) or cause.hours is None or cause.offset:
        return
    if cause.hours.id == part.hours.id and (cause.at == "start") != part.inside:
        ends = t("When {hours} end it is never inside them.", hours=known.name)
        reason = ends if part.inside else t("When {hours} start it is never outside them.", hours=known.name)
        yield Finding(HOURS, "error", "hours", reason, t("Take the hours out, or turn them round."))


def impossible_pattern(reading: Reading) -> Iterator[Finding]:
    """Patterns that cannot come together: two that are the same, or what is missing comes with what it follows."""
    cause = reading.document.cause
    if not isinstance(cause, SeveralCause):
        return
    patterns = cause.patterns()
    for i, (path, pattern) in enumerate(patterns):
        for _, other in patterns[:i]:
            if pattern == other and isinstance(cause, MissingCause):
                reason = t(
                    "What must not follow is the same as what came first, so each event calls off the one before."
                )
                yield Finding(
                    PATTERN, "warning", f"cause.{path}", reason, t("Use “repeated” to count how often it comes.")
                )
            elif pattern == other:
                reason = t("Two patterns are the same: one event counts for both.")
                yield Finding(
                    PATTERN, "warning", f"cause.{path}", reason, t("Use “repeated” to count how often it comes.")
                )
    if cause.join.per == "point" and not set.intersection(*_points(reading, patterns)):
        reason = t("The patterns have no point in common, but belong together per point, so this never fires.")
        yield Finding(PATTERN, "error", "cause.join", reason, t("Join them per area or sightline."))
    elif cause.join.per == "field":
        for path, pattern in patterns:
            if KINDS[pattern.kind].field(cause.join.field) is None:
                reason = t(
                    "“{label}” has no field “{field}” to be joined by.",
                    label=KINDS[pattern.kind].label,
                    field=cause.join.field,
                )
                yield Finding(PATTERN, "error", f"cause.{path}", reason, t("Join by a field that all of them have."))


def _points(reading: Reading, patterns: tuple[tuple[str, Any], ...]) -> list[set[str]]:
    return [set(p.where.resolve(reading.facts, KINDS[p.kind].point_kinds)) for _, p in patterns]
