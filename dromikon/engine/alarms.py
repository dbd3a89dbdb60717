"""What a turn does to alarms that are there already: repeats are joined to them, and their condition ends."""

from dataclasses import replace

from dromikon.core.alarms.states import AlarmState, bring_forward, end, suppress
from dromikon.core.rules.outcome import Joined
from dromikon.daybook import feed, storage
from dromikon.daybook.models import RunRow
from dromikon.desk.models import Alarm, AlarmAct
from dromikon.engine.book import Book

#: So many come back from the shelf at a time.
MOST_BACK = 200


def join(joined: Joined, book: Book) -> None:
    """A repeat counts towards the open alarms of its run."""
    pending = [alarm for alarm, _ in book.alarms if alarm.run == joined.run]
    for alarm in [*Alarm.objects.filter(run=joined.run), *pending]:
        alarm.count, alarm.last_at = alarm.count + 1, joined.at
        if alarm.pk is not None:
            alarm.save(update_fields=["count", "last_at"])
            book.tell_of_alarm(alarm, joined.at, "none")


def end_run(run: str, at: int, book: Book) -> None:
    """The condition is over: the run says so, and its alarms return to normal."""
    if run in book.runs:
        book.runs[run].ended_at = at
    else:
        RunRow.objects.filter(ref=run).update(ended_at=at)
    pending = [alarm for alarm, _ in book.alarms if alarm.run == run]
    for alarm in [*Alarm.objects.filter(run=run), *pending]:
        alarm.stand(end(alarm.standing), at)
        alarm.ended_at = at
        if alarm.pk is not None:
            alarm.save(update_fields=["lasting", "ended_at", "state"])
            book.tell_of_alarm(alarm, at, "none")


def go_by_mode(site: str, mode: str, at: int, book: Book) -> None:
    """The site goes into a mode: alarms are kept from people where their rule says so, and those that still last are put
    before them, and heard, where it does no more. Alarms of this very turn have asked for the mode themselves."""
    for alarm in Alarm.objects.filter(site=site).exclude(state=AlarmState.CLOSED).exclude(quiet_in=[]):
        before, quiet = alarm.standing, mode in alarm.quiet_in
        after = suppress(before) if quiet else bring_forward(before)
        if after == before:
            continue
        alarm.stand(after, at)
        alarm.save(update_fields=["state", "suppressed", "unheard"])
        AlarmAct.objects.create(alarm=alarm, site=site, at=at, act="quiet" if quiet else "forward", why=mode)
        book.tell_of_alarm(alarm, at, alarm.sound if alarm.state == AlarmState.UNACKNOWLEDGED else "none")


def something_on_shelf(now: int) -> bool:
    """Whether the time of an alarm on the shelf is over."""
    return Alarm.objects.filter(state=AlarmState.SHELVED, shelved_until__lte=now).exists()


def back_from_shelf(now: int) -> int:
    """Alarms whose time on the shelf is over stand on desks again, and are heard. Returns how many. Call inside a
    transaction."""
    due = Alarm.objects.filter(state=AlarmState.SHELVED, shelved_until__lte=now).order_by("shelved_until")[:MOST_BACK]
    news = []
    for alarm in due:
        alarm.stand(replace(alarm.standing, shelved_until=None), now)
        alarm.save(update_fields=["state", "shelved_until"])
        AlarmAct.objects.create(alarm=alarm, site=alarm.site_id, at=now, act="back")
        told = feed.alarm(
            alarm.site_id, alarm.pk, alarm.state, alarm.zero, alarm.groups, now, sound=alarm.sound, title=alarm.title
        )
        news.append(storage.feed_row(told))
    storage.FEED.insert(news)
    return len(news)
