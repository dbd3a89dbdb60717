"""Effect: a notice on the recipients' desks."""

from typing import cast

from dromikon.core.rules.actions.notice import NoticeOrder
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook import feed
from dromikon.daybook.models import Step
from dromikon.desk.models import Notice
from dromikon.engine.book import Book
from dromikon.engine.effects.base import InsideEffect


class NoticeEffect(InsideEffect):
    def apply(self, site: str, order: StepOrder, book: Book, at: int) -> None:
        payload = cast(NoticeOrder, order.payload)
        until = order.due + round(payload["seconds"] * 1000)
        book.rows.append(
            Notice(
                site_id=site, run=order.run, step=order.step, part=order.part, groups=payload["groups"],
                text=payload["text"][:600], camera=payload["camera"], since=order.due, until=until,
                sound=payload.get("sound", "none"), spoken=payload.get("spoken", False),
            )
        )  # fmt: skip
        book.note_step(site, order, Step.Status.DONE, done_at=at)
        news = feed.notice(site, order.run, payload["text"], payload["camera"], until, payload["groups"], at)
        book.tell(news)
