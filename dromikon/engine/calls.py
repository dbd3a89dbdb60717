"""Calls at door stations, as their events tell: they ring, are answered, at a desk or there, and are over."""

from dromikon.archive.models import Bookmark
from dromikon.core.calls import answer, end, ring_again
from dromikon.core.events import Scalar
from dromikon.core.instants import Instant
from dromikon.core.words import t
from dromikon.daybook import feed, storage
from dromikon.desk.models import Call
from dromikon.engine.book import Book
from dromikon.engine.draft import Draft
from dromikon.sources.models import Sightline

RUNG, ANSWERED, ENDED = "call.rung", "call.answered", "call.ended"
#: The bookmark of a call begins so long before its ringing, and ends so long after it, in ms.
AROUND = 5_000
#: So many calls that nobody ended are ended at a time.
MOST_OVER = 50


def note_call(draft: Draft, seq: int, book: Book) -> None:
    """What an event says of a call."""
    if draft.kind not in (RUNG, ANSWERED, ENDED):
        return
    at, going_on = draft.occurred_at, Call.objects.filter(station=draft.point, ended_at=None).first()
    if draft.kind == RUNG:
        _ring(draft, seq, going_on, book)
    elif going_on is not None and draft.kind == ANSWERED and going_on.answered_at is None:
        going_on.answered_name = _who(draft.fields)
        going_on.stand(answer(going_on.standing, at))
        _keep(going_on, at, book)
    elif going_on is not None and draft.kind == ENDED:
        going_on.stand(end(going_on.standing, at))
        _over(going_on, at, book)


def _ring(draft: Draft, seq: int, going_on: Call | None, book: Book) -> None:
    at = draft.occurred_at
    if going_on is not None and (gives_up := going_on.standing.gives_up) is not None and gives_up <= at:
        going_on.stand(end(going_on.standing, gives_up))
        _over(going_on, gives_up, book)
        going_on = None
    if going_on is not None:
        going_on.rings += 1
        going_on.stand(ring_again(going_on.standing, at))
        _keep(going_on, at, book)
        return
    call = Call(site_id=draft.site, station=draft.point, event=seq, rung_at=at, last_rung_at=at)
    call.stand(call.standing)
    _keep(call, at, book)


def _keep(call: Call, at: Instant, book: Book) -> None:
    call.save()
    book.tell(feed.call(call.site_id, call.pk, call.station, call.state, at, by=call.answered_name))


def _over(call: Call, at: Instant, book: Book) -> None:
    """A call that is over is kept as a bookmark of the cameras that look there."""
    _keep(call, at, book)
    for bookmark in bookmarks_of(call):
        book.rows.append(bookmark)
        book.tell(feed.bookmark(call.site_id, f"call-{call.pk}", bookmark.camera, bookmark.zero, at))


def bookmarks_of(call: Call) -> list[Bookmark]:
    """One for each camera that looks at the station."""
    who = call.answered_name
    words = {
        "ended": t("Call, answered by {who}", who=who) if who else t("Call, answered"),
        "missed": t("Call, missed"),
    }
    found = []
    for camera in Sightline.objects.filter(point_id=call.station).order_by("order").values_list("camera_id", flat=True):
        bookmark = Bookmark(
            site_id=call.site_id, camera=camera, start=call.rung_at - AROUND, end=(call.ended_at or call.rung_at) + AROUND,
            zero=call.rung_at, title=words[call.state], tags=["call"], made_at=call.ended_at or call.rung_at,
        )  # fmt: skip
        bookmark.gather_words()
        found.append(bookmark)
    return found


def something_is_over(now: Instant) -> bool:
    """Whether a call has gone on for longer than any does."""
    return any((c.standing.gives_up or now + 1) <= now for c in Call.objects.filter(ended_at=None))


def give_up(now: Instant) -> None:
    """Calls of which nothing more was told are over. Call inside a transaction."""
    news: list[feed.News] = []
    for call in Call.objects.filter(ended_at=None)[:MOST_OVER]:
        moment = call.standing.gives_up
        if moment is not None and moment <= now:
            call.stand(end(call.standing, moment))
            call.save()
            Bookmark.objects.bulk_create(bookmarks_of(call))
            news.append(feed.call(call.site_id, call.pk, call.station, call.state, now))
    storage.FEED.insert(map(storage.feed_row, news))


def _who(fields: dict[str, Scalar]) -> str:
    person = fields.get("person")
    return person[:150] if isinstance(person, str) else ""
