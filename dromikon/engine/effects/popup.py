"""Effect: cameras put up under "Now showing" of the recipients' desks, or on a display."""

from typing import cast

from dromikon.core.rules.actions.popup import PopupOrder
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook import feed
from dromikon.daybook.models import Step
from dromikon.desk.models import PRIORITY_ORDER, Showing
from dromikon.engine.book import Book
from dromikon.engine.effects.base import InsideEffect


class PopupEffect(InsideEffect):
    def apply(self, site: str, order: StepOrder, book: Book, at: int) -> None:
        payload = cast(PopupOrder, order.payload)
        until = order.due + round(payload["seconds"] * 1000)
        book.rows.append(
            Showing(
                site_id=site, run=order.run, step=order.step, camera=order.target, groups=payload["groups"],
                title=payload["title"], since=order.due, until=until, display=payload.get("display", ""),
                rank=PRIORITY_ORDER[payload.get("priority", "medium")],
                at_least=round(payload.get("at_least", 0.0) * 1000),
            )
        )  # fmt: skip
        book.note_step(site, order, Step.Status.DONE, done_at=at)
        display = payload.get("display", "")
        groups = None if display else payload["groups"]
        book.tell(feed.showing(site, order.run, order.target, until, groups, at, display=display))
