"""What a turn does to alarms that are there already: repeats are joined to them, and their condition ends."""

from dromikon.core.alarms.states import AlarmState, end
from dromikon.core.rules.outcome import Joined
from dromikon.daybook.models import RunRow
from dromikon.desk.models import Alarm
from dromikon.engine.book import Book


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
        after = end(AlarmState(alarm.state))
        alarm.lasting, alarm.ended_at, alarm.state = False, at, after.value
        if alarm.pk is not None:
            alarm.save(update_fields=["lasting", "ended_at", "state"])
            book.tell_of_alarm(alarm, at, "none")
