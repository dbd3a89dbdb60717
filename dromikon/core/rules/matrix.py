"""The rulebook as a matrix: causes down, responses across, when and how urgently in the cells."""

from collections.abc import Iterable
from dataclasses import dataclass, field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.alarm import AlarmAction
from dromikon.core.rules.actions.base import GROUPS, Action
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.parts import seconds
from dromikon.core.rules.sentence import parts_in_words
from dromikon.core.words import t


@dataclass(frozen=True, slots=True, order=True)
class Column:
    """One response: a kind of step, or one thing that steps of that kind go to (empty: whatever the event leads to)."""

    group: int
    label: str
    target: str = ""

    @property
    def words(self) -> str:
        return f"{self.label}: {self.target}" if self.target else self.label


@dataclass(frozen=True, slots=True)
class Cell:
    """When it is done, in words that add nothing where it is done at once; `priority` of an alarm."""

    words: str
    priority: str = ""


@dataclass(frozen=True, slots=True)
class Row:
    """One rule: its cause with what it is provided on, and its cells by column."""

    rule: str
    name: str
    on: bool
    cause: str
    provided: str
    hours: str
    cells: dict[Column, tuple[Cell, ...]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Matrix:
    columns: tuple[Column, ...]
    rows: tuple[Row, ...]


def matrix(rules: Iterable[tuple[str, bool, RuleDocument]], facts: Facts) -> Matrix:
    """Rules as (id, whether it is on, document), in their order; columns by what they are about, then by name."""
    rows = tuple(_row(id, on, document, facts) for id, on, document in rules)
    return Matrix(tuple(sorted({column for row in rows for column in row.cells})), rows)


def _row(id: str, on: bool, document: RuleDocument, facts: Facts) -> Row:
    words = parts_in_words(document, facts)
    cells: dict[Column, tuple[Cell, ...]] = {}
    for step in document.response:
        column = _column(step, facts)
        cells[column] = (*cells.get(column, ()), _cell(step))
    return Row(id, document.name, on, words["cause"], words.get("provided", ""), words.get("hours", ""), cells)


def _column(step: Action, facts: Facts) -> Column:
    driven = step.drives()
    if driven is not None:
        target = facts.name_of("point", driven[0].id) or driven[0].name
    else:
        named = [(what, ref) for _, what, ref in step.named() if what in ("destination", "counter")]
        target = next((facts.name_of(what, ref.id) or ref.name for what, ref in named), "")
    return Column(GROUPS.index(step.group), t(step.label), target)


def _cell(step: Action) -> Cell:
    held = step.hold
    parts = [
        _moment(step),
        t("while it lasts") if held == "state" else t("for {time}", time=seconds(held)) if held else "",
    ]
    if step.provided is not None or step.hours is not None:
        parts.append(t("if"))
    return Cell(" ".join(p for p in parts if p), step.priority if isinstance(step, AlarmAction) else "")


def _moment(step: Action) -> str:
    """The offset from its anchor, short."""
    after = f"+{seconds(step.after)}" if step.after else ""
    anchors = {
        "start": "", "end": t("at the end"), "acknowledged": t("once answered"), "unanswered": t("unanswered")
    }  # fmt: skip
    return f"{anchors[step.anchor]} {after}".strip()
