"""Response planning: repeats of the cause, stops, repeated steps, targets, hold-offs that join or sum up, modes,
counters and derived events."""

import pytest

from dromikon.core.events import Act, Tick
from dromikon.core.facts import Group, Member
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.outcome import Joined
from dromikon.core.rules.running import AGAIN, ANSWERED, ENDED, UNANSWERED
from tests.core.site import contact, crossing, facts, rule

BEGINS = {"cause": "event", "kind": "input.active", "phase": "begin", "where": {"points": [{"id": "contact"}]}}
LIGHT = {"do": "relay", "target": {"point": {"id": "light"}}, "held": 20.0}
LATER = {"do": "line", "text": "later", "after": 10}
ALARM = rule()["response"][0]


def tick_until(evaluator, at, seq=900):
    """Wake what is due, as the engine does; returns all that followed."""
    outcomes = []
    while (wake := evaluator.next_wake()) is not None and wake <= at:
        seq += 1
        outcomes.append(evaluator.apply(Tick(seq, wake)))
    return outcomes


def switched(outcomes):
    """What a relay was told and when."""
    return [(o.due, o.payload["state"], o.run) for out in outcomes for o in out.orders if o.action == "relay"]


# -- when the cause comes again ------------------------------------------------------------------------------------------


def play(document, *crossings, until=100_000):
    evaluator, outcomes = Evaluator(facts(document)), []
    for i, at in enumerate(crossings):
        outcomes += tick_until(evaluator, at)
        outcomes.append(evaluator.apply(crossing(i + 1, at)))
    outcomes += tick_until(evaluator, until)
    assert not [k for k in evaluator.state.rules.get("r0", {}) if k.startswith(("run|", "again|"))], (
        "nothing is left over"
    )
    return outcomes


def test_a_new_run_goes_beside_the_old_one_by_default():
    told = switched(play(rule(response=[LIGHT]), 0, 5_000))
    assert told == [(0, "on", "1.r0"), (5_000, "on", "2.r0"), (20_000, "off", "1.r0"), (25_000, "off", "2.r0")]


def test_extend_holds_for_the_whole_time_again_without_a_second_run():
    outcomes = play(rule(response=[LIGHT], again="extend"), 0, 5_000, 30_000)
    assert switched(outcomes) == [
        (0, "on", "1.r0"),
        (25_000, "off", "1.r0"),
        (30_000, "on", "3.r0"),
        (50_000, "off", "3.r0"),
    ]
    assert [(v.outcome, v.run) for o in outcomes for v in o.verdicts] == [
        ("fired", "1.r0"),
        ("extended", "1.r0"),
        ("fired", "3.r0"),
    ]


def test_ignore_lets_a_running_response_finish():
    outcomes = play(rule(response=[LIGHT], again="ignore"), 0, 5_000, 30_000)
    assert switched(outcomes) == [
        (0, "on", "1.r0"),
        (20_000, "off", "1.r0"),
        (30_000, "on", "3.r0"),
        (50_000, "off", "3.r0"),
    ]
    assert [v.outcome for o in outcomes for v in o.verdicts] == ["fired", "still_running", "fired"]


def test_restart_begins_anew_before_it_lets_go():
    outcomes = play(rule(response=[LIGHT, LATER], again="restart"), 0, 5_000)
    assert switched(outcomes) == [
        (0, "on", "1.r0"),
        (5_000, "on", "2.r0"),
        (5_000, "off", "1.r0"),
        (25_000, "off", "2.r0"),
    ]
    assert [(d.run, d.step, d.why) for o in outcomes for d in o.dropped] == [("1.r0", 1, AGAIN)]
    assert [o.run for out in outcomes for o in out.orders if o.action == "line"] == ["2.r0"]


# -- stops ---------------------------------------------------------------------------------------------------------------


def test_the_end_of_the_state_cancels_and_lets_go():
    goodbye = {"do": "line", "text": "over", "anchor": "end"}
    evaluator = Evaluator(facts(rule(cause=BEGINS, response=[LIGHT, LATER, goodbye], stop={"on_end": True})))
    evaluator.apply(contact(1, 0, True))
    outcome = evaluator.apply(contact(2, 4_000, False))
    assert [(o.action, o.due, o.release) for o in outcome.orders] == [("line", 4_000, False), ("relay", 4_000, True)]
    assert [(d.step, d.why) for d in outcome.dropped] == [(1, ENDED)] and not tick_until(evaluator, 10**6)


