"""The matrix as a table: CSV, and XLSX as spreadsheets open it."""

import csv
import io

import xlsxwriter

from dromikon.core.rules.matrix import Cell, Matrix, Row
from dromikon.core.words import t

#: What a spreadsheet would take for the beginning of a formula.
FORMULA = ("=", "+", "-", "@", "\t", "\r")
WIDE, NARROW = 42, 14


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


def as_csv(made: Matrix) -> str:
    out = io.StringIO()
    # What begins like a formula is told apart by a quote, as spreadsheets do.
    csv.writer(out).writerows([[f"'{x}" if x.startswith(FORMULA) else x for x in row] for row in table_of(made)])
    return out.getvalue()


def as_xlsx(made: Matrix) -> bytes:
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    sheet = book.add_worksheet(t("Matrix"))
    bold, wrapped = (
        book.add_format({"bold": True, "text_wrap": True}),
        book.add_format({"text_wrap": True, "valign": "top"}),
    )
    for y, row in enumerate(table_of(made)):
        for x, text in enumerate(row):
            sheet.write_string(y, x, text, wrapped if y else bold)
    sheet.set_column(0, 4, WIDE)
    sheet.set_column(5, 4 + len(made.columns), NARROW)
    sheet.freeze_panes(1, 1)
    book.close()
    return out.getvalue()
