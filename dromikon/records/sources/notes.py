"""What operators wrote down in their log as records."""

from collections.abc import Iterable, Sequence

from dromikon.core.records.entry import Entry
from dromikon.desk.models import ShiftNote
from dromikon.records.sources.base import Names, Source


class Notes(Source):
    sort, model = "note", ShiftNote

    def entries(self, rows: Sequence[ShiftNote], names: Names) -> Iterable[Entry]:
        for row in rows:
            entry = Entry(row.site_id, self.sort, str(row.pk), row.at, title=row.text, more=row.text, person=row.name)
            yield entry.found_by()
