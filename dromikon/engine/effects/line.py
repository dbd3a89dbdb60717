"""Effect: a line in the daybook."""

from typing import cast

from dromikon.core.rules.actions.line import LineOrder
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.book import Book
from dromikon.engine.effects.base import InsideEffect


class LineEffect(InsideEffect):
    def apply(self, site: str, order: StepOrder, book: Book, at: int) -> None:
        book.note_line(site, order.due, order.target, cast(LineOrder, order.payload)["text"], order.run)
        book.note_step(site, order, Step.Status.DONE, done_at=at)
