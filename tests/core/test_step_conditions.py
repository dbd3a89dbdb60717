"""What a step asks when it is due: conditions and hours of its own."""

import pytest

from dromikon.core.rules.checks import check
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.explain import asked_lines
from dromikon.core.rules.rehearse import Change, Stage, rehearse
from dromikon.core.rules.running import UNFULFILLED
from dromikon.core.rules.sentence import plain, sentence
from dromikon.core.rules.timeplan import time_plan
from tests.core.site import contact, crossing, facts, rule
from tests.core.test_response import tick_until

#: Wednesday, 13 May 2026: in office hours at 16:59:50, and a moment later not.
BEFORE_FIVE = 1_778_687_990_000
OPEN = {"test": "state", "kind": "input.active", "point": {"id": "contact"}}
LATER = {"do": "line", "text": "still open", "after": 30, "provided": OPEN}


def told(*entries, response=(LATER,), start=0, until=100_000, orders=True, **parts):
    """What a rule's steps came to: texts that were written, and what was turned away."""
    evaluator = Evaluator(facts(rule(response=list(response), **parts)), orders=orders)
    outcomes = []
    for entry in entries:
        outcomes += tick_until(evaluator, entry.at)
        outcomes.append(evaluator.apply(entry))
    outcomes += tick_until(evaluator, start + until)
    written = [o.payload.get("text", o.payload.get("state")) for out in outcomes for o in out.orders]
    return written, [d for out in outcomes for d in out.dropped]


def test_a_step_asks_for_the_state_when_it_is_due_and_not_when_the_rule_fired():
    opened, shut = contact(1, 0, True), contact(3, 20_000, False)
    written, dropped = told(opened, crossing(2, 1_000))
    assert written == ["still open"] and dropped == []
    written, dropped = told(opened, crossing(2, 1_000), shut)
    assert written == []
    assert [(d.step, d.due, d.why, d.seen) for d in dropped] == [
        (0, 31_000, UNFULFILLED, (("response.0.provided", False, False),))
    ]


def test_it_may_have_become_true_since():
    assert told(crossing(1, 0), contact(2, 20_000, True)) == (["still open"], [])


def test_hours_are_asked_when_it_is_due():
    step = {"do": "line", "text": "in time", "hours": {"hours": {"id": "office"}}}
    written, dropped = told(
        crossing(1, BEFORE_FIVE), response=[step, {**step, "text": "late", "after": 15}], start=BEFORE_FIVE
    )
    assert written == ["in time"]
    assert [(d.step, d.seen[0][:2]) for d in dropped] == [(1, ("response.1.hours", False))]


@pytest.mark.parametrize(("cls", "said"), [("vehicle", "a car"), ("human", "somebody")])
def test_one_of_two_steps_by_what_the_event_said(cls, said):
    steps = [
        {"do": "line", "text": text, "provided": {"test": "field", "field": "class", "op": "is", "value": wanted}}
        for text, wanted in (("a car", "vehicle"), ("somebody", "human"))
    ]
    assert told(crossing(1, 0, **{"class": cls}), response=steps)[0] == [said]


def test_the_runs_own_event_is_no_predecessor():
    since = {"test": "since", "kind": "scene.line_crossed", "seconds": 60}
    step = {"do": "line", "text": "again", "after": 5, "provided": since}
    assert told(crossing(1, 0), response=[step])[0] == []
    assert told(crossing(1, 0), crossing(2, 2_000), response=[step])[0] == ["again", "again"]


def test_an_alarm_that_was_not_raised_waits_for_no_answer():
    alarm = {**rule()["response"][0], "provided": OPEN}
    late = {"do": "line", "text": "nobody", "anchor": "unanswered", "after": 10}
    assert told(crossing(1, 0), response=[alarm, late])[0] == []


def test_an_output_that_was_not_switched_is_not_released_and_meets_no_repeat():
    light = {"do": "relay", "target": {"point": {"id": "light"}}, "held": 20.0, "provided": OPEN}
    for orders in (True, False):
        _, dropped = told(crossing(1, 0), crossing(2, 5_000), response=[light], again="ignore", orders=orders)
        assert len(dropped) == 2, "the second is a run of its own, live and rehearsed"


def test_a_rehearsal_counts_what_steps_ask_in_vain():
    document = rule(response=[LATER])
    stage = Stage(facts(document).rules[0], 0, 200_000)
    entries = [Change(0, facts(document)), crossing(1, 1_000), contact(2, 60_000, True), crossing(3, 70_000)]
    [result] = rehearse(entries, [stage])
    assert len(result.runs) == 2
    assert dict(result.turned_away) == {"response.0.provided": 1}


def test_it_is_read_in_the_sentence_the_plan_and_the_trace():
    document = RuleDocument.model_validate(
        rule(response=[{**LATER, "hours": {"hours": {"id": "office"}, "inside": False}}])
    )
    known = facts()
    said = plain(sentence(document, known))
    assert "only if then Gate contact" in said and said.endswith(", outside office hours.")
    assert [bar.asks for bar in time_plan(document, known).bars] == [True]
    lines = asked_lines(document, known, [("response.0.provided", False, False), ("response.0.hours", True, 0)])
    assert [(line.part, line.held) for line in lines] == [("response.0.provided", False), ("response.0.hours", True)]
    assert lines[1].wanted == "outside office hours"


def test_checks_look_into_steps():
    wrong = {"do": "line", "text": "x", "hours": {"hours": {"id": "gone"}}, "provided": {
        "test": "all", "of": [{"test": "field", "field": "class", "op": "is", "value": "human"},
                              {"test": "field", "field": "class", "op": "is", "value": "vehicle"}]}}  # fmt: skip
    found = {(f.check, f.path) for f in check(RuleDocument.model_validate(rule(response=[wrong])), facts())}
    assert ("contradiction", "response.0.provided") in found
    assert ("unknown-reference", "response.0.hours.hours") in found
