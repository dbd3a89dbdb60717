"""Rules paused at a camera: what counts there, until when, and that a restart and a rehearsal know it."""

import pytest

from dromikon.core.events import Act, Tick
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.evaluate import Evaluator, concerned
from dromikon.core.rules.explain import OUTCOMES, explain
from dromikon.core.rules.rehearse import Change, Stage, rehearse
from dromikon.core.rules.state import State
from tests.core.site import crossing, facts, rule


def paused(seq, at, until, rule_id="r0", camera="cam"):
    return Act(seq, at, "paused", target=rule_id, value=camera, until=until)


def verdicts(evaluator, seq, at, **more):
    return [(v.rule, v.outcome) for v in evaluator.apply(crossing(seq, at, **more)).verdicts]


def test_a_point_concerns_itself_its_channel_and_who_looks_at_it():
    known = facts()
    assert concerned(known, "line") == {"cam"} and concerned(known, "contact") == {"cam", "contact"}
    assert concerned(known, "cam") == {"cam"} and concerned(known, "gone") == frozenset()


def test_only_the_rule_that_is_paused_there_counts_no_more():
    evaluator = Evaluator(facts(rule(), rule(name="Other")))
    evaluator.apply(paused(1, 0, 10_000))
    assert verdicts(evaluator, 2, 1_000) == [("r0", "paused"), ("r1", "fired")]
    assert evaluator.next_wake() == 10_000
    evaluator.apply(Tick(3, 10_000))
    assert verdicts(evaluator, 4, 10_001) == [("r0", "fired"), ("r1", "fired")]


@pytest.mark.parametrize("camera", ["elsewhere", "line2"])
def test_at_another_camera_it_counts(camera):
    evaluator = Evaluator(facts(rule()))
    evaluator.apply(paused(1, 0, 10_000, camera=camera))
    assert verdicts(evaluator, 2, 1_000) == [("r0", "fired")]


def test_it_is_resumed_before_its_end_and_a_later_end_replaces_the_first():
    evaluator = Evaluator(facts(rule()))
    evaluator.apply(paused(1, 0, 10_000))
    evaluator.apply(paused(2, 0, 60_000))
    evaluator.apply(Tick(3, 10_000))
    assert verdicts(evaluator, 4, 11_000) == [("r0", "paused")]
    evaluator.apply(Act(5, 12_000, "resumed", target="r0", value="cam"))
    assert verdicts(evaluator, 6, 13_000) == [("r0", "fired")] and evaluator.next_wake() is None


def test_a_restart_knows_what_is_paused_from_its_rows_alone():
    evaluator = Evaluator(facts(rule()))
    evaluator.apply(paused(1, 0, 10_000))
    rows = [((r, key), row) for r, kept in evaluator.state.rules.items() for key, row in kept.items()]
    again = Evaluator(facts(rule()), State(rows))
    assert verdicts(again, 2, 1_000) == [("r0", "paused")]


def test_a_rehearsal_meets_the_pause_where_live_did_and_a_draft_of_the_rule_too():
    journal = [Change(0, facts(rule())), paused(1, 0, 10_000), crossing(2, 1_000), Tick(3, 10_000), crossing(4, 11_000)]
    live = Stage(None, 0, 20_000, only="r0")
    draft = Stage(facts(rule(hold_off={"seconds": 1})).rules[0], 0, 20_000)
    for result in rehearse(journal, [live, draft]):
        assert [run.event for run in result.runs] == [4] and result.outcomes["paused"] == 1


def test_the_trace_says_so_in_words():
    lines = explain(RuleDocument.model_validate(rule()), facts(rule()), "paused", [])
    assert OUTCOMES["paused"] == "paused at its camera" and lines[-1].seen == "paused by somebody"
