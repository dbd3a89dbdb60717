"""Lines that rules wrote into the daybook as records."""

from collections.abc import Iterable, Sequence

from dromikon.core.records.entry import Entry
from dromikon.daybook.models import LineRow, RunRow
from dromikon.records.sources.base import Names, Source


class Lines(Source):
    sort, model = "line", LineRow

    def entries(self, rows: Sequence[LineRow], names: Names) -> Iterable[Entry]:
        runs = {run.ref: run for run in RunRow.objects.filter(ref__in=[row.run for row in rows if row.run])}
        for row in rows:
            run = runs.get(row.run)
            rule = run.rule if run else ""
            yield Entry(
                site=row.site, sort=self.sort, ref=str(row.pk), at=row.at, title=row.text, point=row.point, rule=rule,
                area=names.area_of(row.point), seq=run.event if run else None,
            ).found_by(*names.of(row.point, rule))  # fmt: skip
