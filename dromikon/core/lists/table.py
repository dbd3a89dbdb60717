"""Lists as tables: CSV (RFC 4180), a line for each entry, the columns named in the first line. Any table can be read whose
columns are chosen; ours have their names."""

import csv
import io
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime

from pydantic import ValidationError

from dromikon.core.lists.changes import key_of
from dromikon.core.lists.watchlist import MOST_ENTRIES, Entry
from dromikon.core.words import t

COLUMNS = ("value", "label", "note", "valid_from", "valid_until", "template", "pictured", "agreed")
DATES = ("valid_from", "valid_until", "pictured", "agreed")
LARGEST = 5_000_000
_SEPARATORS = (",", ";", "\t")
_DATE_FORMS = ("%Y-%m-%d", "%d.%m.%Y", "%Y%m%d", "%Y/%m/%d")


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


@dataclass(frozen=True, slots=True)
class Lines:
    """A table as text: the names of its columns, and its lines with their numbers."""

    names: tuple[str, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]


def read_table(content: bytes, columns: Mapping[str, str] | None = None) -> tuple[Entry, ...]:
    """The entries of a CSV. `columns`: which of its columns is which of COLUMNS; None: they have our names, and others are a
    fault. Raises NotReadable with every fault."""
    lines = read_lines(content)
    return _entries(lines, _places(lines.names, columns), columns is None)


def read_lines(content: bytes) -> Lines:
    """A CSV in UTF-8, or else in Windows-1252 as spreadsheets write it, with commas, semicolons or tabs. Raises NotReadable."""
    if len(content) > LARGEST:
        raise NotReadable([Fault(1, "", t("the table is larger than {size} MB", size=LARGEST // 1_000_000))])
    text = _text(content)
    first = text.split("\n", 1)[0]
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=max(_SEPARATORS, key=first.count))
    try:
        names = tuple(n.strip() for n in next(rows, []))
        found = tuple((rows.line_num, tuple(row)) for row in rows if any(cell.strip() for cell in row))
    except csv.Error as error:
        raise NotReadable([Fault(rows.line_num, "", f"not CSV: {error}")]) from error
    return Lines(names, found)


def _text(content: bytes) -> str:
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = content[: error.start].count(b"\n") + 1
    try:
        if b"\0" not in content:
            return content.decode("cp1252")
    except UnicodeDecodeError:
        pass
    raise NotReadable([Fault(line, "", t("the table is neither UTF-8 nor Windows-1252"))])


def guessed(names: tuple[str, ...]) -> dict[str, str]:
    """Which columns of a table are likely which of ours: those with our names, else the first is the value."""
    lower = {n.lower(): n for n in names}
    found = {ours: lower[ours] for ours in COLUMNS if ours in lower}
    if "value" not in found and names:
        found["value"] = next((n for n in names if n not in found.values()), names[0])
    return found


def _places(names: tuple[str, ...], columns: Mapping[str, str] | None) -> dict[str, int]:
    """Where each of our columns stands. Raises NotReadable."""
    if columns is None:
        lower = [n.lower() for n in names]
        faults = [
            Fault(1, n, t("there is no column {n}; there are {join}", n=repr(n), join=", ".join(COLUMNS)))
            for n in lower
            if n not in COLUMNS
        ]
        if not faults and "value" not in lower:
            faults = [Fault(1, "value", t("a column named “value” is needed"))]
        if faults:
            raise NotReadable(faults)
        return {n: i for i, n in enumerate(lower)}
    missing = [n for ours, n in columns.items() if n not in names or ours not in COLUMNS]
    if missing or "value" not in columns:
        what = missing[0] if missing else "value"
        raise NotReadable([Fault(1, what, t("the table has no column {n}", n=repr(what)))])
    return {ours: names.index(n) for ours, n in columns.items()}


def _entries(lines: Lines, places: Mapping[str, int], strict: bool) -> tuple[Entry, ...]:
    found: list[Entry] = []
    faults: list[Fault] = []
    seen: dict[str, int] = {}
    for line, row in lines.rows:
        if strict and len(row) > len(lines.names):
            faults.append(Fault(line, "", f"{len(row)} cells, but {len(lines.names)} columns"))
            continue
        cells = {ours: _restored(row[i].strip()) for ours, i in places.items() if i < len(row) and row[i].strip()}
        try:
            entry = Entry.model_validate(_content(cells))
        except ValidationError as error:
            faults += [
                Fault(line, ".".join(map(str, e["loc"])), e["msg"].removeprefix("Value error, "))
                for e in error.errors()
            ]
            continue
        key = key_of(entry.value)
        if key in seen:
            faults.append(Fault(line, "value", f"the same as in line {seen[key]}"))
        seen[key] = line
        found.append(entry)
        if len(found) > MOST_ENTRIES:
            raise NotReadable([Fault(line, "", t("a list has at most {most} entries", most=MOST_ENTRIES))])
    if faults:
        raise NotReadable(faults[:100])
    return tuple(found)


def _dated(cell: str) -> date | str:
    """A date in one of the forms that can only mean one day; else the text, which the entry refuses."""
    for form in _DATE_FORMS:
        try:
            return datetime.strptime(cell, form).date()
        except ValueError:
            continue
    return cell


def write_table(entries: tuple[Entry, ...]) -> str:
    """The same entries as `read_table` reads. A cell that a spreadsheet would take for a formula gets an apostrophe in
    front, which reading it back takes away again."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for e in entries:
        texts = (_defused(text) for text in (e.value, e.label, e.note))
        valid_from, valid_until, pictured, agreed = (getattr(e, name) or "" for name in DATES)
        writer.writerow([*texts, valid_from, valid_until, " ".join(e.faces), pictured, agreed])
    return out.getvalue()


def _content(cells: Mapping[str, str]) -> dict[str, object]:
    """The content of an entry; several faces stand in one cell, with spaces between."""
    content: dict[str, object] = {k: _dated(v) if k in DATES else v for k, v in cells.items()}
    if faces := cells.get("template", "").split():
        content |= {"template": faces[0], "more": faces[1:]}
    return content


def _is_formula(cell: str) -> bool:
    """Whether a spreadsheet would reckon instead of showing, apostrophes in front aside."""
    return cell.lstrip("'").startswith(("=", "+", "-", "@"))


def _defused(cell: str) -> str:
    return f"'{cell}" if _is_formula(cell) else cell


def _restored(cell: str) -> str:
    return cell[1:] if cell.startswith("'") and _is_formula(cell) else cell
