"""Effects that follow as journal entries of their own: the site's mode, a counter, a derived event.

The evaluator's only input is the journal, so what a rule changes for other rules goes through it like everything else;
a rehearsal of one rule then sees what the others did as recorded.
"""

from typing import cast

from dromikon.core.rules.actions.counter import CounterOrder, counted
from dromikon.core.rules.actions.derive import DeriveOrder
from dromikon.core.rules.actions.mode import ModeOrder
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.book import Book
from dromikon.engine.effects.base import InsideEffect, JournalKeeper


class FollowingEffect(InsideEffect):
    """Inside, and followed by a journal entry when the rest of the outcome is written."""

    def apply(self, site: str, order: StepOrder, book: Book, at: int) -> None:
        book.note_step(site, order, Step.Status.DONE, done_at=at)

    def follow(self, site: str, order: StepOrder, book: Book, keeper: JournalKeeper) -> None:
        raise NotImplementedError


class ModeEffect(FollowingEffect):
    def follow(self, site: str, order: StepOrder, book: Book, keeper: JournalKeeper) -> None:
        keeper.enter_act(site, book, order.due, "mode", value=cast(ModeOrder, order.payload)["mode"])


class CounterEffect(FollowingEffect):
    def follow(self, site: str, order: StepOrder, book: Book, keeper: JournalKeeper) -> None:
        payload = cast(CounterOrder, order.payload)
        value = counted(keeper.counter(site, order.target), payload["change"], payload["by"])
        came, went = (payload["by"] if payload["change"] == way else 0 for way in ("up", "down"))
        book.counts.passed(site, order.target, order.due, came, went)
        keeper.enter_act(
            site, book, order.due, "counter", target=order.target, value=value, chain=tuple(payload.get("chain", ()))
        )


class DeriveEffect(FollowingEffect):
    def follow(self, site: str, order: StepOrder, book: Book, keeper: JournalKeeper) -> None:
        payload = cast(DeriveOrder, order.payload)
        run = book.run(order.run)
        keeper.enter_event(
            site, book, order.due, payload["kind"], order.target, payload["fields"], tuple(payload["chain"]), run.late,
            run.test,
        )  # fmt: skip
