"""What a counter counted over a while, beside the same while a week before."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dromikon.core.counting import DAY, Counts, Step, bars, day_start, whole
from dromikon.core.hours import wall_clock
from dromikon.core.instants import Instant, iso
from dromikon.core.rules.document import Problem
from dromikon.core.words import N_, t
from dromikon.daybook.counts import quarters
from dromikon.people.access import Access
from dromikon.refusals import Refused
from dromikon.sites.models import Counter

#: What is shown of it: how many days, in which steps, and how it is called.
PERIODS: Mapping[str, tuple[int, Step, str]] = {
    "day": (1, "quarter", N_("a day by quarter hours")),
    "hours": (1, "hour", N_("a day by hours")),
    "week": (7, "day", N_("a week by days")),
    "month": (28, "day", N_("four weeks by days")),
    "year": (364, "week", N_("a year by weeks")),
}
#: An export holds no more steps than this.
MOST_STEPS = 20_000
WEEK = 7 * DAY


@dataclass(frozen=True, slots=True)
class Measured:
    """A while in steps, and each step a week (or, of longer ones, as long) before; the totals of both."""

    counter: Counter
    start: Instant
    end: Instant
    steps: list[Counts]
    before: list[Counts]

    @property
    def total(self) -> Counts:
        return whole(self.steps, self.start, self.end)

    @property
    def total_before(self) -> Counts:
        return whole(self.before, self.before[0].start, self.before[-1].end)

    @property
    def fullest(self) -> Counts | None:
        """The step in which most were inside; None where nothing was counted."""
        return max((s for s in self.steps if s.most is not None), key=lambda s: s.most or 0, default=None)


def counter_of(access: Access, id: str) -> Counter | None:
    """A counter of the site; None where there is none such."""
    return Counter.objects.filter(site=access.site, pk=id, retired_at=None).first()


def measured(access: Access, counter: Counter, period: str, last: Instant) -> Measured:
    """A period that ends with the day in which an instant lies, on the site's wall clock. Steps are compared with those of the week
    before; a period that is longer than a week with the one before it."""
    days, step, _ = PERIODS[period]
    zone = access.site.zone
    end = day_start(last, zone, 1)
    start = day_start(end, zone, -days)
    back = max(days, 7)
    then = day_start(start, zone, -back), day_start(end, zone, -back)
    return Measured(counter, start, end, _bars(access, counter, start, end, step), _bars(access, counter, *then, step))


def _bars(access: Access, counter: Counter, start: Instant, end: Instant, step: Step) -> list[Counts]:
    found = quarters(access.site.id, counter.id, start - WEEK, end + WEEK)
    return bars(found, start, end, step, access.site.zone)


def between(access: Access, counter: Counter, start: Instant, end: Instant, step: Step) -> list[Counts]:
    """Any stretch in steps, for a table. Raises Refused where that is more than a table should hold."""
    if end <= start or (end - start) // 900_000 > MOST_STEPS:
        raise Refused([Problem(path="end", message=f"A stretch ends after it begins; at most {MOST_STEPS} steps.")])
    return _bars(access, counter, start, end, step)


def table_of(steps: Sequence[Counts], zone: str) -> list[list[str | int]]:
    """Head and rows. Times as ISO 8601 in UTC, and by the site's wall clock."""
    head: list[str | int] = [t("From (UTC)"), t("From"), t("Came"), t("Went"), t("Most inside"), t("Inside at the end")]
    return [head, *([iso(s.start), _wall(s.start, zone), s.came, s.went, _or(s.most), _or(s.stands)] for s in steps)]


def _or(value: int | None) -> str | int:
    return "" if value is None else value


def _wall(at: Instant, zone: str) -> str:
    return wall_clock(at, zone).strftime("%Y-%m-%d %H:%M")
