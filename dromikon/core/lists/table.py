"""Lists as CSV (RFC 4180): one line for each entry, the columns named in the first line."""

import csv
import io
from dataclasses import dataclass

from pydantic import ValidationError

from dromikon.core.lists.plates import tidy
from dromikon.core.lists.watchlist import MOST_ENTRIES, Entry
from dromikon.core.words import t

COLUMNS = ("value", "label", "note", "valid_from", "valid_until", "template")
LARGEST = 5_000_000


@dataclass(frozen=True, slots=True)
class Fault:
    """Why a line cannot be read. `line` counts from 1 with the column names."""

    line: int
    column: str
    message: str


class NotReadable(ValueError):
    """The table cannot be taken over; `faults` says where and why. Nothing of it was."""

    def __init__(self, faults: list[Fault]) -> None:
        super().__init__("; ".join(f"line {f.line}, {f.column}: {f.message}" for f in faults[:5]))
        self.faults = faults


def read_table(content: bytes) -> tuple[Entry, ...]:
    """The entries of a CSV in UTF-8, separated by comma or semicolon. Raises NotReadable with every fault."""
    if len(content) > LARGEST:
        raise NotReadable([Fault(1, "", t("the table is larger than {size} MB", size=LARGEST // 1_000_000))])
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise NotReadable([Fault(content[: error.start].count(b"\n") + 1, "", t("the table is not UTF-8"))]) from error
    first = text.split("\n", 1)[0]
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=";" if ";" in first and "," not in first else ",")
    try:
        names = [n.strip().lower() for n in next(rows, [])]
        _check_names(names)
        return _entries(names, rows)
    except csv.Error as error:
        raise NotReadable([Fault(rows.line_num, "", f"not CSV: {error}")]) from error


def _check_names(names: list[str]) -> None:
    unknown = [n for n in names if n not in COLUMNS]
    if unknown:
        raise NotReadable(
            [
                Fault(1, n, t("there is no column {n}; there are {join}", n=repr(n), join=", ".join(COLUMNS)))
                for n in unknown
            ]
        )
    if "value" not in names:
        raise NotReadable([Fault(1, "value", t("a column named “value” is needed"))])


def _entries(names: list[str], rows: "csv._reader") -> tuple[Entry, ...]:  # type: ignore[name-defined]
    found: list[Entry] = []
    faults: list[Fault] = []
    lines: dict[str, int] = {}
    for row in rows:
        if not any(cell.strip() for cell in row):
            continue
        line = rows.line_num
        if len(row) > len(names):
            faults.append(Fault(line, "", f"{len(row)} cells, but {len(names)} columns"))
            continue
        cells = {n: _restored(c.strip()) for n, c in zip(names, row, strict=False) if c.strip()}
        try:
            entry = Entry.model_validate(cells)
        except ValidationError as error:
            faults += [
                Fault(line, ".".join(map(str, e["loc"])), e["msg"].removeprefix("Value error, "))
                for e in error.errors()
            ]
            continue
        key = tidy(entry.value) or entry.value
        if key in lines:
            faults.append(Fault(line, "value", f"the same as in line {lines[key]}"))
        lines[key] = line
        found.append(entry)
        if len(found) > MOST_ENTRIES:
            raise NotReadable(
                [Fault(line, "", t("a list has at most {MOST_ENTRIES} entries", MOST_ENTRIES=MOST_ENTRIES))]
            )
    if faults:
        raise NotReadable(faults[:100])
    return tuple(found)


def write_table(entries: tuple[Entry, ...]) -> str:
    """The same entries as `read_table` reads. A cell that a spreadsheet would take for a formula gets an apostrophe in
    front, which reading it back takes away again."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for e in entries:
        texts = (_defused(text) for text in (e.value, e.label, e.note))
        writer.writerow([*texts, e.valid_from or "", e.valid_until or "", e.template])
    return out.getvalue()


def _is_formula(cell: str) -> bool:
    """Whether a spreadsheet would reckon instead of showing, apostrophes in front aside."""
    return cell.lstrip("'").startswith(("=", "+", "-", "@"))


def _defused(cell: str) -> str:
    return f"'{cell}" if _is_formula(cell) else cell


def _restored(cell: str) -> str:
    return cell[1:] if cell.startswith("'") and _is_formula(cell) else cell
