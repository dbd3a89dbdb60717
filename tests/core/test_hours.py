"""Hours on the wall clock: midnight, seasons, exceptions, and the two nights when clocks change."""

from datetime import date, datetime
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from dromikon.core.calendars import Calendar
from dromikon.core.hours import DayException, Hours, Place, Season, Week, split
from dromikon.core.instants import from_datetime, iso, parse

LONDON = Place("Europe/London", 54.2, -2.9)


def at(*wall, fold=0):
    return from_datetime(datetime(*wall, tzinfo=ZoneInfo(LONDON.zone), fold=fold))


def hours(*spans, exceptions=(), start="01-01", end="12-31"):
    week = Week(**dict.fromkeys(("mon", "tue", "wed", "thu", "fri", "sat", "sun"), spans))
    return Hours(id="h", name="h", seasons=(Season(start=start, end=end, week=week),), exceptions=exceptions)


def test_a_span_runs_past_midnight_into_the_next_day():
    night = hours("22:00-06:00")
    inside = [night.contains(at(2026, 5, 4, h), LONDON) for h in (21, 22, 23, 0, 5, 6)]
    assert inside == [False, True, True, True, True, False]


def test_to_the_end_of_the_day():
    assert hours("20:00-24:00").contains(at(2026, 5, 4, 23, 59), LONDON)
    assert not hours("20:00-24:00").contains(at(2026, 5, 5, 0, 0), LONDON)


def test_an_exception_overrides_the_week_and_its_evening_before():
    document = hours("22:00-06:00", exceptions=(DayException(date=date(2026, 12, 25)),))
    assert document.contains(at(2026, 12, 25, 3), LONDON), "the night that began on the 24th goes on"
    assert not document.contains(at(2026, 12, 25, 23), LONDON)
    assert not document.contains(at(2026, 12, 26, 3), LONDON)


def test_the_first_season_that_holds_a_day_decides_also_over_new_year():
    winter = Season(start="11-01", end="03-31", week=Week(thu=("10:00-16:00",)))
    always = Season(start="01-01", end="12-31", week=Week(thu=("09:00-18:00",)))
    document = Hours(id="h", name="h", seasons=(winter, always))
    assert not document.contains(at(2026, 1, 1, 9, 30), LONDON)
    assert document.contains(at(2026, 7, 2, 9, 30), LONDON)


def test_the_hour_that_comes_twice_is_inside_both_times():
    document = hours("01:15-01:45")
    first, second = at(2026, 10, 25, 1, 30), at(2026, 10, 25, 1, 30, fold=1)
    assert second - first == 3_600_000
    assert document.contains(first, LONDON) and document.contains(second, LONDON)


def test_the_hour_that_is_skipped_never_comes():
    document, night = hours("01:15-01:45"), at(2026, 3, 29, 0, 0)
    assert not any(document.contains(night + m * 60_000, LONDON) for m in range(240))


@given(st.integers(1_700_000_000_000, 1_900_000_000_000))
def test_inside_and_its_complement_share_out_all_time(instant):
    assert hours("07:00-19:00").contains(instant, LONDON) != hours("19:00-07:00").contains(instant, LONDON)


@pytest.mark.parametrize(
    "span", ["9:00-17:00", "09:05-17:00", "09:00", "24:00-06:00", "09:00-25:00", "noon-sunset", "sunset+5000-06:00"]
)
def test_spans_that_cannot_be_are_refused(span):
    with pytest.raises(ValueError):
        split(span)
    with pytest.raises(ValidationError):
        Week(mon=(span,))


# -- daylight ----------------------------------------------------------------------------------------------------------


def test_daylight_moves_with_the_year_and_runs_over_midnight():
    dark = hours("sunset+15-sunrise-30")
    winter, summer = ([dark.contains(at(2026, month, 21, h), LONDON) for h in range(24)] for month in (12, 6))
    assert [h for h in range(24) if winter[h]] == [*range(8), *range(17, 24)]
    assert [h for h in range(24) if summer[h]] == [*range(5), *range(23, 24)]


