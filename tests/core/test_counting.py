"""Counts gathered by quarters of an hour into bars: nothing is lost or told twice, and days are those of the wall clock."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.counting import QUARTER, Counts, bars, day_start, quarter_of, whole
from dromikon.core.events import Event, Phase
from dromikon.core.instants import parse
from dromikon.core.rules.causes.limit import LimitCause

LONDON = "Europe/London"
SPRING = parse("2027-03-28T00:00:00Z")


def quarter(start, came=0, went=0, most=None, stands=None):
    return Counts(start, start + QUARTER, came, went, most, stands)


@given(
    st.lists(
        st.tuples(st.integers(0, 2_000), st.integers(0, 9), st.integers(0, 9)), max_size=60, unique_by=lambda q: q[0]
    ),
    st.sampled_from(["quarter", "hour", "day", "week"]),
)
def test_bars_hold_each_quarter_once_whatever_their_length(found, step):
    base = quarter_of(SPRING)
    quarters = [quarter(base + i * QUARTER, came, went, came, went) for i, came, went in sorted(found)]
    end = base + 2_001 * QUARTER
    made = bars(quarters, base, end, step, LONDON)
    assert sum(b.came for b in made) == sum(q.came for q in quarters)
    assert sum(b.went for b in made) == sum(q.went for q in quarters)
    assert all(one.end == after.start for one, after in pairwise(made))
    assert whole(made, base, end).most == max((q.most for q in quarters), default=None)


def test_a_day_on_which_the_clocks_change_has_other_hours():
    days = bars([], SPRING - 36 * 3_600_000, SPRING + 60 * 3_600_000, "day", LONDON)
    hours = [(d.end - d.start) / 3_600_000 for d in days]
    assert hours == [24, 24, 23, 24, 24]
    assert all(day_start(d.start, LONDON) == d.start for d in days)


def test_weeks_begin_on_mondays():
    first = bars([], parse("2026-12-03T12:00:00Z"), parse("2026-12-04T00:00:00Z"), "week", LONDON)[0]
    assert first.start == parse("2026-11-30T00:00:00Z") and first.end == parse("2026-12-07T00:00:00Z")


def test_where_it_stands_is_what_was_known_last():
    made = bars([quarter(SPRING, most=5, stands=5), quarter(SPRING + QUARTER, most=3, stands=2)], SPRING, SPRING + 4 * QUARTER, "hour", LONDON)  # fmt: skip
    assert (made[0].most, made[0].stands) == (5, 2)
    assert bars([], SPRING, SPRING + QUARTER, "quarter", LONDON)[0].stands is None, "nothing is made up"


@pytest.mark.parametrize(
    ("way", "back", "values", "fired"),
    [
        ("up", 0, [9, 10, 9, 10, 11], [10, 10]),
        ("up", 3, [9, 10, 9, 10, 8, 10, 7, 10], [10, 10]),
        ("down", 0, [3, 2, 3, 2], [2, 2]),
        ("down", 2, [3, 2, 3, 2, 4, 2], [2, 2]),
    ],
)
def test_a_limit_is_reached_again_only_after_it_came_back_far_enough(way, back, values, fired):
    cause = LimitCause(counter={"id": "c"}, way=way, value=10 if way == "up" else 2, hysteresis=back)
    memory, told = {}, []
    for before, value in pairwise([values[0], *values]):
        event = Event(
            1, "counter.changed", "", Phase.PULSE, 0, 0, 0, None, {"id": "c", "before": before, "value": value}
        )
        if cause.on_event(event, memory):
            told.append(value)
    assert told == fired
