"""What tables of things have in common: lines of CSV in and out, where good lines are taken and each faulty one is named."""

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field

from dromikon.core.rules.document import Problem
from dromikon.refusals import Refused
from dromikon.setup.sort import refuse

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

    def refuse(self, number: int, refused: Refused) -> None:
        """Note what was wrong with a line."""
        said = "; ".join(f"{p.path}: {p.message}" if p.path else p.message for p in refused.problems)
        self.problems.append(Problem(path=str(number), message=said))


def written(columns: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """A table as CSV (RFC 4180)."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(columns)
    table.writerows([_safe(value) for value in row] for row in rows)
    return out.getvalue()


def _safe(value: object) -> str:
    """Spreadsheets must not take a name for a formula."""
    text = "" if value is None else str(value)
    return f"'{text}" if text[:1] in ("=", "+", "-", "@") else text


def read(text: str, columns: Sequence[str], needed: Sequence[str]) -> Iterator[tuple[int, dict[str, str]]]:
    """Each line with its number. Raises Refused when it is no such table."""
    sample = text.lstrip("\ufeff")
    first = sample.splitlines()[0] if sample.strip() else ""
    table = csv.DictReader(io.StringIO(sample), delimiter=";" if first.count(";") > first.count(",") else ",")
    heads = [h.strip().lower() for h in table.fieldnames or ()]
    if not set(needed) <= set(heads):
        raise refuse("", f"The first line must name the columns; {' and '.join(needed)} are needed.")
    unknown = [h for h in heads if h not in columns]
    if unknown:
        raise refuse("", f"There is no column {unknown[0]}. Columns are {', '.join(columns)}.")
    try:
        for line in table:
            if table.line_num > MOST:
                raise refuse("", f"A table has at most {MOST} lines.")
            cells = {k.strip().lower(): (v or "").strip().removeprefix("'") for k, v in line.items() if k}
            if any(cells.values()):
                yield table.line_num, cells
    except csv.Error as error:
        raise refuse("", f"The table cannot be read at line {table.line_num}: {error}.") from error
