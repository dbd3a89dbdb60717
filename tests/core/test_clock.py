"""Rules that a time sets off: of day, of the sun, the start and end of hours, across clock changes and restarts."""

from datetime import UTC, datetime

import pytest

from dromikon.core.events import Tick
from dromikon.core.instants import from_datetime, iso
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.sentence import plain, sentence
from dromikon.core.rules.state import State
from tests.core.site import facts, rule


def at(*when):
    return from_datetime(datetime(*when, tzinfo=UTC))


def times(cause, start, count, **more):
    """The first firings after an instant, as UTC."""
    known = facts(rule(cause={"cause": "at", **cause}), **more)
    evaluator = Evaluator(known)
    evaluator.replace(known, start)
    found = []
    for seq in range(40):
        wake = evaluator.next_wake()
        if wake is None or len(found) == count:
            break
        found += [iso(r.zero)[:16] for r in evaluator.apply(Tick(seq + 1, wake)).runs]
    return found


def test_a_time_of_day_follows_the_sites_wall_clock():
    assert times({"time": "18:30"}, at(2026, 3, 27, 18, 30), 3) == [
        "2026-03-28T18:30",
        "2026-03-29T17:30",
        "2026-03-30T17:30",
    ]


def test_a_skipped_time_fires_at_the_jump_and_a_doubled_one_once():
    assert times({"time": "01:30"}, at(2026, 3, 28, 12), 2) == ["2026-03-29T01:00", "2026-03-30T00:30"]
    assert times({"time": "01:30"}, at(2026, 10, 24, 12), 2) == ["2026-10-25T00:30", "2026-10-26T01:30"]


def test_only_on_some_days():
    assert times({"time": "07:00", "days": ["tue", "fri"]}, at(2026, 11, 25), 3) == [
        "2026-11-27T07:00", "2026-12-01T07:00", "2026-12-04T07:00",
    ]  # fmt: skip


def test_an_offset_to_the_sun():
    place = {"latitude": 54.2, "longitude": -2.9}
    (sunset,) = times({"at": "sunset"}, at(2026, 11, 25), 1, **place)
    (later,) = times({"at": "sunset", "offset": 20}, at(2026, 11, 25), 1, **place)
    assert sunset == "2026-11-25T15:57" and later == "2026-11-25T16:17"


def test_the_start_and_end_of_hours():
    office = {"hours": {"id": "office"}}
    assert times({"at": "start", **office}, at(2026, 11, 27, 9), 2) == ["2026-11-30T09:00", "2026-12-01T09:00"]
    assert times({"at": "end", "offset": -15, **office}, at(2026, 11, 27, 9), 2) == [
        "2026-11-27T16:45",
        "2026-11-30T16:45",
    ]
    assert times({"at": "start", "hours": {"id": "gone"}}, at(2026, 11, 27), 1) == []


def test_the_event_is_the_sites_and_one_for_all_rules_of_a_moment():
    known = facts(*(rule(cause={"cause": "at", "time": "12:00"}) for _ in range(2)))
    evaluator = Evaluator(known)
    evaluator.replace(known, at(2026, 11, 25))
    outcome = evaluator.apply(Tick(7, at(2026, 11, 25, 12)))
    assert [(e.seq, e.point, e.fields["clock"]) for e in outcome.events] == [(7, "", "12:00")]
    assert [r.ref for r in outcome.runs] == ["7.r0", "7.r1"]


def test_a_clock_survives_a_restart():
    known = facts(rule(cause={"cause": "at", "time": "12:00"}))
    evaluator = Evaluator(known)
    evaluator.replace(known, at(2026, 11, 25))
    again = Evaluator(known, State(list(evaluator.state.all_rows())))
    assert again.next_wake() == at(2026, 11, 25, 12)


def test_it_reads_as_a_sentence():
    cause = {"cause": "at", "at": "end", "offset": -15, "hours": {"id": "office"}, "days": ["mon", "tue"]}
    words = plain(sentence(RuleDocument.model_validate(rule(cause=cause)), facts()))
    assert words.startswith("When office hours end less 15 min on Mondays and Tuesdays: raise")


@pytest.mark.parametrize(
    "cause",
    [
        {"at": "time"},
        {"at": "time", "time": "25:00"},
        {"at": "sunset", "time": "12:00"},
        {"at": "start"},
        {"time": "12:00", "offset": 5},
        {"at": "sunset", "hours": {"id": "office"}},
    ],
)
def test_clocks_that_make_no_sense_are_refused(cause):
    with pytest.raises(ValueError):
        RuleDocument.model_validate(rule(cause={"cause": "at", **cause}))
