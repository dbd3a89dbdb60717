"""Runs as records: a rule that fired, and how its steps went."""

from collections.abc import Iterable, Sequence

from django.db.models import Count

from dromikon.core.records.entry import Entry
from dromikon.daybook.models import RunRow, Step
from dromikon.records.sources.base import Names, Source

#: How a run went is the worst of how its steps went.
WORST = (
    Step.Status.FAILED, Step.Status.UNCONFIRMED, Step.Status.EXPIRED, Step.Status.SENDING, Step.Status.DUE, Step.Status.DONE,
    Step.Status.DROPPED,
)  # fmt: skip
GOING_ON = (Step.Status.SENDING, Step.Status.DUE)


class Runs(Source):
    sort, model = "run", RunRow

    def entries(self, rows: Sequence[RunRow], names: Names) -> Iterable[Entry]:
        steps: dict[str, dict[str, int]] = {}
        counted = Step.objects.filter(run__in=[row.ref for row in rows]).values("run", "status").annotate(n=Count("id"))
        for run, status, count in counted.values_list("run", "status", "n"):
            steps.setdefault(run, {})[status] = count
        for row in rows:
            went = next((status for status in WORST if status in steps.get(row.ref, {})), "")
            yield Entry(
                site=row.site, sort=self.sort, ref=str(row.pk), at=row.zero, title=row.rule_name, point=row.point, rule=row.rule,
                area=names.area_of(row.point), seq=row.event, outcome="test" if row.test else str(went),
                open=row.ended_at is None or went in GOING_ON,
            ).found_by(*names.of(row.point))  # fmt: skip