def test_without_a_stop_the_response_finishes():
    evaluator = Evaluator(facts(rule(cause=BEGINS, response=[LIGHT, LATER])))
    evaluator.apply(contact(1, 0, True))
    assert not evaluator.apply(contact(2, 4_000, False)).orders
    assert [o.action for out in tick_until(evaluator, 30_000) for o in out.orders] == ["line", "relay"]


def test_an_answer_cancels_and_lets_go():
    evaluator = Evaluator(facts(rule(response=[ALARM, LIGHT, LATER], stop={"on_acknowledged": True})))
    evaluator.apply(crossing(1, 0))
    outcome = evaluator.apply(Act(2, 3_000, "acknowledged", "1.r0", "x"))
    assert [(o.action, o.release) for o in outcome.orders] == [("relay", True)]
    assert [d.why for d in outcome.dropped] == [ANSWERED] and not tick_until(evaluator, 10**6)


def test_when_nobody_answers_in_time_it_stops_too():
    steps = [ALARM, {**LIGHT, "held": 600.0}, {**LATER, "after": 300}]
    evaluator = Evaluator(facts(rule(response=steps, stop={"unanswered": 60})))
    evaluator.apply(crossing(1, 0))
    outcomes = tick_until(evaluator, 60_000)
    assert switched(outcomes) == [(60_000, "off", "1.r0")]
    assert [d.why for o in outcomes for d in o.dropped] == [UNANSWERED]


# -- steps -----------------------------------------------------------------------------------------------------------------


def test_a_step_is_repeated_with_its_gap():
    flash = {**LIGHT, "held": 1.0, "times": 3, "gap": 4, "after": 2}
    evaluator = Evaluator(facts(rule(response=[flash])))
    evaluator.apply(crossing(1, 0))
    told = [(due, state) for due, state, _ in switched(tick_until(evaluator, 60_000))]
    assert told == [(2_000, "on"), (3_000, "off"), (6_000, "on"), (7_000, "off"), (10_000, "on"), (11_000, "off")]


@pytest.mark.parametrize(
    "step",
    [
        {**ALARM, "times": 2, "gap": 5},
        {**LIGHT, "times": 2},
        {**LIGHT, "gap": 5},
        {**LIGHT, "held": 5.0, "times": 2, "gap": 5},
        {**LIGHT, "held": 0.0},
        {**LIGHT, "target": {"of": "source", "point": {"id": "light"}}},
        {**LIGHT, "target": {"of": "area"}},
        {"do": "http", "method": "GET", "url": "http://127.0.0.1/", "body": "x"},
        {"do": "http", "url": "file:///etc/passwd"},
        {"do": "snapshot", "moments": []},
    ],
)
def test_steps_that_make_no_sense_are_refused(step):
    with pytest.raises(ValueError):
        RuleDocument.model_validate(rule(response=[step]))


@pytest.mark.parametrize(
    ("target", "points"),
    [
        ({"point": {"id": "light"}}, ["light"]),
        ({"of": "source"}, ["line"]),
        ({"of": "sightlines"}, ["cam"]),
        ({"of": "first_sightline"}, ["cam"]),
        ({"of": "area", "point_kind": "relay"}, ["light"]),
        ({"of": "area", "point_kind": "siren"}, []),
    ],
)
def test_a_step_finds_its_targets(target, points):
    outcome = Evaluator(facts(rule(response=[{**LIGHT, "target": target}]))).apply(crossing(1, 0))
    assert [o.target for o in outcome.orders] == points


def test_a_text_goes_to_each_member_of_its_groups_once():
    members = (
        Member(id="1", name="A", role="operator", number=True),
        Member(id="2", name="B", role="viewer", number=True),
        Member(id="3", name="C", role="viewer", number=True),
    )
    groups = (
        Group(id="ops", name="O", roles=("operator",)),
        Group(id="night", name="N", roles=("operator",), persons=("3",)),
    )
    text = {"do": "text", "text": "{class}", "groups": [{"id": "ops"}, {"id": "night"}]}
    known = facts(rule(response=[text])).model_copy(update={"members": members, "groups": groups})
    orders = Evaluator(known).apply(crossing(1, 0)).orders
    assert [(o.target, o.payload["text"]) for o in orders] == [("person:1", "human"), ("person:3", "human")]


