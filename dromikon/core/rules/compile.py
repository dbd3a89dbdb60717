"""From documents to an index: the cost of an event does not grow with rules that have nothing to do with it."""

from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass

from dromikon.core.events import Event
from dromikon.core.facts import Facts, LiveRule
from dromikon.core.instants import Instant
from dromikon.core.rules.actions import Action
from dromikon.core.rules.causes import Watcher
from dromikon.core.rules.condition import Pair, Seen, Test, World
from dromikon.core.rules.document import HoldOff, RuleDocument

#: Whether a step is to be carried out, by its run's event and its moment; notes what was seen.
StepTest = Callable[[Event, Instant, list[Seen]], bool]


@dataclass(frozen=True, slots=True)
class CompiledRule:
    """A rule made ready: its document with the tests that need not be looked up again."""

    id: str
    revision: int
    document: RuleDocument
    watcher: Watcher
    provided: Test | None
    within_hours: Callable[[Instant], bool] | None
    hold_off_key: Callable[[Event], str] | None
    #: What each step asks when it is due; None where it asks nothing.
    steps: tuple[StepTest | None, ...]
    #: What its conditions look at besides the event.
    looks_at: frozenset[Pair]


Index = dict[tuple[str, str], tuple[CompiledRule, ...]]


def compile_rule(live: LiveRule, facts: Facts, world: World) -> CompiledRule:
    """Compile one rule. Raises pydantic.ValidationError when the document is not valid."""
    document = RuleDocument.model_validate(live.document)
    return CompiledRule(
        id=live.id,
        revision=live.revision,
        document=document,
        watcher=document.cause.watcher(facts, world),
        provided=document.provided.compile("provided", world) if document.provided else None,
        within_hours=document.hours.compile(facts) if document.hours else None,
        steps=tuple(_step_test(step, f"response.{i}", facts, world) for i, step in enumerate(document.response)),
        looks_at=frozenset(document.looks_at(facts)),
        hold_off_key=_hold_off_key(document.hold_off, facts) if document.hold_off else None,
    )


def build_index(rules: list[CompiledRule], facts: Facts) -> Index:
    """(kind, point) -> the rules that must look at such an event."""
    index: dict[tuple[str, str], list[CompiledRule]] = defaultdict(list)
    for rule in rules:
        # A cause may name a point twice; it is still shown each event once.
        for key in dict.fromkeys(rule.document.cause.triggers(facts)):
            index[key].append(rule)
    return {key: tuple(found) for key, found in index.items()}


def _step_test(step: Action, path: str, facts: Facts, world: World) -> StepTest | None:
    """What a step asks of the world when it is due, besides being due."""
    if step.provided is None and step.hours is None:
        return None
    provided = step.provided.compile(f"{path}.provided", world) if step.provided else None
    within = step.hours.compile(facts) if step.hours else None

    def test(event: Event, at: Instant, seen: list[Seen]) -> bool:
        held = provided is None or provided(event, seen)
        if within is None:
            return held
        counts = within(at)
        seen.append((f"{path}.hours", counts, at))
        return held and counts

    return test


def _hold_off_key(hold_off: HoldOff, facts: Facts) -> Callable[[Event], str]:
    if hold_off.per == "rule":
        return lambda event: ""
    if hold_off.per == "point":
        return lambda event: event.point
    if hold_off.per == "area":
        areas = {p.id: p.area or "" for p in facts.points}
        return lambda event: areas.get(event.point, "")
    name = hold_off.field

    def of_field(event: Event) -> str:
        # What was sent without the field is one subject, apart from every value that the field can have.
        value = event.fields.get(name)
        return "-" if value is None else f"={str(value)[:200]}"

    return of_field
