"""Things as tables: CSV out, and in again, where good lines are taken and each faulty one is named."""

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass, field

from django.db import transaction

from dromikon.core.rules.document import Problem
from dromikon.people.access import Access
from dromikon.refusals import Refused
from dromikon.setup.points import PointDocument, Points, Surroundings, fill, set_sightlines, sightlines_of
from dromikon.setup.sort import change, refuse
from dromikon.sources.models import Point, Sightline

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
#: So many points are written in one transaction.
GROUP = 200


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
    taken, good = Taken(), []
    reading = _Reading(access)
    for number, line in _lines(text):
        try:
            read = reading.take(line)
        except Refused as refused:
            said = "; ".join(f"{p.path}: {p.message}" if p.path else p.message for p in refused.problems)
            taken.problems.append(Problem(path=str(number), message=said))
            continue
        taken.same += read is None
        good += [read] if read else []
    for start in range(0, len(good), GROUP):
        _store(good[start : start + GROUP])
    taken.added = sum(read.new for read in good)
    taken.changed = len(good) - taken.added
    if good:
        with change(access, "imported points", "points", f"{taken.added} added, {taken.changed} changed"):
            pass
    return taken


def _store(group: "list[_Read]") -> None:
    """A group of lines in one transaction: the writer is given back after each."""
    fields = [f.name for f in Point._meta.concrete_fields if not f.primary_key]
    with transaction.atomic():
        Point.objects.bulk_create(read.point for read in group if read.new)
        Point.objects.bulk_update([read.point for read in group if not read.new], fields)
        for read in group:
            if not read.new:
                set_sightlines(read.point, read.document)
        Sightline.objects.bulk_create(
            line for read in group if read.new for line in sightlines_of(read.point, read.document)
        )


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


@dataclass(frozen=True, slots=True)
class _Read:
    """A line that was understood and says something new."""

    point: Point
    document: PointDocument
    new: bool


class _Reading:
    """Reads lines into points, without writing any: what a line names must be there, or stand in a line before it."""

    def __init__(self, access: Access) -> None:
        self.site = access.site
        self.around = Surroundings(access.site)
        self.rows = {row.id: row for row in Points().rows(access)}
        around = self.around
        self.known = {
            "area": {a.name.casefold(): a.id for a in around.areas.values()},
            "device": {d.name.casefold(): d.id for d in around.devices.values()},
            "recorder": {r.name.casefold(): r.id for r in around.recorders.values()},
            "camera": {p.name.casefold(): p.id for p in around.points.values() if p.kind == "camera"},
        }

    def take(self, cells: dict[str, str]) -> _Read | None:
        """What a line says; None when it is so already. Raises Refused."""
        id = cells.get("id", "")
        row = self.rows.get(id)
        if id and row is None:
            raise refuse("id", f"There is no point {id} at this site. Leave it empty for a new one.")
        before = row.document.model_dump(mode="json") if row else {}
        document = Points().read({**before, **self._document(cells)})
        if row is not None and document == row.document:
            return None
        point = self.around.points[id] if row else Point(site=self.site)
        fill(point, document, self.around)
        self.around.now_has(point)
        if document.kind == "camera":
            self.known["camera"][document.name.casefold()] = point.id
        return _Read(point, document, row is None)

    def _document(self, cells: dict[str, str]) -> dict[str, object]:
        """What of a point's document a line says; columns that are not there leave it as it was."""
        found: dict[str, object] = {k: cells[k] for k in ("name", "kind", "token", "recorder_channel") if k in cells}
        for column, sort in (("area", "area"), ("device", "device"), ("recorder", "recorder"), ("channel", "camera")):
            if column in cells:
                found[column] = self._ref(sort, cells[column], column)
        if "tags" in cells:
            found["tags"] = _several(cells["tags"].lower())
        if "waits" in cells:
            found["waits"] = cells["waits"] or 0
        if "seen_by" in cells and cells.get("kind") != "camera":
            found["seen_by"] = [self._ref("camera", name, "seen_by") for name in _several(cells["seen_by"])]
        return found

    def _ref(self, sort: str, name: str, column: str) -> dict[str, str] | None:
        if not name:
            return None
        id = self.known[sort].get(name.casefold())
        if id is None:
            raise refuse(column, f"There is no {sort} called {name}.")
        return {"id": id, "name": name}


def _several(cell: str) -> list[str]:
    return [part.strip() for part in cell.split(";") if part.strip()]