def test_off_is_a_release_that_never_expires_also_for_late_events():
    off = {"do": "relay", "target": {"point": {"id": "light"}}, "set": "off"}
    outcome = Evaluator(facts(rule(response=[off, {**LIGHT, "set": "on"}]))).apply(crossing(1, 0)._replace(late=True))
    assert [(o.delivery.value, o.payload["state"]) for o in outcome.orders] == [("release", "off")]


# -- hold-offs that join and sum up ------------------------------------------------------------------------------------------

JOIN = {"seconds": 60, "per": "point", "then": "join"}


def test_repeats_are_joined_to_the_open_alarm_until_somebody_answers():
    evaluator = Evaluator(facts(rule(hold_off=JOIN)))
    assert evaluator.apply(crossing(1, 0)).runs
    for seq, at in ((2, 50_000), (3, 100_000)):
        tick_until(evaluator, at)
        assert evaluator.apply(crossing(seq, at)).joined == [Joined("1.r0", seq, at)], "each repeat keeps it open"
    evaluator.apply(Act(4, 101_000, "acknowledged", "1.r0", "x"))
    outcome = evaluator.apply(crossing(5, 102_000))
    assert [r.ref for r in outcome.runs] == ["5.r0"] and not outcome.joined


def test_after_quiet_a_new_alarm_begins():
    evaluator = Evaluator(facts(rule(hold_off=JOIN)))
    evaluator.apply(crossing(1, 0))
    tick_until(evaluator, 60_000)
    assert evaluator.apply(crossing(2, 60_000)).runs
    tick_until(evaluator, 10**6)
    assert not evaluator.state.rules["r0"], "nothing is remembered for ever"


def test_what_was_kept_back_is_summed_up_in_one_line():
    evaluator = Evaluator(facts(rule(hold_off={"seconds": 60, "most": 2, "then": "sum"})))
    outcomes = [evaluator.apply(crossing(i + 1, i * 10_000)) for i in range(5)]
    assert [v.outcome for o in outcomes for v in o.verdicts] == [
        "fired",
        "fired",
        "summed_up",
        "summed_up",
        "summed_up",
    ]
    (summed,) = [s for o in tick_until(evaluator, 10**6) for s in o.sums]
    assert (summed.count, summed.since, summed.run, summed.point) == (3, 20_000, "2.r0", "line")


# -- modes, counters, derived events -------------------------------------------------------------------------------------------


def test_the_mode_is_the_first_until_it_is_set():
    evaluator = Evaluator(facts(rule(provided={"test": "mode", "modes": ["closed"]})))
    assert not evaluator.apply(crossing(1, 0)).runs
    evaluator.apply(Act(2, 0, "mode", value="closed"))
    assert evaluator.apply(crossing(3, 0)).runs
    evaluator.apply(Act(4, 0, "mode", value="gone since"))
    assert evaluator.mode() == "open"


def test_a_counter_is_compared():
    full = {"test": "counter", "counter": {"id": "visitors"}, "value": 2}
    evaluator = Evaluator(facts(rule(provided=full), rule(provided={**full, "op": "at_most"})))
    assert [r.rule for r in evaluator.apply(crossing(1, 0)).runs] == ["r1"]
    evaluator.apply(Act(2, 0, "counter", target="visitors", value=3))
    assert [r.rule for r in evaluator.apply(crossing(3, 0)).runs] == ["r0"]


def test_a_derived_event_carries_its_chain_and_never_sets_its_own_rules_off():
    raises = {"do": "derive", "name": "again", "text": "{class} at {point}"}
    evaluator = Evaluator(facts(rule(response=[raises])))
    (order,) = evaluator.apply(crossing(1, 0)._replace(chain=("other",))).orders
    assert order.payload["chain"] == ["other", "r0"] and order.payload["fields"]["text"] == "human at Lake line"
    outcome = evaluator.apply(crossing(2, 0)._replace(chain=("other", "r0")))
    assert [v.outcome for v in outcome.verdicts] == ["circular"] and not outcome.runs
