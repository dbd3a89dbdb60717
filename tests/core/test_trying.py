"""A case put to a rule: decided by the live evaluator, with nothing done; and a test of a live rule that disturbs nothing."""

import pytest

from dromikon.core.events import Event, Phase, Tick
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.trace_axis import place, reach_of, ticks
from dromikon.core.rules.trying import Case, try_case
from dromikon.core.stored import event_from_json, event_to_json
from tests.core.site import contact, crossing, facts, rule

CROSSED = {"kind": "scene.line_crossed", "point": "line", "fields": {"class": "human", "confidence": 90}}
OPENED = {"kind": "input.active", "point": "contact", "phase": "begin"}
AT = 1_780_000_000_000


def tried(document, **case):
    content = RuleDocument.model_validate(document)
    return try_case(content, facts(modes=("day", "works")), Case.model_validate(case), AT)


def test_a_made_up_event_fires_a_rule_and_its_plan_goes_by_zero():
    document = rule(response=[{"do": "line", "text": "a"}, {"do": "line", "text": "b", "after": 30}])
    found = tried(document, events=[{**CROSSED, "after": 5}])
    assert found.fired and found.zero == AT + 5000
    assert [(o.step, o.due - found.zero) for o in found.orders] == [(0, 0), (1, 30_000)]


def test_what_waits_is_waited_for_and_what_is_called_off_is():
    lasting = rule(
        cause={"cause": "lasting", "kind": "input.active", "seconds": 60, "where": {"points": [{"id": "contact"}]}}
    )
    assert tried(lasting, events=[OPENED]).zero == AT + 60_000
    ended = {**OPENED, "phase": "end", "after": 20}
    found = tried(lasting, events=[OPENED, ended])
    assert not found.fired and found.verdicts[-1].outcome == "called_off"


def test_mode_states_and_answers_are_those_of_the_case():
    gated = rule(provided={"test": "mode", "modes": ["works"]})
    assert not tried(gated, events=[CROSSED]).fired and tried(gated, events=[CROSSED], mode="works").fired
    state = rule(provided={"test": "state", "kind": "input.active", "point": {"id": "contact"}})
    assert not tried(state, events=[CROSSED]).fired
    assert tried(state, events=[CROSSED], states={"input.active@contact": True}).fired
    asked = rule(
        response=[{"do": "alarm", "title": "x"}, {"do": "line", "text": "nobody", "anchor": "unanswered", "after": 60}]
    )
    assert [o.action for o in tried(asked, events=[CROSSED]).orders][-1] == "line"
    assert [o.action for o in tried(asked, events=[CROSSED], answered=10).orders][-1] != "line"


def test_a_rule_of_the_clock_is_waited_for():
    found = tried(rule(cause={"cause": "at", "time": "06:00"}, response=[{"do": "line", "text": "a", "after": 60}]))
    assert len(found.runs) == 1 and 0 < found.zero - AT <= 86_400_000
    assert [o.due - found.zero for o in found.orders] == [60_000]


def test_a_rule_that_is_not_about_an_event_says_nothing():
    assert tried(rule(), events=[{**CROSSED, "point": "bay"}]).verdicts == []


# -- for real ----------------------------------------------------------------------------------------------------------


def made_up(seq, at, point="line", kind="scene.line_crossed", phase=Phase.PULSE):
    return Event(seq, kind, point, phase, at, at, at, fields={"class": "human", "confidence": 90.0}, test=True)


def test_a_test_is_marked_in_whatever_it_says_and_holds_nothing_off():
    quiet = rule(hold_off={"seconds": 600}, response=[{"do": "line", "text": "crossed"}])
    evaluator = Evaluator(facts(quiet))
    tested = evaluator.try_out("r0", made_up(1, 1000), 11_000)
    assert tested.runs[0].test and tested.orders[0].payload["text"] == "Test: crossed"
    real = evaluator.apply(crossing(2, 2000))
    assert real.verdicts[0].outcome == "fired" and real.orders[0].payload["text"] == "crossed"
    held_off = evaluator.try_out("r0", made_up(3, 3000), 13_000)
    assert held_off.runs, "nor is it held off by what really happened"


def test_a_test_of_a_state_ends_by_itself_and_leaves_the_real_one_alone():
    held = rule(
        cause={"cause": "event", "kind": "input.active", "phase": "begin", "where": {"points": [{"id": "contact"}]}},
        response=[{"do": "relay", "target": {"point": {"id": "light"}}, "held": "state"}],
    )
    evaluator = Evaluator(facts(held))
    evaluator.try_out("r0", made_up(1, 1000, "contact", "input.active", Phase.BEGIN), 11_000)
    assert evaluator.told_state("input.active", "contact") is None, "the contact was never told to be on"
    evaluator.apply(contact(2, 2000, True))
    over = evaluator.apply(Tick(3, 11_000))
    assert over.ended == ["1.r0"] and evaluator.told_state("input.active", "contact") is True
    assert evaluator.apply(contact(4, 20_000, False)).ended == ["2.r0"]


def test_conditions_are_asked_in_a_test_too_and_a_rule_that_is_gone_does_nothing():
    evaluator = Evaluator(facts(rule(provided={"test": "field", "field": "class", "op": "is", "value": "animal"})))
    outcome = evaluator.try_out("r0", made_up(1, 1000), 2000)
    assert [v.outcome for v in outcome.verdicts] == ["not_provided"] and not outcome.runs
    assert evaluator.try_out("gone", made_up(2, 1000), 2000).verdicts == []


def test_a_tests_mark_survives_being_stored():
    event = made_up(1, 1000)
    assert (
        event_from_json(event_to_json(event)) == event and event_from_json(event_to_json(crossing(1, 0))).test is False
    )


# -- the axis ----------------------------------------------------------------------------------------------------------


def test_the_axis_keeps_order_and_shows_seconds_and_hours_at_once():
    reach = reach_of([0, 2, 45, 7200])
    at = [place(s, reach) for s in (0, 2, 45, 7200, reach)]
    assert at == sorted(at) and at[0] == 0 and at[-1] == 1 and at[1] > 0.05 and at[3] < 1
    assert [s for s, _ in ticks(reach_of([3]))] == [1, 10] and reach_of([]) == 10
    assert reach_of([100_000]) == pytest.approx(120_000) and place(5, 0) == 0
