"""The matrix as a table: CSV, and XLSX to be handed out."""

from dromikon.core.rules.matrix import Cell, Matrix, Row
from dromikon.core.words import t

#: How wide its columns are: what a rule says, then what it does.
WIDTHS = (42, 42, 42, 42, 42, 14)


def table_of(made: Matrix) -> list[list[str]]:
    """Head and rows as texts."""
    head = [t("Rule"), t("On"), t("Cause"), t("Provided"), t("Hours"), *(c.words for c in made.columns)]
    return [head, *(_cells(row, made) for row in made.rows)]


def _cells(row: Row, made: Matrix) -> list[str]:
    told = [row.name, t("yes") if row.on else t("no"), row.cause, row.provided, row.hours]
    return [*told, *(" · ".join(map(_told, row.cells.get(column, ()))) for column in made.columns)]


def _told(cell: Cell) -> str:
    """A cell that says no more than that it is done has a cross."""
    return " ".join(x for x in (t(cell.priority) if cell.priority else "", cell.words) if x) or "×"
