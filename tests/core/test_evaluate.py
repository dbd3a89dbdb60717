"""The evaluator: when rules fire, wait, hold off, and what they order."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromikon.core.events import Act, Event, Phase, Tick
from dromikon.core.rules.actions import Delivery
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.running import CHANGED, LATE
from dromikon.core.rules.sentence import plain, sentence
from dromikon.core.rules.state import State
from tests.core.site import contact, crossing, facts, rule

LASTING = {"cause": "lasting", "kind": "input.active", "seconds": 30, "where": {"points": [{"id": "contact"}]}}
BEGINS = {"cause": "event", "kind": "input.active", "phase": "begin", "where": {"points": [{"id": "contact"}]}}
RELAY = {"do": "relay", "target": {"point": {"id": "light"}}}


def outcomes(outcome):
    return [(v.rule, v.outcome) for v in outcome.verdicts]


def test_fires_once_for_a_matching_event_and_fills_the_texts():
    outcome = Evaluator(facts(rule())).apply(crossing(1, 1000))
    assert outcomes(outcome) == [("r0", "fired")]
    assert outcome.orders[0].payload["title"] == "human at Lake line"
    assert outcome.orders[0].payload["cameras"] == ["cam"]


def test_looks_only_at_its_own_points_kinds_and_phases():
    evaluator = Evaluator(facts(rule()))
    assert evaluator.apply(crossing(1, 1000, "line2")).verdicts == []
    assert evaluator.apply(contact(2, 1000, True)).verdicts == []


@pytest.mark.parametrize(
    ("where", "points"),
    [
        ({"areas": [{"id": "lake"}]}, {"line", "line2"}),
        ({"tags": ["water"]}, {"line"}),
        ({"everywhere": True, "but": [{"id": "line"}]}, {"line2", "bay"}),
        ({"point_kinds": ["detector"]}, {"line", "line2", "bay"}),
    ],
)
def test_selections_reach_the_points_they_name_and_inner_areas(where, points):
    cause = {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": where}
    evaluator = Evaluator(facts(rule(cause=cause)))
    fired = {p for i, p in enumerate(("line", "line2", "bay")) if evaluator.apply(crossing(i, i, p)).runs}
    assert fired == points


def test_every_condition_is_seen_even_when_the_first_says_no():
    provided = {
        "test": "all",
        "of": [
            {"test": "field", "field": "class", "op": "is", "value": "animal"},
            {"test": "field", "field": "confidence", "op": "at_least", "value": 90},
        ],
    }
    outcome = Evaluator(facts(rule(provided=provided))).apply(crossing(1, 1000))
    verdict = outcome.verdicts[0]
    assert verdict.outcome == "not_provided"
    assert verdict.seen == (("provided.of.0", False, "human"), ("provided.of.1", False, 80.0))


@pytest.mark.parametrize(
    ("condition", "holds"),
    [
        ({"field": "class", "op": "one_of", "value": ["vehicle", "Human"]}, True),
        ({"field": "confidence", "op": "between", "value": [70, 80]}, True),
        ({"field": "confidence", "op": "at_most", "value": 79.9}, False),
        ({"field": "class", "op": "matches", "value": "^hu"}, True),
        ({"field": "class", "op": "contains", "value": "MAN"}, True),
        ({"field": "height", "op": "at_most", "value": 50}, False),
        ({"field": "height", "op": "is_not", "value": "5"}, False),
    ],
)
def test_comparisons(condition, holds):
    outcome = Evaluator(facts(rule(provided={"test": "field", **condition}))).apply(crossing(1, 1000))
    assert bool(outcome.runs) is holds


def test_any_and_not():
    animal = {"test": "field", "field": "class", "op": "is", "value": "animal"}
    sure = {"test": "field", "field": "confidence", "op": "at_least", "value": 70}
    assert Evaluator(facts(rule(provided={"test": "any", "of": [animal, sure]}))).apply(crossing(1, 1)).runs
    assert Evaluator(facts(rule(provided={"test": "not", "of": animal}))).apply(crossing(1, 1)).runs
    assert not Evaluator(facts(rule(provided={"test": "not", "of": sure}))).apply(crossing(1, 1)).runs


def test_hours_inside_and_outside():
    monday_noon, monday_night = 1_774_872_000_000, 1_774_915_200_000
    inside = Evaluator(facts(rule(hours={"hours": {"id": "office"}})))
    outside = Evaluator(facts(rule(hours={"hours": {"id": "office"}, "inside": False})))
    assert inside.apply(crossing(1, monday_noon)).runs
    assert outcomes(inside.apply(crossing(2, monday_night))) == [("r0", "outside_hours")]
    assert not outside.apply(crossing(1, monday_noon)).runs
    assert outside.apply(crossing(2, monday_night)).runs


@pytest.mark.parametrize(("per", "second_fires"), [("rule", False), ("point", True), ("area", True)])
def test_hold_off_counts_per_what_it_says(per, second_fires):
    cause = {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": {"point_kinds": ["detector"]}}
    evaluator = Evaluator(facts(rule(cause=cause, hold_off={"seconds": 60, "per": per})))
    assert evaluator.apply(crossing(1, 0)).runs
    assert outcomes(evaluator.apply(crossing(2, 59_999))) == [("r0", "held_off")]
    assert bool(evaluator.apply(crossing(3, 59_999, "bay")).runs) is second_fires
    evaluator.apply(Tick(4, 60_000))
    assert evaluator.apply(crossing(5, 60_000)).runs


def test_at_most_so_many_within_a_sliding_window():
    evaluator = Evaluator(facts(rule(hold_off={"seconds": 60, "most": 2, "per": "rule"})))
    fired = []
    for seq, at in enumerate((0, 20, 30, 59, 60, 61, 79, 80, 130)):
        while (wake := evaluator.next_wake()) is not None and wake <= at * 1000:
            evaluator.apply(Tick(100 + seq, wake))
        if evaluator.apply(crossing(seq, at * 1000)).runs:
            fired.append(at)
    assert fired == [0, 20, 60, 80, 130]
    verdict = evaluator.apply(crossing(50, 135_000)).verdicts[0]
    assert (verdict.outcome, verdict.seen) == ("held_off", (("hold_off", False, 140_000),))
    words = plain(
        sentence(RuleDocument.model_validate(rule(hold_off={"seconds": 60, "most": 2, "per": "rule"})), facts())
    )
    assert "at most 2 times in 60 s per rule" in words


def test_hold_off_per_field_keeps_subjects_apart():
    evaluator = Evaluator(facts(rule(hold_off={"seconds": 60, "per": "field", "field": "object"})))
    fired = [bool(evaluator.apply(crossing(i, i, object=o)).runs) for i, o in enumerate((7, 7, 8))]
    assert fired == [True, False, True]


def test_lasting_fires_when_the_time_is_up_and_not_when_it_ended_before():
    evaluator = Evaluator(facts(rule(cause=LASTING)))
    assert outcomes(evaluator.apply(contact(1, 0, True))) == [("r0", "waiting")]
    assert evaluator.next_wake() == 30_000
    assert outcomes(evaluator.apply(contact(2, 29_000, False))) == [("r0", "called_off")]
    assert evaluator.next_wake() is None
    evaluator.apply(contact(3, 40_000, True))
    outcome = evaluator.apply(Tick(4, 70_000))
    assert [(r.event, r.ref, r.at) for r in outcome.runs] == [(3, "4.r0", 70_000)]


def test_a_state_told_at_first_connection_starts_nothing_but_is_known():
    evaluator = Evaluator(facts(rule(cause=BEGINS)))
    assert evaluator.told_state("input.active", "contact") is None
    assert outcomes(evaluator.apply(contact(1, 0, True, initial=True))) == [("r0", "initial")]
    assert evaluator.told_state("input.active", "contact") is True


def test_a_late_event_raises_alarms_but_never_once_only_steps():
    evaluator = Evaluator(facts(rule(cause=BEGINS, response=[*rule()["response"], {**RELAY, "held": 30}])))
    outcome = evaluator.apply(contact(1, 0, True, late=True))
    assert [o.action for o in outcome.orders] == ["alarm"]
    assert [(d.run, d.step, d.action, d.why) for d in outcome.dropped] == [("1.r0", 1, "relay", LATE)]
    assert not [o for o in evaluator.apply(Tick(2, 60_000)).orders if o.release]


def test_an_output_held_for_seconds_is_released_at_its_time():
    evaluator = Evaluator(facts(rule(response=[{**RELAY, "held": 20}])))
    assert [(o.delivery, o.release) for o in evaluator.apply(crossing(1, 0)).orders] == [(Delivery.ONCE_ONLY, False)]
    assert evaluator.next_wake() == 20_000
    released = evaluator.apply(Tick(2, 20_000)).orders
    assert [(o.delivery, o.release, o.target, o.due) for o in released] == [(Delivery.RELEASE, True, "light", 20_000)]
    assert evaluator.next_wake() is None


def test_an_output_held_while_the_state_lasts_is_released_when_it_ends():
    evaluator = Evaluator(facts(rule(cause=BEGINS, response=[{**RELAY, "held": "state"}])))
    evaluator.apply(contact(1, 0, True))
    assert evaluator.next_wake() is None
    outcome = evaluator.apply(contact(2, 5_000, False))
    assert [(o.release, o.target) for o in outcome.orders] == [(True, "light")]
    assert outcome.ended == ["1.r0"]


def test_steps_come_at_their_offset_and_at_the_end():
    steps = [{"do": "bookmark", "after": 5}, {"do": "bookmark", "anchor": "end", "after": 2, "title": "over"}]
    evaluator = Evaluator(facts(rule(cause=BEGINS, response=steps)))
    assert evaluator.apply(contact(1, 0, True)).orders == []
    assert [o.step for o in evaluator.apply(Tick(2, 5_000)).orders] == [0]
    evaluator.apply(contact(3, 8_000, False))
    assert [(o.step, o.due) for o in evaluator.apply(Tick(4, 10_000)).orders] == [(1, 10_000)]


def test_unanswered_steps_come_unless_somebody_answers():
    steps = [*rule()["response"], {"do": "popup", "anchor": "unanswered", "after": 60, "groups": [{"id": "ops"}]}]
    left, answered = Evaluator(facts(rule(response=steps))), Evaluator(facts(rule(response=steps)))
    for evaluator in (left, answered):
        evaluator.apply(crossing(1, 0))
    assert [o.action for o in left.apply(Tick(2, 60_000)).orders] == ["popup"]
    answered.apply(Act(2, 30_000, "acknowledged", "1.r0", "someone"))
    assert answered.apply(Tick(3, 60_000)).orders == []


def test_acknowledged_steps_wait_for_the_answer():
    steps = [*rule()["response"], {"do": "bookmark", "anchor": "acknowledged", "after": 1}]
    evaluator = Evaluator(facts(rule(response=steps)))
    evaluator.apply(crossing(1, 0))
    assert evaluator.apply(Act(2, 9_000, "acknowledged", "1.r0", "x")).orders == []
    assert [o.action for o in evaluator.apply(Tick(3, 10_000)).orders] == ["bookmark"]


def test_a_rule_that_is_changed_or_gone_releases_what_it_holds_and_drops_what_is_pending():
    steps = [{**RELAY, "held": 60}, {"do": "bookmark", "after": 30}]
    for after in (facts(), facts(rule(response=steps), revision=2)):
        evaluator = Evaluator(facts(rule(response=steps)))
        evaluator.apply(crossing(1, 0))
        outcome = evaluator.replace(after, 1_000)
        assert [(o.release, o.target, o.due) for o in outcome.orders] == [(True, "light", 1_000)]
        assert [(d.run, d.step, d.due, d.why) for d in outcome.dropped] == [("1.r0", 1, 30_000, CHANGED)]
        assert evaluator.next_wake() is None


def test_a_rule_that_did_not_change_goes_on_waiting():
    evaluator = Evaluator(facts(rule(cause=LASTING)))
    evaluator.apply(contact(1, 0, True))
    evaluator.replace(facts(rule(cause=LASTING), rule()), 1_000)
    assert evaluator.apply(Tick(2, 30_000)).runs


def test_a_document_that_cannot_be_compiled_stops_nobody_else():
    evaluator = Evaluator(facts({"name": "broken", "cause": {"cause": "never"}}, rule()))
    assert "r0" in evaluator.refused
    assert outcomes(evaluator.apply(crossing(1, 0))) == [("r1", "fired")]


def test_only_changed_rows_are_given_out_for_keeping():
    evaluator = Evaluator(facts(rule(hold_off={"seconds": 60, "per": "field", "field": "object"})))
    evaluator.apply(crossing(1, 0, object=7))
    assert set(evaluator.state.take_changes()) == {("r0", "hold|=7")}
    evaluator.apply(crossing(2, 10, object=7))
    assert evaluator.state.take_changes() == {}
    evaluator.apply(Tick(3, 60_000))
    assert evaluator.state.take_changes() == {("r0", "hold|=7"): None}


RULES = (
    rule(hold_off={"seconds": 3}, response=[{**RELAY, "held": 4}, {"do": "bookmark", "after": 2}]),
    rule(cause=LASTING | {"seconds": 5}, response=[{**RELAY, "held": "state"}, {"do": "bookmark", "anchor": "end"}]),
    rule(
        cause=BEGINS,
        response=[*rule()["response"], {"do": "popup", "anchor": "unanswered", "after": 3, "groups": [{"id": "ops"}]}],
    ),
)
STREAM = st.lists(st.tuples(st.integers(0, 4000), st.sampled_from(["line", "bay", "on", "off", "ack"])), max_size=30)


def play(evaluator, stream, restart_every=None):
    """Feed a stream with ticks where they are due; optionally lose the process now and then."""
    found, seq, at = [], 0, 0
    for i, (gap, what) in enumerate(stream):
        at += gap
        while (wake := evaluator.next_wake()) is not None and wake <= at:
            seq += 1
            found.append(evaluator.apply(Tick(seq, wake)))
        seq += 1
        entry = (
            Act(seq, at, "acknowledged", f"{max(1, seq - 1)}.r0", "x")
            if what == "ack"
            else contact(seq, at, what == "on")
            if what in ("on", "off")
            else crossing(seq, at, what)
        )
        found.append(evaluator.apply(entry))
        if restart_every and i % restart_every == 0:
            rows = json.loads(json.dumps([[list(k), r] for k, r in evaluator.state.all_rows()]))
            evaluator = Evaluator(evaluator.facts, State([(tuple(k), r) for k, r in rows]))
    return [(o.verdicts, o.runs, o.orders, o.ended) for o in found]


@settings(max_examples=150, deadline=None)
@given(STREAM, st.integers(1, 5))
def test_a_restart_at_any_moment_changes_nothing(stream, every):
    assert play(Evaluator(facts(*RULES)), stream, every) == play(Evaluator(facts(*RULES)), stream)


@settings(max_examples=100, deadline=None)
@given(STREAM)
def test_what_is_switched_on_is_released_once(stream):
    evaluator = Evaluator(facts(*RULES))
    orders = [
        o
        for _, _, orders, _ in play(evaluator, [*stream, (10_000, "off"), (100_000, "bay")])
        for o in orders
        if o.action == "relay"
    ]
    on = sorted((o.run, o.step) for o in orders if not o.release)
    off = sorted((o.run, o.step) for o in orders if o.release)
    assert on == off


def test_events_are_as_stored():
    from dromikon.core.stored import event_from_json, event_to_json

    event = Event(1, "input.active", "contact", Phase.BEGIN, 5, 4, 5, 3, {"a": 1.5, "b": None}, late=True)
    assert event_from_json(json.loads(json.dumps(event_to_json(event)))) == event
