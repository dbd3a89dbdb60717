"""The trace in words: for each part of a rule the value seen, the value wanted, and yes or no."""

from dataclasses import dataclass

from dromikon.core.facts import Facts
from dromikon.core.hours import wall_clock
from dromikon.core.rules.condition import Seen
from dromikon.core.rules.document import HoldOff, RuleDocument
from dromikon.core.rules.parts import seconds
from dromikon.core.words import t

OUTCOMES = {
    "fired": "fired",
    "not_provided": "conditions not met",
    "outside_hours": "not in its hours",
    "held_off": "held off",
    "joined": "joined to the open alarm",
    "summed_up": "kept back, summed up in one line",
    "extended": "held for longer",
    "still_running": "ignored, its steps are still running",
    "paused": "paused at its camera",
    "circular": "stopped: it had set itself off",
    "waiting": "waiting for what must follow",
    "called_off": "called off before its time was up",
    "initial": "state at first connection, starts nothing",
}


@dataclass(frozen=True, slots=True)
class TraceLine:
    """One part of a trace. `held` is None where the part is neither yes nor no."""

    part: str
    label: str
    seen: str
    wanted: str
    held: bool | None


def explain(
    document: RuleDocument, facts: Facts, outcome: str, seen: list[Seen], due: int | None = None
) -> list[TraceLine]:
    """The lines of one verdict, in the order of the document."""
    lines = [
        TraceLine(
            "cause", t("cause"), t(OUTCOMES[outcome] if outcome in ("waiting", "called_off") else "yes"), "", True
        )
    ]
    if outcome in ("waiting", "called_off", "initial"):
        wanted = t("lasting {seconds}", seconds=seconds(document.cause.waits)) if document.cause.waits else ""
        held = None if outcome == "waiting" else False
        return [TraceLine("cause", t("cause"), t(OUTCOMES[outcome]), wanted, held)]
    if outcome == "circular":
        lines.append(
            TraceLine("response", t("chain of events"), t("led back to this rule"), t("another rule's"), False)
        )
    if outcome == "paused":
        lines.append(TraceLine("cause", t("at its camera"), t("paused by somebody"), t("not paused"), False))
    if outcome in ("extended", "still_running"):
        lines.append(
            TraceLine("again", t("when it comes again"), t(OUTCOMES[outcome]), t("no steps pending or held"), False)
        )
    if outcome == "fired":
        seen = [*seen, *_nothing_kept_back(document)]
    for path, held, value in seen:
        if path == "hold_off" and document.hold_off:
            said = (
                t("quiet until {time}", time=f"{wall_clock(value, facts.zone):%H:%M:%S}")
                if value is not None
                else t("a firing may follow")
            )
            lines.append(TraceLine(path, "hold-off", said, _quiet_words(document.hold_off), held))
        elif path == "again":
            lines.append(
                TraceLine(
                    path, t("when it comes again"), t("no steps pending or held"), t("no steps pending or held"), held
                )
            )
        else:
            lines += asked_lines(document, facts, [(path, held, value)])
    return lines


def asked_lines(document: RuleDocument, facts: Facts, seen: list[Seen]) -> list[TraceLine]:
    """What conditions and hours saw, those of the rule or those of a step."""
    kind, hours = document.cause.event_kind(), dict(document.within())
    leaves = {path: leaf for root, _, tree in document.conditions() for path, leaf in tree.leaves(root)}
    lines = []
    for path, held, value in seen:
        if path in hours:
            lines.append(TraceLine(path, *hours[path].explained(facts, value), held))
        elif path in leaves:
            lines.append(TraceLine(path, *leaves[path].explained(facts, kind, value), held))
    return lines


def _nothing_kept_back(document: RuleDocument) -> list[Seen]:
    """Parts that would have kept a firing back, and did not."""
    kept: list[Seen] = [("hold_off", True, None)] if document.hold_off else []
    return [*kept, ("again", True, None)] if document.again in ("extend", "ignore") else kept


def _quiet_words(part: HoldOff) -> str:
    if part.most > 1:
        return t("fewer than {most} firings in {seconds}", most=part.most, seconds=seconds(part.seconds))
    return t("no firing in the {seconds} before", seconds=seconds(part.seconds))
