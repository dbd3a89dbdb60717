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


def _to_3(rows: Rows) -> Rows:
    """Causes remember which events they are made of; several runs may be met by a repeat. Half-finished orders begin
    anew, since their rows did not keep what had come."""
    made: Rows = []
    for (rule, key), row in rows:
        cause = key.split("|", 1)[1] if key[:1].isdecimal() and "|" in key else key
        if cause.startswith("order|"):
            continue
        made.append(((rule, key), _row_to_3(cause, row)))
    return made


def _row_to_3(key: str, row: Row) -> Row:
    if key.startswith("again|"):
        return {"runs": [row["run"]]}
    if key.startswith("last|"):
        return {"came": [[row["at"], 0]]}
    if key.startswith("missing|"):
        return {"waits": [[row["due"], row["event"]]], "due": row["due"]}
    if key.startswith("together|"):
        return {**row, "seen": {place: [at, 0] for place, at in row["seen"].items()}}
    if key.startswith("repeated|"):
        return {"came": [[at, 0] for at in row["at"]], "due": row["due"]}
    if key.startswith("run|") and any(p["anchor"] == "unanswered" for p in row["pending"]):
        return {**row, "asked": True}
    return row


_STEPS = {1: _to_2, 2: _to_3}
