"""Tables (CSV, XLSX) over the API: what became of one, and one as a file."""

from collections.abc import Sequence
from typing import Any, Literal

from django.http import HttpResponse
from ninja import Schema

from dromikon.authoring.tables import Table, csv_of, xlsx_of
from dromikon.setup.lines import Taken

TABLE = "text/csv; charset=utf-8"
SHEET = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


class TakenOut(Schema):
    """Of a table's lines: how many added something, changed something, or said what was so already; and what was wrong with
    others. The path of a problem is the number of its line."""

    added: int
    changed: int
    same: int
    problems: list[dict[str, str]]


def said_of(taken: Taken) -> dict[str, Any]:
    return {
        "added": taken.added, "changed": taken.changed, "same": taken.same,
        "problems": [p.model_dump() for p in taken.problems],
    }  # fmt: skip


def as_sheet(table: Table, name: str, title: str, form: Literal["csv", "xlsx"], widths: Sequence[int]) -> HttpResponse:
    """A table to be kept as a file of either sort. `title`: of its sheet; `widths`: of its columns, as `xlsx_of` has them."""
    if form == "csv":
        return as_file(csv_of(table), f"{name}.csv")
    return as_file(xlsx_of(table, title, widths), f"{name}.xlsx", SHEET)


def as_file(content: str | bytes, name: str, media: str = TABLE) -> HttpResponse:
    """Something to be kept as a file."""
    answer = HttpResponse(content, content_type=media)
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer
