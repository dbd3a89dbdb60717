"""Alarms as records, with who answered, what it was, and what was said of it."""

from collections.abc import Iterable, Sequence
from typing import Any

from django.db.models import QuerySet

from dromikon.core.alarms.states import AlarmState
from dromikon.core.records.entry import Entry
from dromikon.daybook.models import RunRow
from dromikon.desk.models import Alarm
from dromikon.records.sources.base import Names, Source


class Alarms(Source):
    sort, model = "alarm", Alarm

    def rows(self) -> QuerySet[Any]:
        return Alarm.objects.all()

    def entries(self, rows: Sequence[Alarm], names: Names) -> Iterable[Entry]:
        events = dict(RunRow.objects.filter(ref__in=[row.run for row in rows]).values_list("ref", "event"))
        for row in rows:
            said = (row.note, *(f"#{tag}" for tag in row.tags), row.shelved_why)
            yield Entry(
                site=row.site_id, sort=self.sort, ref=str(row.pk), at=row.zero, title=row.title, more=" ".join(filter(None, said)),
                point=row.point, rule=row.rule, area=names.area_of(row.point), seq=events.get(row.run),
                person=row.acknowledged_name, outcome=row.outcome or row.state, groups=row.groups_text,
                open=row.state != AlarmState.CLOSED,
            ).found_by(row.priority, *names.of(row.point, row.rule))  # fmt: skip
