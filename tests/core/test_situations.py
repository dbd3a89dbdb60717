"""Conditions on what is known besides the event: states elsewhere, and time since something else."""

import pytest
from pydantic import ValidationError

from dromikon.core.events import Act, Event, Phase, Tick
from dromikon.core.rules.checks import check
from dromikon.core.rules.conditions import CONDITIONS
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.explain import explain
from dromikon.core.rules.rehearse import Change, Stage, rehearse
from dromikon.core.rules.sentence import plain, sentence
from tests.core.site import contact, crossing, facts, rule

GATE = {"test": "state", "kind": "input.active", "point": {"id": "contact", "name": "Gate contact"}}
RECENT = {"test": "since", "kind": "input.active", "point": {"id": "contact"}, "seconds": 10}


def outcome_of(evaluator, seq, at, point="line"):
    return evaluator.apply(crossing(seq, at, point)).verdicts[0].outcome


def test_a_state_elsewhere_decides():
    evaluator = Evaluator(facts(rule(provided=GATE), rule(provided={**GATE, "on": False})))

    def outcomes(seq):
        return [v.outcome for v in evaluator.apply(crossing(seq, seq * 1000)).verdicts]

    assert outcomes(1) == ["not_provided", "not_provided"], "what was never told is neither"
    evaluator.apply(contact(2, 2000, True))
    assert outcomes(3) == ["fired", "not_provided"]
    evaluator.apply(contact(4, 4000, False))
    assert outcomes(5) == ["not_provided", "fired"]


def test_a_state_told_on_first_connection_counts():
    evaluator = Evaluator(facts(rule(provided=GATE)))
    evaluator.apply(contact(1, 0, True, initial=True))
    assert outcome_of(evaluator, 2, 1000) == "fired"


def test_time_since_something_else_within_and_not_within():
    for within, expected in (
        (True, ["not_provided", "fired", "not_provided", "not_provided"]),
        (False, ["fired", "not_provided", "fired", "fired"]),
    ):
        evaluator = Evaluator(facts(rule(provided={**RECENT, "within": within})))
        found = [outcome_of(evaluator, 1, 0)]
        evaluator.apply(contact(2, 5_000, True))
        found += [outcome_of(evaluator, 3, 6_000), outcome_of(evaluator, 4, 15_000), outcome_of(evaluator, 5, 15_001)]
        assert found == expected


def test_an_event_is_not_its_own_predecessor():
    quiet = {"test": "since", "kind": "scene.line_crossed", "seconds": 60, "within": False}
    evaluator = Evaluator(facts(rule(provided=quiet)))
    assert [outcome_of(evaluator, i, at * 1000) for i, at in enumerate((0, 30, 100))] == [
        "fired",
        "not_provided",
        "fired",
    ]


