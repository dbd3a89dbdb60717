"""Points as a table."""

from dataclasses import dataclass

from django.db import transaction

from dromikon.people.access import Access
from dromikon.refusals import Refused
from dromikon.setup.lines import Taken, read, written
from dromikon.setup.points import PointDocument, Points, Surroundings, fill, set_sightlines, sightlines_of
from dromikon.setup.sort import Row, change, refuse
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
    "usually_on",
    "unit",
    "deadband",
    "at_least_every",
    "stale_after",
    "seen_by",
    "recorder",
    "recorder_channel",
)
#: So many points are written in one transaction.
GROUP = 200


def points_as_table(access: Access) -> str:
    """All points of a site as CSV, references by name."""
    return written(COLUMNS, (_cells(row) for row in Points().rows(access)))


def _cells(row: Row) -> list[object]:
    d = row.document.model_dump(mode="json")
    named = {k: (d[k] or {}).get("name", "") for k in ("area", "device", "channel", "recorder")}
    many = {"tags": "; ".join(d["tags"]), "seen_by": "; ".join(r["name"] for r in d["seen_by"])}
    told = {"usually_on": "yes" if d["usually_on"] else ""}
    return [{**d, **named, **many, **told, "id": row.id}[column] for column in COLUMNS]


def take_points(access: Access, text: str) -> Taken:
    """Add and change points as a table says; a line with the id of a point changes it, others add one. Good lines are taken,
    faulty ones named. Raises Refused when it is no such table."""
    access.need(Points.may)
    taken, good = Taken(), []
    reading = _Reading(access)
    for number, line in read(text, COLUMNS, ("name", "kind")):
        try:
            understood = reading.take(line)
        except Refused as refused:
            taken.refuse(number, refused)
            continue
        taken.same += understood is None
        good += [understood] if understood else []
    for start in range(0, len(good), GROUP):
        _store(good[start : start + GROUP])
    taken.added = sum(understood.new for understood in good)
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
        found |= {name: cells[name] or 0 for name in ("deadband", "at_least_every", "stale_after") if name in cells}
        if "unit" in cells:
            found["unit"] = cells["unit"]
        if "usually_on" in cells:
            found["usually_on"] = cells["usually_on"].lower() in ("yes", "true", "1")
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
