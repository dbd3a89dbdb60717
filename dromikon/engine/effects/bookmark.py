"""Effect: a bookmark. When its run's alarm was answered before it came, it takes over note and tags."""

from typing import cast

from dromikon.archive.models import Bookmark
from dromikon.core.rules.actions.bookmark import BookmarkOrder
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook import feed
from dromikon.daybook.models import Step
from dromikon.desk.models import Alarm
from dromikon.engine.book import Book
from dromikon.engine.effects.base import InsideEffect


class BookmarkEffect(InsideEffect):
    def apply(self, site: str, order: StepOrder, book: Book, at: int) -> None:
        run, payload = book.run(order.run), cast(BookmarkOrder, order.payload)
        answered = None
        if run.pk is not None:
            answered = Alarm.objects.filter(run=order.run, acknowledged_at__isnull=False).first()
        bookmark = Bookmark(
            site_id=site,
            camera=order.target,
            start=payload["start"],
            end=payload["end"],
            zero=run.zero,
            title=payload["title"],
            note=answered.note if answered else "",
            tags=sorted({*payload["tags"], *(answered.tags if answered else ())}),
            run=order.run,
            step=order.step,
            made_at=at,
        )
        bookmark.gather_words()
        book.rows.append(bookmark)
        book.note_step(site, order, Step.Status.DONE, done_at=at)
        book.tell(feed.bookmark(site, order.run, order.target, run.zero, at))
