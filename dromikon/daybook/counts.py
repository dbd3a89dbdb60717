"""Where counters stood, and how much they were counted up and down, by quarters of an hour: written with what counted."""

from collections.abc import Iterable

from dromikon.core.counting import QUARTER, Counts, quarter_of
from dromikon.core.instants import Instant
from dromikon.daybook.models import CountRow
from dromikon.daybook.storage import Row


class Counted:
    """What one transaction counts."""

    def __init__(self) -> None:
        self._rows: dict[tuple[str, str, Instant], Counts] = {}

    def passed(self, site: str, counter: str, at: Instant, came: int, went: int) -> None:
        """A rule counted up or down."""
        self._add(site, counter, at, came=came, went=went)

    def stands(self, site: str, counter: str, at: Instant, value: int) -> None:
        """Wherever it came from, it stands there now."""
        self._add(site, counter, at, most=value, stands=value)

    def _add(
        self, site: str, counter: str, at: Instant, came: int = 0, went: int = 0, most: int | None = None,
        stands: int | None = None,
    ) -> None:  # fmt: skip
        start = quarter_of(at)
        known = self._rows.get((site, counter, start), Counts(start, start + QUARTER))
        self._rows[site, counter, start] = known.with_(Counts(start, start + QUARTER, came, went, most, stands))

    def rows(self) -> Iterable[Row]:
        return [
            (site, counter, start, c.came, c.went, c.most, c.stands) for (site, counter, start), c in self._rows.items()
        ]


def quarters(site: str, counter: str, start: Instant, end: Instant) -> list[Counts]:
    """What was counted in a stretch, in order; quarters in which nothing was are left out."""
    rows = CountRow.objects.filter(site=site, counter=counter, start__gte=start, start__lt=end).order_by("start")
    return [
        Counts(at, at + QUARTER, came, went, most, stands)
        for at, came, went, most, stands in rows.values_list("start", "came", "went", "most", "stands")
    ]
