"""Tables (CSV) over the API: what became of one, and one as a file."""

from typing import Any

from django.http import HttpResponse
from ninja import Schema

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


def as_file(table: str, name: str) -> HttpResponse:
    """A table to be kept as a file."""
    answer = HttpResponse(table, content_type=TABLE)
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer
