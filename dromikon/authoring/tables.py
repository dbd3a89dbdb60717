"""Tables as files: CSV, and XLSX as spreadsheets open it."""

import csv
import io
from collections.abc import Sequence

import xlsxwriter

#: A cell: text, or a number that spreadsheets may reckon with.
Cell = str | int
Table = Sequence[Sequence[Cell]]
#: What a spreadsheet would take for the beginning of a formula.
FORMULA = ("=", "+", "-", "@", "\t", "\r")


def csv_of(table: Table) -> str:
    """What begins like a formula is told apart by a quote, as spreadsheets do."""
    out = io.StringIO()
    csv.writer(out).writerows([[_plain(cell) for cell in row] for row in table])
    return out.getvalue()


def _plain(cell: Cell) -> Cell:
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(FORMULA) else cell


def xlsx_of(table: Table, name: str, widths: Sequence[int]) -> bytes:
    """One sheet; its first row and column stay in sight. `widths`: of the columns, in characters; the last goes on."""
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    sheet = book.add_worksheet(name)
    bold = book.add_format({"bold": True, "text_wrap": True})
    wrapped = book.add_format({"text_wrap": True, "valign": "top"})
    for y, row in enumerate(table):
        for x, cell in enumerate(row):
            write = sheet.write_string if isinstance(cell, str) else sheet.write_number
            write(y, x, cell, wrapped if y else bold)
    for x in range(len(table[0])):
        sheet.set_column(x, x, widths[min(x, len(widths) - 1)])
    sheet.freeze_panes(1, 1)
    book.close()
    return out.getvalue()