def test_at_the_same_point_means_the_point_of_the_event():
    quiet = {"test": "since", "kind": "scene.line_crossed", "seconds": 60, "within": False}
    cause = {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": {"point_kinds": ["detector"]}}
    evaluator = Evaluator(facts(rule(cause=cause, provided=quiet)))
    assert [outcome_of(evaluator, i, i * 1000, p) for i, p in enumerate(("line", "bay", "line"))] == [
        "fired",
        "fired",
        "not_provided",
    ]


def test_only_what_is_asked_for_is_remembered():
    evaluator = Evaluator(facts(rule(provided=RECENT)))
    evaluator.apply(crossing(1, 0))
    evaluator.apply(contact(2, 0, True))
    assert [k for k in evaluator.state.rules[""] if k.startswith("last|")] == ["last|input.active@contact"]
    assert not Evaluator(facts(rule()))._timed


def test_inside_a_pattern_too():
    pattern = {"kind": "scene.line_crossed", "phase": "pulse", "where": {"points": [{"id": "line"}]}, "provided": GATE}
    evaluator = Evaluator(facts(rule(cause={"cause": "repeated", "times": 2, "within": 60, "what": pattern})))
    evaluator.apply(crossing(1, 0))
    evaluator.apply(contact(2, 1_000, True))
    assert not evaluator.apply(crossing(3, 2_000)).runs
    assert evaluator.apply(crossing(4, 3_000)).runs


def test_rehearsal_is_told_of_what_conditions_look_at():
    document = RuleDocument.model_validate(rule(provided={"test": "all", "of": [GATE, RECENT]}))
    known = facts(document.to_json())
    assert document.concerns(known) == {("scene.line_crossed", "line"), ("input.active", "contact")}
    journal = [Change(0, known), contact(1, 0, True), crossing(2, 5_000), crossing(3, 30_000)]
    assert [r.event for r in rehearse(journal, [Stage(None, 0, 10**9)])[0].runs] == [2]


@pytest.mark.parametrize(
    ("condition", "words", "lines"),
    [
        (GATE, "Gate contact is on", ("Gate contact: contact on", "no", "yes")),
        ({**GATE, "on": False}, "Gate contact is not on", ("Gate contact: contact on", "no", "no")),
        (
            RECENT,
            "“contact on” came at Gate contact within 10 s",
            ("contact on at Gate contact", "4 s ago", "within 10 s"),
        ),
        (
            {**RECENT, "within": False, "point": None},
            "no “contact on” came at the same point within 10 s",
            ("contact on at the same point", "never came", "not within 10 s"),
        ),
    ],
)
def test_they_read_as_words_in_sentence_and_trace(condition, words, lines):
    document = RuleDocument.model_validate(rule(provided=condition))
    known = facts(document.to_json())
    assert f"provided {words}:" in plain(sentence(document, known))
    evaluator = Evaluator(known)
    evaluator.apply(contact(1, 0, True))
    evaluator.apply(contact(2, 500, False))
    verdict = evaluator.apply(Event(3, "scene.line_crossed", "line", Phase.PULSE, 4_000, 0, 0, None, {})).verdicts[0]
    line = explain(document, known, verdict.outcome, list(verdict.seen))[1]
    assert (line.label, line.seen, line.wanted) == lines


@pytest.mark.parametrize(
    "condition",
    [
        {**GATE, "kind": "scene.line_crossed"},
        {**GATE, "kind": "no.kind"},
        {**RECENT, "seconds": 0},
        {**RECENT, "surprise": 1},
    ],
)
def test_what_makes_no_sense_is_refused(condition):
    with pytest.raises(ValidationError):
        RuleDocument.model_validate(rule(provided=condition))


def test_a_point_that_is_gone_is_named_by_a_check():
    condition = {"test": "all", "of": [{**GATE, "point": {"id": "gone"}}]}
    found = check(RuleDocument.model_validate(rule(provided=condition)), facts())
    assert [(f.check, f.path) for f in found] == [("unknown-reference", "provided.of.0.point")]


def test_all_conditions_are_told_of_somewhere():
    assert set(CONDITIONS.names()) == {"field", "state", "since", "list", "mode", "counter", "all", "any", "not"}


def mode_until(evaluator, seq, at, mode, until=None):
    return evaluator.apply(Act(seq, at, "mode", value=mode, until=until))


def test_a_mode_with_an_end_goes_back_by_itself():
    evaluator = Evaluator(facts(modes=("day", "works", "party")))
    mode_until(evaluator, 1, 0, "works", 60_000)
    assert evaluator.mode() == "works" and evaluator.next_wake() == 60_000
    assert evaluator.apply(Tick(2, 60_000)).modes == ["day"]
    assert evaluator.mode() == "day" and evaluator.next_wake() is None


def test_of_several_modes_with_an_end_the_one_before_all_of_them_comes_back():
    evaluator = Evaluator(facts(modes=("day", "works", "party")))
    mode_until(evaluator, 1, 0, "works", 60_000)
    mode_until(evaluator, 2, 10_000, "party", 30_000)
    assert evaluator.apply(Tick(3, 30_000)).modes == ["day"]
    assert evaluator.next_wake() is None, "the end of the first has nothing to end any more"


def test_a_mode_set_for_good_in_between_stays():
    evaluator = Evaluator(facts(modes=("day", "works")))
    mode_until(evaluator, 1, 0, "works", 60_000)
    mode_until(evaluator, 2, 10_000, "works")
    assert evaluator.apply(Tick(3, 60_000)).modes == [] and evaluator.mode() == "works"


def test_the_mode_goes_back_to_the_first_where_the_one_before_is_gone():
    evaluator = Evaluator(facts(modes=("day", "works", "party")))
    mode_until(evaluator, 1, 0, "works")
    mode_until(evaluator, 2, 10_000, "party", 20_000)
    evaluator.replace(facts(modes=("day", "party")), 15_000)
    assert evaluator.apply(Tick(3, 20_000)).modes == ["day"]
