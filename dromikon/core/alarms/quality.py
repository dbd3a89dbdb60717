"""How good a site's alarms are for those who answer them, measured after IEC 62682 (and ANSI/ISA-18.2, EEMUA 191).

Pure: alarms in, figures out. An alarm stream is judged by what one person at a desk can deal with: about one alarm in ten
minutes for long, two at the most; more than ten in ten minutes is a flood.
"""

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import ceil

from dromikon.core.instants import Instant

MINUTE, HOUR, DAY = 60_000, 3_600_000, 86_400_000
STRETCH = 10 * MINUTE
#: Alarms in a stretch of ten minutes from which on it is a flood, and an hour's worth that is acceptable and that is the most.
FLOOD, ACCEPTABLE, MOST = 10, 6.0, 12.0
#: So many of one rule and point within a minute are chattering.
CHATTERS = 3
#: An alarm whose condition goes on for longer than a day is stale.
STALE = DAY
#: One that is over before anybody could have done anything is fleeting.
FLEETING = 10_000
#: Part of all alarms that each priority should have (IEC 62682 annex: about 80, 15 and 5 percent, and hardly any above).
GUIDANCE: Mapping[str, float] = {"critical": 0.01, "high": 0.05, "medium": 0.15, "low": 0.79}
#: So many causes are looked at first, and what they should have together.
TOP, TOP_SHARE = 10, 0.05


@dataclass(frozen=True, slots=True)
class Told:
    """One alarm. `repeats` are those that were joined to it; `outcome` as in core.alarms.states."""

    rule: str
    point: str
    priority: str
    raised_at: Instant
    ended_at: Instant | None = None
    answered_at: Instant | None = None
    lasting: bool = False
    outcome: str = ""
    repeats: int = 0
    shelved: int = 0
    suppressed: bool = False


@dataclass(frozen=True, slots=True)
class Pace:
    """How fast alarms were answered, in ms: half of them within `median`, nine of ten within `ninth`. None: none were."""

    median: int | None
    ninth: int | None
    answered: int
    unanswered: int


@dataclass(frozen=True, slots=True)
class Share:
    """A rule's part of what came. `false`: of those whose answer says what it was, the part that was false; None: none says."""

    rule: str
    count: int
    share: float
    repeats: int
    chattering: int
    stale: int
    fleeting: int
    shelved: int
    false: float | None
    pace: Pace


@dataclass(frozen=True, slots=True)
class Day:
    """One day: from when, how many alarms, the most in ten minutes, and how many stretches were floods."""

    start: Instant
    count: int
    peak: int
    floods: int


@dataclass(frozen=True, slots=True)
class Quality:
    """All figures of a period. `per_hour` is for each desk; `flooded`: the part of the period that was a flood."""

    count: int
    per_hour: float
    peak: int
    peak_at: Instant | None
    flooded: float
    floods: int
    chattering: int
    stale: int
    fleeting: int
    shelved: int
    suppressed: int
    spread: Mapping[str, float]
    outcomes: Mapping[str, int]
    false: float | None
    top_share: float
    pace: Pace
    days: tuple[Day, ...]
    rules: tuple[Share, ...]

    @property
    def level(self) -> str:
        """How the load is: acceptable, much, or too much."""
        return "good" if self.per_hour <= ACCEPTABLE else "much" if self.per_hour <= MOST else "too_much"


