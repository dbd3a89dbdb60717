"""What people did as records, out of the audit trail."""

from collections.abc import Iterable, Sequence
from typing import Any

from django.db.models import QuerySet

from dromikon.core.records.entry import Entry
from dromikon.people.models import AuditEntry
from dromikon.records.sources.base import Names, Source


class Acts(Source):
    sort, model = "act", AuditEntry

    def rows(self) -> QuerySet[Any]:
        return AuditEntry.objects.exclude(site=None)

    def entries(self, rows: Sequence[AuditEntry], names: Names) -> Iterable[Entry]:
        for row in rows:
            about, _, id = row.subject.partition(":")
            point, rule = (id if about == "point" else ""), (id if about == "rule" else "")
            yield Entry(
                site=row.site_id or "", sort=self.sort, ref=str(row.pk), at=row.at, title=row.verb, more=said(row.detail), point=point,
                rule=rule, area=names.area_of(point), person=row.name,
            ).found_by(row.subject, *names.of(point, rule))  # fmt: skip


def said(detail: dict[str, Any]) -> str:
    """What an act was about, in a line: its texts, without what only programs read."""
    texts = (v for v in detail.values() if isinstance(v, str | int | float) and not isinstance(v, bool))
    lists = (str(one) for v in detail.values() if isinstance(v, list) for one in v if isinstance(one, str))
    return " · ".join([*map(str, texts), *lists])
