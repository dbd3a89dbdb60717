"""Lanes: order, width, gaps, and what becomes of those that stand in line."""

import pytest

from dromikon.engine.lanes import LONGEST_IN_LINE, Lane, Waiting

LIMIT = 10_000


def waiting(pk, due=0, **more):
    return Waiting(pk, "lane", due, **{"next_try": due, "expires": due + LIMIT, **more})


def filled(count, **more):
    lane = Lane("lane", **more)
    for pk in range(count):
        lane.add(waiting(pk))
    return lane


def test_a_narrow_lane_keeps_order_also_behind_one_that_pauses():
    lane = Lane("lane")
    lane.add(waiting(1, next_try=5_000))
    lane.add(waiting(2))
    assert lane.take(100) == [] and lane.next_moment(100) == 5_000
    assert [s.pk for s in lane.take(5_000)] == [1]
    assert lane.take(5_000) == [], "one at a time"
    lane.done(5_100, gap=700, answered=True)
    assert lane.take(5_799) == [] and [s.pk for s in lane.take(5_800)] == [2]


def test_a_wide_lane_takes_several_and_one_that_pauses_holds_up_nobody():
    lane = filled(20, width=8)
    lane.add(waiting(99, next_try=5_000))
    assert len(lane.take(100)) == 8 and lane.take(100) == []
    for _ in range(3):
        lane.done(200, 0, answered=True)
    assert len(lane.take(200)) == 3


def test_our_own_queueing_expires_nothing_while_the_lane_gets_on():
    lane, now, sent = filled(600, width=1, patient=True), 0, 0
    while lane:
        assert lane.drop_expired(now) == []
        sent += len(lane.take(now))
        now += 90
        lane.done(now, 0, answered=True)
    assert sent == 600 and now > 5 * LIMIT


@pytest.mark.parametrize(
    ("lane", "now"),
    [
        (filled(1), LIMIT + 1),
        (filled(1, patient=True), LIMIT + 1),
        (filled(1, patient=True, progress=5_000), 5_000 + LIMIT + 1),
        (filled(1, patient=True, progress=LONGEST_IN_LINE), LONGEST_IN_LINE + 1),
        (filled(1, progress=LIMIT), LIMIT + 1),
    ],
    ids=["a device", "never answered", "silent for the limit", "too long in line", "a device that gets on"],
)
def test_what_is_too_late_is_dropped(lane, now):
    assert lane.drop_expired(now - 1) == [] and [s.pk for s in lane.drop_expired(now)] == [0] and not lane


def test_one_that_failed_before_is_not_waiting_for_us_and_a_release_never_expires():
    lane = Lane("lane", width=8, patient=True, progress=LIMIT)
    lane.add(waiting(1, attempts=2))
    lane.add(waiting(2, expires=None))
    assert [s.pk for s in lane.drop_expired(LIMIT + 1)] == [1] and len(lane) == 1
