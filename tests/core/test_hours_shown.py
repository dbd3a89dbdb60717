"""Hours as people look at them: what holds until when, the days of a year, and the times written out for other calendars."""

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import icalendar
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.calendars import Calendar
from dromikon.core.hours import DayException, Hours, Place, Season, Week
from dromikon.core.hours_shown import days_shown, moment_meant, standing, year_shown
from dromikon.core.hours_written import stretches, to_ical
from dromikon.core.instants import from_datetime, parse

LONDON = Place("Europe/London", 54.2, -2.9)
LONDON_ZONE = ZoneInfo(LONDON.zone)
MINUTE = 60_000
DAY = 1440 * MINUTE


def hours(week, exceptions=(), calendars=()):
    season = Season(start="01-01", end="12-31", week=Week(**week))
    return Hours(id="h", name="Garden hours", seasons=(season,), exceptions=exceptions, calendars=calendars)


NIGHTS = hours(
    {"fri": ("09:00-12:00", "22:00-06:00"), "sat": ("sunset-sunrise",), "sun": ("00:00-24:00",)},
    (DayException(date=date(2027, 3, 26), spans=("10:00-11:00",), why="open day"),),
)


def test_what_holds_and_what_comes_next():
    friday = parse("2026-12-04T10:00:00Z")
    now = standing(NIGHTS, friday, LONDON)
    assert (now.inside, now.until, now.then_until) == (
        True,
        parse("2026-12-04T12:00:00Z"),
        parse("2026-12-04T22:00:00Z"),
    )
    always = standing(
        hours(dict.fromkeys(("mon", "tue", "wed", "thu", "fri", "sat", "sun"), ("00:00-24:00",))), friday, LONDON
    )
    assert (always.inside, always.until, always.then_until) == (True, None, None)


def test_a_day_shows_what_began_the_night_before_and_why_it_is_different():
    saturday, sunday, monday = days_shown(NIGHTS, date(2026, 12, 5), 3, LONDON)
    assert saturday.spans[0] == (0, 360) and saturday.spans[1][1] == 1440
    assert sunday.spans == ((0, 1440),), "what touches is one"
    assert monday.spans == () and not monday.excepted
    (fair,) = (d for d in year_shown(NIGHTS, 2027, LONDON) if d.excepted)
    assert (fair.day, fair.spans, fair.why) == (date(2027, 3, 26), ((600, 660),), "open day")
    assert len(year_shown(NIGHTS, 2028, LONDON)) == 366


@given(st.integers(0, 2 * 365 * 1440))
def test_a_day_is_drawn_as_it_is_reckoned(minute):
    """But where clocks change: there a drawn day has 24 hours."""
    instant = parse("2026-06-01T00:00:30Z") + minute * MINUTE
    wall = datetime.fromtimestamp(instant / 1000, UTC).astimezone(LONDON_ZONE)
    if (
        wall.utcoffset() != (wall + timedelta(days=1)).utcoffset()
        or wall.utcoffset() != (wall - timedelta(days=1)).utcoffset()
    ):
        return
    (day,) = days_shown(NIGHTS, wall.date(), 1, LONDON)
    drawn = any(start <= wall.hour * 60 + wall.minute < end for start, end in day.spans)
    assert drawn == NIGHTS.contains(instant, LONDON)


@pytest.mark.parametrize("start", ["2026-10-24T12:00:00Z", "2027-03-27T12:00:00Z", "2026-12-01T00:00:00Z"])
def test_hours_written_out_and_read_back_hold_at_the_same_times(start):
    """Over the nights when clocks change, too: the times are in UTC."""
    begin = parse(start)
    text = to_ical(NIGHTS, begin, begin + 9 * DAY, LONDON).decode()
    back = Hours(id="b", name="b", calendars=(Calendar(text=text),))
    for at in range(begin, begin + 9 * DAY, 15 * MINUTE):
        wall = datetime.fromtimestamp(at / 1000, UTC).astimezone(LONDON_ZONE)
        if wall.utcoffset() == (wall + timedelta(hours=3)).utcoffset() == (wall - timedelta(hours=3)).utcoffset():
            assert back.contains(at, LONDON) == NIGHTS.contains(at, LONDON), wall


def test_what_is_written_out_is_what_another_library_reads():
    begin = parse("2026-12-01T00:00:00Z")
    calendar = icalendar.Calendar.from_ical(to_ical(NIGHTS, begin, begin + 7 * DAY, LONDON))
    read = [(from_datetime(e.decoded("dtstart")), from_datetime(e.decoded("dtend"))) for e in calendar.walk("VEVENT")]
    assert read == list(stretches(NIGHTS, begin, begin + 7 * DAY, LONDON)) and len(read) == 3
    assert len({str(e["UID"]) for e in calendar.walk("VEVENT")}) == len(read)


@pytest.mark.parametrize(
    ("text", "meant"),
    [
        ("18:30", "2026-12-01T18:30:00Z"),
        ("09:00", "2026-12-02T09:00:00Z"),
        ("2026-12-24T12:00:00Z", "2026-12-24T12:00:00Z"),
    ],
)
def test_a_time_of_day_is_the_next_that_the_wall_clock_shows(text, meant):
    assert moment_meant(text, parse("2026-12-01T12:00:00Z"), LONDON.zone) == parse(meant)


@pytest.mark.parametrize("text", ["25:00", "noon", "", "2020-01-01T00:00:00Z", "12:61"])
def test_what_is_no_time_to_come_is_refused(text):
    with pytest.raises(ValueError, match=r"no time|over already"):
        moment_meant(text, parse("2026-12-01T12:00:00Z"), LONDON.zone)
