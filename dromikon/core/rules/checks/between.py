"""Checks between rules: duplicates, circles, outputs that are fought over or never switched off."""

import json
from collections import defaultdict
from collections.abc import Iterator

from dromikon.core.kinds import DERIVED
from dromikon.core.rules.actions.base import Action
from dromikon.core.rules.actions.derive import DeriveAction
from dromikon.core.rules.checks.base import Finding, Mend, Reading
from dromikon.core.rules.checks.outputs import driven, relays
from dromikon.core.rules.comparison import FieldCondition
from dromikon.core.rules.condition import Pair
from dromikon.core.words import t

DUPLICATE, CIRCLE, AGAINST, LEFT_ON = "duplicate", "sets-itself-off", "against-each-other", "never-switched-off"


def duplicate(readings: list[Reading]) -> Iterator[tuple[str, Finding]]:
    """Two rules with the same cause, conditions and hours."""
    first: dict[str, Reading] = {}
    for reading in readings:
        document = reading.document.to_json()
        looks = json.dumps([document.get(part) for part in ("cause", "provided", "hours")], sort_keys=True)
        other = first.setdefault(looks, reading)
        if other is not reading:
            same = other.document.response == reading.document.response
            name = other.document.name
            reason = t("This rule is the same as “{rule}”.", rule=name)
            if not same:
                reason = t("This rule fires whenever “{rule}” does.", rule=name)
            yield reading.id, Finding(DUPLICATE, "warning", "cause", reason, t("Put the steps of both into one rule."))


def sets_itself_off(readings: list[Reading]) -> Iterator[tuple[str, Finding]]:
    """Derived events that lead back to the rule that raised them, by itself or through others."""
    raised = {r.id: [s for s in r.document.response if isinstance(s, DeriveAction)] for r in readings}
    listening = [r for r in readings if any(kind == DERIVED for kind, _ in r.triggers)]
    leads = {r.id: [o for o in listening if _hears(o, raised[r.id])] for r in readings if raised[r.id]}
    names = {r.id: r.document.name for r in readings}
    for reading in readings:
        circle = _circle(reading.id, leads)
        if circle:
            way = " → ".join(f"“{names[id]}”" for id in circle)
            place = next(i for i, s in enumerate(reading.document.response) if isinstance(s, DeriveAction))
            reason = t("The event it raises leads back to it: {way}.", way=way)
            hint = t("It would be stopped at the second time; name the event so that only other rules are about it.")
            yield reading.id, Finding(CIRCLE, "error", f"response.{place}", reason, hint)


def _hears(reading: Reading, raised: list[DeriveAction]) -> bool:
    """Whether a rule about derived events may be about one of those raised, going by their names."""
    wanted: set[str] | None = None
    for path, kind, tree in reading.document.conditions():
        for leaf_path, leaf in tree.leaves(path):
            certain = leaf_path.count(".of.") <= 1
            if isinstance(leaf, FieldCondition) and kind == DERIVED and leaf.field == "name" and certain:
                values = leaf.value if isinstance(leaf.value, tuple) else (leaf.value,)
                if leaf.op in ("is", "one_of"):
                    wanted = {str(v).casefold() for v in values}
    return any(wanted is None or step.name.casefold() in wanted for step in raised)


def _circle(start: str, leads: dict[str, list[Reading]]) -> list[str]:
    """The shortest way from a rule back to itself; empty when there is none."""
    ways = [[start]]
    seen: set[str] = set()
    while ways:
        way = ways.pop(0)
        for reading in leads.get(way[-1], ()):
            if reading.id == start:
                return [*way, start]
            if reading.id not in seen:
                seen.add(reading.id)
                ways.append([*way, reading.id])
    return []


def against_each_other(readings: list[Reading]) -> Iterator[tuple[str, Finding]]:
    """Two rules set one output, door or camera to different things, and the same event may set both off."""
    setting: dict[str, list[tuple[Reading, int, Action, str]]] = defaultdict(list)
    for reading in readings:
        for i, step, point, state in driven(reading):
            setting[point].append((reading, i, step, state))
    for point, steps in setting.items():
        for n, (reading, i, step, state) in enumerate(steps):
            for other, _, opposite, other_state in steps[:n]:
                if other_state == state or other.id == reading.id or not _same_moment(step, opposite):
                    continue
                if _share(reading.triggers, other.triggers):
                    yield reading.id, _against(reading, f"response.{i}", point, other)
                    break


def _against(reading: Reading, path: str, point: str, other: Reading) -> Finding:
    name = reading.facts.name_of("point", point) or point
    reason = t(
        "It drives {name} at the moment at which “{rule}” drives it otherwise.", name=name, rule=other.document.name
    )
    return Finding(AGAINST, "warning", path, reason, t("Let one of them come later."))


def _same_moment(step: Action, other: Action) -> bool:
    """Whether one comes while the other is at work."""
    if step.anchor != other.anchor:
        return False
    first, second = sorted((step, other), key=lambda s: s.after)
    held = float(first.hold) if isinstance(first.hold, int | float) else 0.0
    return second.after <= first.after + held


def _share(some: frozenset[Pair], others: frozenset[Pair]) -> bool:
    return not some.isdisjoint(others)


def never_switched_off(readings: list[Reading]) -> Iterator[tuple[str, Finding]]:
    """An output that is left on, and that no rule ever switches off."""
    off = {point for reading in readings for _, step, point in relays(reading) if step.set == "off"}
    for reading in readings:
        for i, step, point in relays(reading):
            if step.set == "on" and point not in off:
                name = reading.facts.name_of("point", point) or point
                reason = t("{name} is switched on and no rule ever switches it off.", name=name)
                mend = Mend(t("Hold it for 30 s"), f"response.{i}.set", "hold")
                yield (
                    reading.id,
                    Finding(
                        LEFT_ON, "warning", f"response.{i}", reason, t("Hold it, or add a rule for the end."), mend
                    ),
                )
