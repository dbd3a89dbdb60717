"""Bookmarks as records."""

from collections.abc import Iterable, Sequence

from dromikon.archive.models import Bookmark
from dromikon.core.records.entry import Entry
from dromikon.daybook.models import RunRow
from dromikon.people.models import Person
from dromikon.records.sources.base import Names, Source


class Bookmarks(Source):
    sort, model = "bookmark", Bookmark

    def entries(self, rows: Sequence[Bookmark], names: Names) -> Iterable[Entry]:
        runs = {run.ref: run for run in RunRow.objects.filter(ref__in=[row.run for row in rows if row.run])}
        people = {p.pk: p.shown_name for p in Person.objects.filter(pk__in=[row.by_id for row in rows if row.by_id])}
        for row in rows:
            run = runs.get(row.run)
            rule = run.rule if run else ""
            yield Entry(
                site=row.site_id, sort=self.sort, ref=str(row.pk), at=row.zero, title=row.title,
                more=" ".join(filter(None, (row.note, *(f"#{tag}" for tag in row.tags)))), point=row.camera, rule=rule,
                area=names.area_of(row.camera), seq=run.event if run else None, person=people.get(row.by_id or 0, ""),
            ).found_by(*names.of(row.camera, rule))  # fmt: skip
