"""Things as tables: CSV out, and in again, where good lines are taken and each faulty one is named."""

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass, field

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.rules.document import Problem
from dromikon.daybook.services import record_act
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.refusals import Refused
from dromikon.setup.points import Points, fill, store
from dromikon.setup.sort import refuse
from dromikon.sites.models import Area
from dromikon.sources.models import Device, Point, Recorder

COLUMNS = (
    "id",
    "name",
    "kind",
    "area",
    "device",
    "channel",
    "token",
    "tags",
    "waits",
    "seen_by",
    "recorder",
    "recorder_channel",
)
#: More lines than this are not one table.
MOST = 20_000


@dataclass(slots=True)
class Taken:
    """What became of a table: how many lines were new or changed something, and what was wrong with others, as problems
    whose path is the number of the line, the heading being the first."""

    added: int = 0
    changed: int = 0
    same: int = 0
    problems: list[Problem] = field(default_factory=list)


def points_as_table(access: Access) -> str:
    """All points of a site as CSV, references by name."""
    out = io.StringIO()
    written = csv.writer(out, lineterminator="\r\n")
    written.writerow(COLUMNS)
    for row in Points().rows(access):
        d = row.document.model_dump(mode="json")
        named = {k: (d[k] or {}).get("name", "") for k in ("area", "device", "channel", "recorder")}
        many = {"tags": "; ".join(d["tags"]), "seen_by": "; ".join(r["name"] for r in d["seen_by"])}
        written.writerow([_safe({**d, **named, **many, "id": row.id}[column]) for column in COLUMNS])
    return out.getvalue()


def _safe(value: object) -> str:
    """Spreadsheets must not take a name for a formula."""
    text = "" if value is None else str(value)
    return f"'{text}" if text[:1] in ("=", "+", "-", "@") else text


def take_points(access: Access, text: str) -> Taken:
    """Add and change points as a table says; a line with the id of a point changes it, others add one. Good lines are taken,
    faulty ones named. Raises Refused when it is no such table."""
    access.need(Points.may)
    taken, names = Taken(), _Names(access)
    with transaction.atomic():
        for number, line in _lines(text):
            try:
                with transaction.atomic():
                    _take(access, line, names, taken)
            except Refused as refused:
                said = "; ".join(f"{p.path}: {p.message}" if p.path else p.message for p in refused.problems)
                taken.problems.append(Problem(path=str(number), message=said))
        if taken.added or taken.changed:
            at = now_ms()
            record(
                access.site, access.person, "imported points", "points", at, added=taken.added, changed=taken.changed
            )
            record_act(access.site.id, "facts", at)
    return taken


def _lines(text: str) -> Iterator[tuple[int, dict[str, str]]]:
    sample = text.lstrip("\ufeff")
    first = sample.splitlines()[0] if sample.strip() else ""
    table = csv.DictReader(io.StringIO(sample), delimiter=";" if first.count(";") > first.count(",") else ",")
    heads = [h.strip().lower() for h in table.fieldnames or ()]
    if "name" not in heads or "kind" not in heads:
        raise refuse("", "The first line must name the columns; name and kind are needed.")
    unknown = [h for h in heads if h not in COLUMNS]
    if unknown:
        raise refuse("", f"There is no column {unknown[0]}. Columns are {', '.join(COLUMNS)}.")
    try:
        for line in table:
            if table.line_num > MOST:
                raise refuse("", f"A table has at most {MOST} lines.")
            cells = {k.strip().lower(): (v or "").strip().removeprefix("'") for k, v in line.items() if k}
            if any(cells.values()):
                yield table.line_num, cells
    except csv.Error as error:
        raise refuse("", f"The table cannot be read at line {table.line_num}: {error}.") from error


class _Names:
    """What the cells of a table may name."""

    def __init__(self, access: Access) -> None:
        def by_name(model: type[Area | Device | Recorder]) -> dict[str, str]:
            known = model.objects.filter(site=access.site, retired_at=None)
            return {name.casefold(): id for id, name in known.values_list("id", "name")}

        self.known = {"area": by_name(Area), "device": by_name(Device), "recorder": by_name(Recorder)}
        cameras = Point.objects.filter(site=access.site, kind="camera", retired_at=None).values_list("id", "name")
        self.known["camera"] = {name.casefold(): id for id, name in cameras}
        self.rows = {row.id: row for row in Points().rows(access)}

    def ref(self, sort: str, name: str, column: str) -> dict[str, str] | None:
        if not name:
            return None
        id = self.known[sort].get(name.casefold())
        if id is None:
            raise refuse(column, f"There is no {sort} called {name}.")
        return {"id": id, "name": name}


def _take(access: Access, cells: dict[str, str], names: _Names, taken: Taken) -> None:
    id = cells.get("id", "")
    row = names.rows.get(id)
    if id and row is None:
        raise refuse("id", f"There is no point {id} at this site. Leave it empty for a new one.")
    before = row.document.model_dump(mode="json") if row else {}
    document = Points().read({**before, **_document(cells, names)})
    if row is not None and document == row.document:
        taken.same += 1
        return
    point = Point.objects.get(pk=id) if row else Point(site=access.site)
    fill(access, point, document)
    store(point, document, new=row is None)
    if document.kind == "camera":
        names.known["camera"][document.name.casefold()] = point.id
    taken.added += row is None
    taken.changed += row is not None


def _document(cells: dict[str, str], names: _Names) -> dict[str, object]:
    """What of a point's document a line says; columns that are not there leave it as it was."""
    found: dict[str, object] = {k: cells[k] for k in ("name", "kind", "token", "recorder_channel") if k in cells}
    for column, sort in (("area", "area"), ("device", "device"), ("recorder", "recorder"), ("channel", "camera")):
        if column in cells:
            found[column] = names.ref(sort, cells[column], column)
    if "tags" in cells:
        found["tags"] = [tag.strip().lower() for tag in cells["tags"].split(";") if tag.strip()]
    if "waits" in cells:
        found["waits"] = cells["waits"] or 0
    if "seen_by" in cells and cells.get("kind") != "camera":
        cameras = [c.strip() for c in cells["seen_by"].split(";") if c.strip()]
        found["seen_by"] = [names.ref("camera", c, "seen_by") for c in cameras]
    return found
