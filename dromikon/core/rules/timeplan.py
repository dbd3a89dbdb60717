"""The time plan: one rule on one axis, in seconds around zero. Causes lie above the line, responses below it."""

from dataclasses import dataclass

from dromikon.core.facts import Facts
from dromikon.core.rules.document import RuleDocument
from dromikon.core.words import t


@dataclass(frozen=True, slots=True)
class Bar:
    """One bar. `start` and `end` in seconds from zero; `open_end` means "for as long as it lasts", `asks` that it is
    asked first whether it is to be done."""

    label: str
    above: bool
    start: float
    end: float
    part: str
    style: str
    open_end: bool = False
    asks: bool = False


@dataclass(frozen=True, slots=True)
class TimePlan:
    """Bars, and the moment the rule decides (seconds after what it looks at began)."""

    bars: tuple[Bar, ...]
    decided: float
    first: float
    last: float


def detector_wait(document: RuleDocument, facts: Facts) -> float:
    """The longest time any chosen detector watches before it reports, in seconds."""
    # What concerns the site as a whole comes from no point.
    points = {p for _, p in document.cause.triggers(facts) if p}
    return max((facts.point_by_id[p].waits for p in points), default=0.0)


def time_plan(document: RuleDocument, facts: Facts) -> TimePlan:
    """Zero is the event's own time. A detector's wait lies before it, the cause's own wait after it."""
    waited, lasting = detector_wait(document, facts), document.cause.waits
    bars = []
    if waited:
        bars.append(Bar(f"detector watches {waited:g} s", True, -waited, 0.0, "cause", "wait"))
    if lasting:
        bars.append(Bar(f"must last {lasting:g} s", True, 0.0, lasting, "cause", "wait"))
    if document.hold_off:
        quiet = document.hold_off.seconds
        bars.append(Bar(f"quiet {quiet:g} s", True, lasting, lasting + quiet, "hold_off", "quiet"))
    for i, step in enumerate(document.response):
        start, end = step.span()
        # What is about the time around zero goes by it; everything else begins when the rule has decided.
        base = 0.0 if step.around_zero else lasting + step.after
        bars.append(
            Bar(
                f"{t(step.label).lower()}{step.when()}",
                False,
                base + start,
                base + end,
                f"response.{i}",
                step.do,
                open_end=step.hold == "state",
                asks=step.provided is not None or step.hours is not None,
            )
        )
    return TimePlan(
        tuple(bars),
        lasting,
        min([b.start for b in bars], default=0.0),
        max([b.end for b in bars if b.style != "quiet"], default=0.0),
    )
