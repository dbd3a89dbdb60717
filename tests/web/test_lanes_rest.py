"""A target that does not answer is left alone; a backlog does not starve what has only just come."""

import pytest

from dromikon.engine.lanes import FIRST_REST, GIVES_UP_AFTER, LONGEST_REST, Breaker, Lane, Waiting
from dromikon.engine.ledger import jitter

pytestmark = pytest.mark.timeless


def step(pk, due=0, attempts=0, expires=10_000_000):
    return Waiting(pk, "x", due, due, expires, attempts)


def test_after_some_calls_without_an_answer_one_tries_and_decides_for_all():
    lane = Lane("x", width=8)
    for pk in range(100):
        lane.add(step(pk))
    now = 0
    for _ in range(GIVES_UP_AFTER):
        [*taken] = lane.take(now)
        for one in taken:
            lane.done(now, 0, answered=False)
            lane.breaker.failed(now)
            lane.add(step(one.pk, attempts=1))
        now += 1
        if lane.breaker.rests:
            break
    assert lane.breaker.rests and lane.take(now) == []
    wakes = lane.next_moment(now)
    assert now < wakes <= now + LONGEST_REST
    assert len(lane.take(wakes)) == 1 and lane.take(wakes) == [] and lane.next_moment(wakes) is None
    lane.done(wakes, 0, answered=True)
    assert lane.breaker.answered() is True and lane.breaker.answered() is False, "told once"
    assert len(lane.take(wakes)) == 8


def test_the_rest_grows_to_a_limit_and_since_stays():
    breaker = Breaker()
    rests = []
    for i in range(GIVES_UP_AFTER + 8):
        if breaker.failed(i * 100_000):
            rests.append(breaker.tries_at - i * 100_000)
    assert rests[0] == FIRST_REST and rests[-1] == LONGEST_REST and rests == sorted(rests)
    assert breaker.since == (GIVES_UP_AFTER - 1) * 100_000


def test_what_has_just_come_takes_turns_with_a_backlog():
    lane = Lane("x", width=4)
    for pk in range(1000):
        lane.add(step(pk, due=0, attempts=1))
    now = 3_600_000
    for pk in range(5000, 5004):
        lane.add(step(pk, due=now))
    taken = [lane.take(now)]
    for _ in range(1):
        for _ in taken[-1]:
            lane.done(now, 0, answered=True)
        taken.append(lane.take(now))
    first = [s.pk for s in taken[0] + taken[1]]
    assert {5000, 5001, 5002, 5003} <= set(first) and first.count(0) == 1, "half and half"


def test_a_lane_that_keeps_order_has_no_turns():
    lane = Lane("x", width=1)
    for pk, due in ((3, 30), (1, 10), (2, 20)):
        lane.add(step(pk, due=due, attempts=pk % 2))
    order = []
    while taken := lane.take(100):
        order += [s.pk for s in taken]
        lane.done(100, 0, answered=True)
    assert order == [1, 2, 3]


def test_one_is_not_taken_in_twice():
    lane = Lane("x", width=2)
    lane.add(step(1))
    lane.add(step(1))
    assert len(lane) == 1 and [s.pk for s in lane.take(0)] == [1]
    lane.add(step(1, attempts=1))
    assert len(lane) == 1


def test_what_failed_together_does_not_come_again_together():
    spread = {round(jitter(pk, 1), 3) for pk in range(200)}
    assert len(spread) > 100 and min(spread) >= 0.8 and max(spread) <= 1.2 and jitter(7, 2) == jitter(7, 2)


def test_a_step_that_would_be_too_late_tries_a_resting_target_sooner():
    lane = Lane("x", width=1)
    for i in range(GIVES_UP_AFTER + 4):
        lane.breaker.failed(i * 1000)
    failed_at, planned = lane.breaker.failed_at, lane.breaker.tries_at
    assert planned > failed_at + 20_000
    lane.add(step(1, due=failed_at + 100, expires=failed_at + 10_100))
    assert lane.take(failed_at + 1_000) == [], "not at once"
    assert lane.next_moment(failed_at + 1_000) == failed_at + FIRST_REST
    assert [s.pk for s in lane.take(failed_at + FIRST_REST)] == [1], "a command is not lost to a rest"
    patient = Lane("y", width=8)
    patient.breaker = lane.breaker
    patient.add(step(2, due=failed_at + 100, expires=planned + 1))
    assert patient.next_moment(failed_at + 3_000) == planned
