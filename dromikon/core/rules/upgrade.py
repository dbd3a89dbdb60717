"""Rows that an earlier release of the evaluator wrote, in the form of this one: waiting causes, hold-offs and held outputs
survive an update."""

from collections.abc import Iterable

from dromikon.core.rules.state import STATE_FORMAT, Row, RowKey

Rows = list[tuple[RowKey, Row]]


def upgraded(rows: Iterable[tuple[RowKey, Row]], written: int) -> Rows:
    """Rows of format `written` in the present format. Raises ValueError for a later one."""
    if written > STATE_FORMAT:
        raise ValueError(f"evaluator rows of format {written} were written by a later release")
    found = list(rows)
    for step in range(written, STATE_FORMAT):
        found = _STEPS[step](found)
    return found


def _to_2(rows: Rows) -> Rows:
    """Runs name their steps, and those that wait for the end of a state are found by it."""
    made: Rows = []
    waiting: dict[RowKey, list[str]] = {}
    for (rule, key), row in rows:
        if key.startswith("run|"):
            row = {**row, "listed": "", "pending": [{"do": "", "part": 0, **p} for p in row["pending"]]}
            row["held"] = [{"part": 0, **h} for h in row["held"]]
            if row["state"] is not None:
                waiting.setdefault((rule, f"ends|{row['state']}"), []).append(key.removeprefix("run|"))
        made.append(((rule, key), row))
    return made + [(key, {"runs": runs}) for key, runs in waiting.items()]


_STEPS = {1: _to_2}