def quality(alarms: Iterable[Told], start: Instant, end: Instant, days: Sequence[Instant], desks: int = 1) -> Quality:
    """The figures from `start` to before `end`. `days`: where each day of the period begins, in the site's zone. Suppressed
    alarms were put before nobody, and count only as such. Raises ValueError for a period without a length."""
    if end <= start:
        raise ValueError("the period has no length")
    told = sorted((a for a in alarms if start <= a.raised_at < end), key=lambda a: a.raised_at)
    heard = [a for a in told if not a.suppressed]
    stretches = Counter((a.raised_at - start) // STRETCH for a in heard)
    peak_of, peak = max(stretches.items(), key=lambda item: item[1], default=(0, 0))
    floods = sum(1 for count in stretches.values() if count > FLOOD)
    rules = _shares(heard, end)
    return Quality(
        count=len(heard),
        per_hour=len(heard) / ((end - start) / HOUR) / max(1, desks),
        peak=peak,
        peak_at=start + peak_of * STRETCH if peak else None,
        flooded=floods / ceil((end - start) / STRETCH),
        floods=floods,
        chattering=sum(r.chattering for r in rules),
        stale=sum(r.stale for r in rules),
        fleeting=sum(r.fleeting for r in rules),
        shelved=sum(a.shelved for a in heard),
        suppressed=len(told) - len(heard),
        spread=_spread(heard),
        outcomes=Counter(a.outcome for a in heard if a.outcome),
        false=_false(heard),
        top_share=sum(r.count for r in rules[:TOP]) / len(heard) if heard else 0.0,
        pace=pace_of(heard),
        days=_days(heard, [*days, end]),
        rules=rules,
    )


def pace_of(alarms: Sequence[Told]) -> Pace:
    """How fast they were answered."""
    waited = sorted(max(0, a.answered_at - a.raised_at) for a in alarms if a.answered_at is not None)
    return Pace(_quantile(waited, 0.5), _quantile(waited, 0.9), len(waited), len(alarms) - len(waited))


def chattering(moments: Sequence[Instant]) -> int:
    """How many of some moments, in order, belong to a minute that has at least three of them."""
    found: set[int] = set()
    first = 0
    for last, at in enumerate(moments):
        while moments[first] <= at - MINUTE:
            first += 1
        if last - first + 1 >= CHATTERS:
            found.update(range(first, last + 1))
    return len(found)


def _shares(alarms: Sequence[Told], end: Instant) -> tuple[Share, ...]:
    """By rule, the one with most first."""
    by_rule: dict[str, list[Told]] = defaultdict(list)
    for alarm in alarms:
        by_rule[alarm.rule].append(alarm)
    found = [_share(rule, own, len(alarms), end) for rule, own in by_rule.items()]
    return tuple(sorted(found, key=lambda s: (-s.count, s.rule)))


def _share(rule: str, own: Sequence[Told], of_all: int, end: Instant) -> Share:
    at_points: dict[str, list[Instant]] = defaultdict(list)
    for alarm in own:
        at_points[alarm.point].append(alarm.raised_at)
    # What is joined to an alarm comes as often as what is not, but is told once: it chatters by its count.
    joined = sum(1 for a in own if a.repeats >= CHATTERS - 1)
    return Share(
        rule=rule,
        count=len(own),
        share=len(own) / of_all,
        repeats=sum(a.repeats for a in own),
        chattering=sum(chattering(moments) for moments in at_points.values()) + joined,
        stale=sum(1 for a in own if _lasted(a, end) > STALE),
        fleeting=sum(1 for a in own if a.ended_at is not None and a.ended_at - a.raised_at < FLEETING),
        shelved=sum(a.shelved for a in own),
        false=_false(own),
        pace=pace_of(own),
    )


def _lasted(alarm: Told, end: Instant) -> int:
    """How long its condition went on, as far as is known; 0 for what has no end of its own."""
    if alarm.ended_at is not None:
        return alarm.ended_at - alarm.raised_at
    return end - alarm.raised_at if alarm.lasting else 0


def _false(alarms: Iterable[Told]) -> float | None:
    said = [a.outcome for a in alarms if a.outcome]
    return said.count("false") / len(said) if said else None


def _spread(alarms: Sequence[Told]) -> Mapping[str, float]:
    counts = Counter(a.priority for a in alarms)
    return {priority: counts[priority] / len(alarms) if alarms else 0.0 for priority in GUIDANCE}


def _days(alarms: Sequence[Told], edges: Sequence[Instant]) -> tuple[Day, ...]:
    found = []
    for start, end in pairwise(edges):
        stretches = Counter((a.raised_at - start) // STRETCH for a in alarms if start <= a.raised_at < end)
        floods = sum(1 for count in stretches.values() if count > FLOOD)
        found.append(Day(start, stretches.total(), max(stretches.values(), default=0), floods))
    return tuple(found)


def _quantile(ordered: Sequence[int], part: float) -> int | None:
    """The smallest value that so many are at most as large as."""
    return ordered[max(0, ceil(part * len(ordered)) - 1)] if ordered else None
