"""What left the building as records: to whom or what, what it answered, and what became of it."""

from collections.abc import Iterable, Sequence
from typing import Any

from django.db.models import QuerySet

from dromikon.core.records.entry import Entry
from dromikon.core.rules.actions import ACTIONS
from dromikon.daybook.deliveries import OUTSIDE
from dromikon.daybook.models import RunRow, Step
from dromikon.people.models import Person
from dromikon.records.sources.base import Names, Source


class Deliveries(Source):
    sort, model = "delivery", Step

    def rows(self) -> QuerySet[Any]:
        return Step.objects.filter(OUTSIDE)

    def entries(self, rows: Sequence[Step], names: Names) -> Iterable[Entry]:
        runs = {run.ref: run for run in RunRow.objects.filter(ref__in={row.run for row in rows})}
        people = _people(rows)
        for row in rows:
            run, action = runs.get(row.run), ACTIONS.get(row.action)
            point = row.target if row.target in names.points else run.point if run else ""
            to = people.get(row.target) or names.points.get(row.target, (row.target, ""))[0]
            rule = run.rule if run else ""
            yield Entry(
                site=row.site, sort=self.sort, ref=str(row.pk), at=row.sent_at or row.due, title=action.label if action else row.action,
                more=" · ".join(filter(None, (to, row.answer))), point=point, rule=rule, area=names.area_of(point),
                seq=run.event if run else None, outcome=row.status, open=row.status in (Step.Status.DUE, Step.Status.SENDING),
            ).found_by(*names.of(point, rule))  # fmt: skip


def _people(rows: Sequence[Step]) -> dict[str, str]:
    """What the persons are called that steps go to."""
    targets = {row.target for row in rows if row.target.startswith("person:")}
    numbers = [number for target in targets if (number := target.partition(":")[2]).isdigit()]
    return {f"person:{p.pk}": p.shown_name for p in Person.objects.filter(pk__in=numbers)}
