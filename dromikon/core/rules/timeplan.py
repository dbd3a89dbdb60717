"""The time plan: one rule on time axes, in seconds. Causes lie above the line, responses below it, the event at zero.

What goes by the end of the state or by an answer has an axis of its own behind: nobody knows before when that will be. A
long stretch in which nothing begins or ends is broken out of an axis, so that seconds beside an hour stay to be seen.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise

from dromikon.core.facts import Facts
from dromikon.core.rules.actions import Action
from dromikon.core.rules.actions.base import Anchor
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.parts import seconds
from dromikon.core.words import t

#: A stretch is broken out where it is more than so many times as long as all others together, and at least so long, in s.
MUCH, LONG = 3.0, 20.0
#: Room around what is drawn, as a share of it, and at least so many seconds.
ROOM, LEAST_ROOM = 0.07, 0.5


@dataclass(frozen=True, slots=True)
class Grip:
    """A number of the document that an edge stands for: `way` (1 or -1) times the edge's distance from `origin`, in s."""

    path: str
    origin: float
    way: int = 1


@dataclass(frozen=True, slots=True)
class Bar:
    """One bar. `start` and `end` in seconds from its axis's zero; `open_end` means "for as long as it lasts", `asks` that
    it is asked first whether it is to be done. `moves` shifts the whole of it, `begins` and `ends` one edge."""

    label: str
    above: bool
    start: float
    end: float
    part: str
    style: str
    open_end: bool = False
    asks: bool = False
    anchor: Anchor = "start"
    moves: Grip | None = None
    begins: Grip | None = None
    ends: Grip | None = None


@dataclass(frozen=True, slots=True)
class Axis:
    """One axis: what its zero is, and the stretches that are drawn of it, in order; between two of them it is broken."""

    anchor: Anchor
    zero: str
    stretches: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class TimePlan:
    """Bars, the axes that they lie on, and the moment the rule decides (seconds after what it looks at began)."""

    bars: tuple[Bar, ...]
    axes: tuple[Axis, ...]
    decided: float


def detector_wait(document: RuleDocument, facts: Facts) -> float:
    """The longest time any chosen detector watches before it reports, in seconds."""
    # What concerns the site as a whole comes from no point.
    points = {p for _, p in document.cause.triggers(facts) if p}
    return max((facts.point_by_id[p].waits for p in points), default=0.0)


def time_plan(document: RuleDocument, facts: Facts) -> TimePlan:
    """Zero is the event's own time. A detector's wait lies before it, the cause's own wait after it."""
    lasting = document.cause.waits
    bars = [*_causes(document, detector_wait(document, facts)), *_response(document)]
    return TimePlan(tuple(bars), tuple(_axes(bars)), lasting)


def _causes(document: RuleDocument, waited: float) -> Iterable[Bar]:
    lasting, held = document.cause.waits, document.hold_off
    if waited:
        yield Bar(t("detector watches {time}", time=seconds(waited)), True, -waited, 0.0, "cause", "wait")
    if lasting:
        path = document.cause.waits_by
        grip = Grip(f"cause.{path}", 0.0) if path else None
        yield Bar(t("must last {time}", time=seconds(lasting)), True, 0.0, lasting, "cause", "wait", ends=grip)
    if held:
        end = lasting + held.seconds
        grip = Grip("hold_off.seconds", lasting)
        yield Bar(t("quiet {time}", time=seconds(held.seconds)), True, lasting, end, "hold_off", "quiet", ends=grip)


def _response(document: RuleDocument) -> Iterable[Bar]:
    asked = min((s.after for s in document.response if s.asks and s.anchor == "start"), default=0.0)
    for i, step in enumerate(document.response):
        yield _step(step, f"response.{i}", document.cause.waits, asked)
    stop = document.stop
    if stop is not None and stop.unanswered is not None:
        begin = document.cause.waits + asked
        label = t("stop unless answered within {time}", time=seconds(stop.unanswered))
        grip = Grip("stop.unanswered", begin)
        yield Bar(label, False, begin, begin + stop.unanswered, "stop", "stop", ends=grip)


def _step(step: Action, part: str, lasting: float, asked: float) -> Bar:
    """What is about the time around zero goes by it; what waits for an answer, by the alarm; all else begins when the rule
    has decided."""
    anchor: Anchor = step.anchor if step.anchor in ("end", "acknowledged") else "start"
    origin = 0.0 if step.around_zero or anchor != "start" else lasting
    if step.anchor == "unanswered":
        origin = lasting + asked
    base = origin if step.around_zero else origin + step.after
    start, end = step.span()
    first, last = step.edges()
    return Bar(
        f"{t(step.label).lower()}{step.when()}", False, base + start, base + end, part, step.do,
        open_end=step.hold == "state", asks=step.provided is not None or step.hours is not None, anchor=anchor,
        moves=None if step.around_zero else Grip(f"{part}.after", origin + start),
        begins=Grip(f"{part}.{first}", base, -1) if first else None,
        ends=Grip(f"{part}.{last}", base) if last else None,
    )  # fmt: skip


def _axes(bars: list[Bar]) -> Iterable[Axis]:
    zeros: dict[Anchor, str] = {
        "start": t("it happens"), "end": t("it ends"), "acknowledged": t("somebody answers")
    }  # fmt: skip
    for anchor, zero in zeros.items():
        mine = [b for b in bars if b.anchor == anchor]
        if mine or anchor == "start":
            yield Axis(anchor, zero, stretches({0.0, *(e for b in mine for e in (b.start, b.end))}))


def stretches(marks: set[float]) -> tuple[tuple[float, float], ...]:
    """The parts of an axis that are drawn, so that each of the marks is on one of them, with room around it."""
    at = sorted(marks)
    gaps = sorted(((b - a, a) for a, b in pairwise(at)), reverse=True)
    total, broken = sum(length for length, _ in gaps), set()
    for length, after in gaps:
        rest = total - length
        if not rest or length < LONG or length <= MUCH * rest:
            break
        broken.add(after)
        total = rest
    room = max(LEAST_ROOM, total * ROOM)
    found, begin = [], at[0]
    for i, mark in enumerate(at):
        if mark in broken or i == len(at) - 1:
            found.append((begin - room, mark + room))
            begin = at[min(i + 1, len(at) - 1)]
    return tuple(found)