def test_where_the_sun_does_not_rise_or_set():
    north = Place("Europe/Oslo", 69.6, 18.9)
    day = hours("sunrise-sunset")
    assert not any(
        day.contains(from_datetime(datetime(2026, 12, 21, h, 30, tzinfo=ZoneInfo("Europe/Oslo"))), north)
        for h in range(24)
    )
    assert all(
        day.contains(from_datetime(datetime(2026, 6, 21, h, 30, tzinfo=ZoneInfo("Europe/Oslo"))), north)
        for h in range(24)
    )


# -- calendars ---------------------------------------------------------------------------------------------------------

NIGHT_WORK = """BEGIN:VCALENDAR\r
VERSION:2.0\r
PRODID:-//Lakeside//EN\r
BEGIN:VEVENT\r
UID:night\r
DTSTART;TZID=Europe/London:20260303T200000\r
DTEND;TZID=Europe/London:20260304T010000\r
RRULE:FREQ=WEEKLY;BYDAY=TU\r
EXDATE;TZID=Europe/London:20260310T200000\r
END:VEVENT\r
END:VCALENDAR\r
"""


def test_a_calendar_adds_its_events_over_midnight_and_across_the_clock_change():
    document = Hours(id="h", name="h", calendars=(Calendar(text=NIGHT_WORK),))
    for day in ((2026, 3, 3), (2026, 3, 31)):
        inside = [document.contains(at(*day, h), LONDON) for h in (19, 20, 23)]
        assert inside == [False, True, True]
    assert document.contains(at(2026, 4, 1, 0, 30), LONDON) and not document.contains(at(2026, 4, 1, 1), LONDON)
    assert not document.contains(at(2026, 3, 10, 21), LONDON), "an exception of the calendar"


def test_a_calendar_takes_its_events_away():
    document = hours("09:00-24:00").model_copy(update={"calendars": (Calendar(text=NIGHT_WORK, adds=False),)})
    assert document.spans_on(date(2026, 3, 3), LONDON) == ((540, 1200),)


@pytest.mark.parametrize(
    "text", ["", "nonsense", "BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n", NIGHT_WORK.replace("WEEKLY;BYDAY=TU", "SECONDLY")]
)
def test_what_is_no_usable_calendar_is_refused(text):
    with pytest.raises(ValidationError):
        Calendar(text=text)


# -- when hours begin and end --------------------------------------------------------------------------------------------


def test_the_next_start_and_end():
    day = hours("09:00-17:00", exceptions=(DayException(date=date(2026, 12, 25)),))
    assert day.next_change(at(2026, 12, 24, 9), LONDON, True) == at(2026, 12, 26, 9), "closed for a day"
    assert day.next_change(at(2026, 12, 24, 9), LONDON, False) == at(2026, 12, 24, 17)
    assert Hours(id="h", name="h").next_change(0, LONDON, True) is None


@given(st.integers(1_700_000_000_000, 1_900_000_000_000), st.booleans())
def test_a_change_is_where_inside_changes(instant, opens):
    document = hours("22:15-06:00", "12:00-13:30", "sunset-22:15")
    change = document.next_change(instant, LONDON, opens)
    assert change > instant
    assert document.contains(change, LONDON) is opens and document.contains(change - 1, LONDON) is not opens


def test_empty_hours_are_known_as_such():
    assert Hours(id="h", name="h").is_empty
    assert not hours("09:00-17:00").is_empty


def test_instants_read_what_devices_write():
    assert iso(parse("2026-03-29T01:30:00+01:00")) == "2026-03-29T00:30:00.000Z"
    assert parse("2026-03-29T00:30:00Z") == parse("2026-03-29T00:30:00")
    with pytest.raises(ValueError):
        from_datetime(datetime(2026, 1, 1))
