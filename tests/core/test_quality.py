"""Alarm quality, against figures reckoned by hand."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.alarms.quality import DAY, HOUR, MINUTE, Told, chattering, pace_of, quality

T0 = 1_700_000_000_000


def told(minute, rule="a", point="p", priority="medium", **more):
    return Told(rule, point, priority, T0 + int(minute * MINUTE), **more)


def day(alarms, desks=1):
    return quality(alarms, T0, T0 + DAY, [T0], desks)


def test_a_quiet_day_has_no_figures_to_worry_about():
    found = day([])
    assert (found.count, found.peak, found.peak_at, found.flooded, found.false, found.level) == (
        0,
        0,
        None,
        0,
        None,
        "good",
    )
    assert found.spread == {"critical": 0, "high": 0, "medium": 0, "low": 0}


def test_a_period_without_a_length_is_refused():
    with pytest.raises(ValueError):
        quality([], T0, T0, [T0])


def test_load_is_for_each_desk_and_hour():
    alarms = [told(m * 5) for m in range(288)]
    assert day(alarms).per_hour == 12 and day(alarms).level == "much"
    assert day(alarms, desks=2).per_hour == 6 and day(alarms, desks=2).level == "good"
    assert day([*alarms, told(1)]).level == "too_much"


def test_eleven_in_ten_minutes_are_a_flood_and_ten_are_not():
    ten, eleven = [told(20 + i * 0.9) for i in range(10)], [told(40 + i * 0.9) for i in range(11)]
    found = day([*ten, *eleven])
    assert (found.floods, found.peak, found.peak_at) == (1, 11, T0 + 40 * MINUTE)
    assert found.flooded == 1 / 144


@pytest.mark.parametrize(
    ("seconds", "count"), [([0, 20, 40], 3), ([0, 30, 60], 0), ([0, 20, 40, 55, 200], 4), ([0, 59], 0), ([], 0)]
)
def test_three_within_a_minute_chatter(seconds, count):
    assert chattering([T0 + s * 1000 for s in seconds]) == count


def test_what_is_joined_chatters_by_its_count_and_points_do_not_chatter_together():
    apart = [told(1, point="p"), told(1.1, point="q"), told(1.2, point="r")]
    assert day(apart).chattering == 0
    assert day([told(1, repeats=2)]).chattering == 1


def test_stale_fleeting_shelved_and_suppressed():
    alarms = [
        told(0, rule="stale", ended_at=T0 + DAY + HOUR), told(0, rule="still", lasting=True),
        told(1, rule="fleeting", ended_at=T0 + MINUTE + 3_000), told(2, rule="quiet", suppressed=True), told(3, shelved=2),
    ]  # fmt: skip
    found = day(alarms)
    assert (found.count, found.stale, found.fleeting, found.shelved, found.suppressed) == (4, 1, 1, 2, 1)
    later = quality(alarms, T0, T0 + 2 * DAY, [T0, T0 + DAY])
    assert later.stale == 2, "what goes on is stale once a day has passed"


def test_shares_of_rules_and_what_was_false():
    alarms = [told(i, rule="goose", outcome="false") for i in range(3)] + [
        told(9, rule="real", outcome="real"),
        told(10),
    ]
    found = day(alarms)
    assert [(r.rule, r.count, r.share) for r in found.rules][0] == ("goose", 3, 0.6)
    assert found.false == 0.75 and found.rules[0].false == 1.0
    assert found.outcomes == {"false": 3, "real": 1}
    assert next(r for r in found.rules if r.rule == "a").false is None, "nothing is false of which nothing was said"


def test_pace_is_told_by_the_median_and_the_ninth_of_ten():
    answered = [told(0, answered_at=T0 + s * 1000) for s in range(1, 11)]
    pace = pace_of([*answered, told(5)])
    assert (pace.median, pace.ninth, pace.answered, pace.unanswered) == (5_000, 9_000, 10, 1)
    assert pace_of([told(0)]).median is None


def test_days_follow_the_edges_that_are_given():
    edges = [T0, T0 + 23 * HOUR]
    found = quality([told(0), told(23 * 60 + 1), told(23 * 60 + 2)], T0, T0 + 47 * HOUR, edges)
    assert [(d.count, d.peak) for d in found.days] == [(1, 1), (2, 2)]


TOLDS = st.lists(
    st.builds(
        lambda m, rule, point, priority, quiet, repeats: told(
            m, rule, point, priority, suppressed=quiet, repeats=repeats
        ),
        st.integers(0, 1439),
        st.sampled_from("abc"),
        st.sampled_from("pq"),
        st.sampled_from(["low", "high"]),
        st.booleans(),
        st.integers(0, 3),
    )
)


@given(TOLDS)
def test_parts_make_up_the_whole(alarms):
    found = day(alarms)
    assert sum(r.count for r in found.rules) == found.count == sum(d.count for d in found.days)
    assert found.count + found.suppressed == len(alarms)
    assert sum(found.spread.values()) == pytest.approx(1 if found.count else 0)
    assert found.peak <= found.count and 0 <= found.flooded <= 1
    assert found.chattering <= found.count + sum(r.repeats for r in found.rules)
