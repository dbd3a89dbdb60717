"""Events as records: found by what they are called, where they were, and what they told."""

from collections.abc import Iterable, Sequence
from typing import Any

from django.db.models import QuerySet

from dromikon.core.kinds import HIDDEN, KINDS, NOT_COMPARED, public_fields
from dromikon.core.records.entry import Entry
from dromikon.daybook.models import EventRow
from dromikon.records.sources.base import Names, Source

#: What says nothing by itself.
MUTE = ("object", "box")


class Events(Source):
    sort, model, key = "event", EventRow, "seq"

    def rows(self) -> QuerySet[Any]:
        # What was only learned at a start did not happen.
        return EventRow.objects.filter(initial=False)

    def entries(self, rows: Sequence[EventRow], names: Names) -> Iterable[Entry]:
        for row in rows:
            kind = KINDS.get(row.kind)
            yield Entry(
                site=row.site, sort=self.sort, ref=str(row.seq), at=row.occurred_at, kind=row.kind, point=row.point,
                title=row.phase if row.phase in ("begin", "end") else "", more=told(row), seq=row.seq,
                area=names.area_of(row.point), person=str(row.fields.get("person") or "")[:150],
                outcome="test" if row.test else "late" if row.late else "",
            ).found_by(kind.label if kind else row.kind, *names.of(row.point))  # fmt: skip


def told(row: EventRow) -> str:
    """What an event told, in a line: what stands for somebody's face is left out."""
    kind = KINDS.get(row.kind)
    known = {f.name: f for f in (kind.fields if kind else ())}
    said: list[str] = []
    for name, value in public_fields(row.fields).items():
        field = known.get(name)
        if value in (None, "", HIDDEN) or name in MUTE or (field is not None and field.type in NOT_COMPARED):
            continue
        shown = f"{value:g}" if isinstance(value, float) else str(value)
        if name == "unit" and said:
            said[-1] += f" {shown}"
        elif field is None or (field.type == "number" and name != "value"):
            said.append(f"{field.label if field else name} {shown} {field.unit if field else ''}".strip())
        else:
            said.append(f"{shown} {field.unit}".strip())
    return " · ".join(said)
