"""Causes over several events and over levels, told as little stories."""

import json
import sys

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from dromikon.core.events import Event, Phase, Tick
from dromikon.core.facts import Point
from dromikon.core.rules import state
from dromikon.core.rules.causes import CAUSES
from dromikon.core.rules.checks import check
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.sentence import plain, sentence
from dromikon.core.rules.state import State
from tests.core.site import contact, crossing, facts, rule

PROBES = tuple(Point(id=id, name=id, kind="sensor", area="yard") for id in ("probe", "flue", "pump"))
LINE = {"kind": "scene.line_crossed", "phase": "pulse", "where": {"point_kinds": ["detector"]}}
FIRST = {**LINE, "where": {"points": [{"id": "line"}]}}
SECOND = {**LINE, "where": {"points": [{"id": "line2"}]}}
OPENED = {"kind": "input.active", "phase": "begin", "where": {"points": [{"id": "contact"}]}}
SHUT = {**OPENED, "phase": "end"}


def play(cause, *story, **more):
    """Feed events and ticks; the moments at which the rule fired, in seconds."""
    evaluator = Evaluator(facts(rule(cause=cause, **more)))
    fired = []
    for i, (at, make) in enumerate(story):
        while (wake := evaluator.next_wake()) is not None and wake <= at * 1000:
            fired += [r.at / 1000 for r in evaluator.apply(Tick(1000 + i, wake)).runs]
        fired += [r.at / 1000 for r in evaluator.apply(make(i + 1, at * 1000)).runs]
    while (wake := evaluator.next_wake()) is not None:
        fired += [r.at / 1000 for r in evaluator.apply(Tick(5000, wake)).runs]
    return fired


def cross(point="line", **fields):
    return lambda seq, at: crossing(seq, at, point, **fields)


def gate(on):
    return lambda seq, at: contact(seq, at, on)


def reads(value, point="probe"):
    return lambda seq, at: Event(seq, "sensor.reading", point, Phase.READING, at, at, at, None, {"value": value})


# -- together ---------------------------------------------------------------------------------------------------------

TOGETHER = {"cause": "together", "within": 10, "of": [FIRST, OPENED]}


def test_together_in_any_order_within_the_time():
    assert play(TOGETHER, (0, cross()), (9, gate(True))) == [9]
    assert play(TOGETHER, (0, gate(True)), (9, cross())) == [9]
    assert play(TOGETHER, (0, cross()), (10, gate(True))) == []


def test_together_takes_each_pattern_once_and_then_begins_anew():
    assert play(TOGETHER, (0, cross()), (1, cross()), (2, gate(True)), (3, gate(True)), (4, cross())) == [2, 4]


def test_together_the_older_sighting_falls_out_of_the_window():
    assert play(TOGETHER, (0, gate(True)), (8, gate(True)), (15, cross())) == [15]


def test_together_joined_per_field_keeps_subjects_apart():
    cause = {**TOGETHER, "of": [FIRST, SECOND], "join": {"per": "field", "field": "object"}}
    assert play(cause, (0, cross(object=1)), (1, cross("line2", object=2)), (2, cross("line2", object=1))) == [2]
    assert play(cause, (0, cross()), (1, cross("line2"))) == [], "what lacks the field belongs to nothing"


@pytest.mark.parametrize(("per", "fires"), [("nothing", True), ("point", False), ("area", False), ("sightline", True)])
def test_joins_per_place(per, fires):
    cause = {**TOGETHER, "of": [FIRST, SECOND], "join": {"per": per}}
    assert bool(play(cause, (0, cross()), (1, cross("line2")))) is fires


# -- in order ---------------------------------------------------------------------------------------------------------

ORDER = {"cause": "order", "within": 20, "of": [FIRST, SECOND]}


def test_in_order_only_one_way_round():
    assert play(ORDER, (0, cross()), (5, cross("line2"))) == [5]
    assert play(ORDER, (0, cross("line2")), (5, cross())) == []


def test_in_order_the_last_must_come_within_the_time_of_the_first():
    three = {**ORDER, "of": [FIRST, OPENED, SECOND]}
    assert play(three, (0, cross()), (10, gate(True)), (19, cross("line2"))) == [19]
    assert play(three, (0, cross()), (10, gate(True)), (20, cross("line2"))) == []


def test_in_order_begins_anew_with_each_first():
    assert play(ORDER, (0, cross()), (15, cross()), (30, cross("line2"))) == [30]


def test_in_order_of_the_same_pattern_twice():
    assert play({**ORDER, "of": [FIRST, FIRST]}, (0, cross()), (3, cross()), (6, cross()), (9, cross())) == [3, 9]


# -- missing ----------------------------------------------------------------------------------------------------------

MISSING = {"cause": "missing", "within": 15, "first": OPENED, "then": FIRST}


def test_missing_fires_when_nothing_follows_and_tells_of_the_first():
    assert play(MISSING, (0, gate(True))) == [15]
    evaluator = Evaluator(facts(rule(cause=MISSING)))
    evaluator.apply(contact(7, 0, True))
    run = evaluator.apply(Tick(8, 15_000)).runs[0]
    assert (run.event, run.zero, run.point) == (7, 0, "contact")


def test_missing_is_called_off_by_what_follows_in_time():
    assert play(MISSING, (0, gate(True)), (14, cross())) == []
    evaluator = Evaluator(facts(rule(cause=MISSING)))
    evaluator.apply(contact(7, 0, True))
    verdict = evaluator.apply(crossing(8, 14_000)).verdicts[0]
    assert (verdict.event, verdict.outcome) == (7, "called_off")


def test_missing_a_badge_before_the_door_does_not_count():
    assert play(MISSING, (0, cross()), (1, gate(True))) == [16]


# -- roaming ----------------------------------------------------------------------------------------------------------

ROAMING = {"cause": "roaming", "within": 60, "places": 2, "what": LINE, "join": {"per": "field", "field": "object"}}


def test_roaming_counts_points_not_sightings_and_keeps_subjects_apart():
    assert play(ROAMING, *((i, cross(object=1)) for i in range(5))) == []
    assert play(ROAMING, (0, cross(object=1)), (5, cross("line2", object=2)), (9, cross("line2", object=1))) == [9]
    assert play(ROAMING, (0, cross(object=1)), (60, cross("line2", object=1))) == [], "the first is too long ago"
    assert play(ROAMING, (0, cross(object=1)), (50, cross(object=1)), (70, cross("line2", object=1))) == [70]
    assert play(ROAMING, (0, cross()), (1, cross("line2"))) == [], "what lacks the field belongs to nothing"


def test_roaming_begins_anew_and_is_no_matter_of_one_point():
    story = [(0, "line"), (1, "line2"), (2, "line"), (3, "line2")]
    assert play(ROAMING, *((at, cross(point, object=1)) for at, point in story)) == [1, 3]
    with pytest.raises(ValidationError, match="join by a field"):
        RuleDocument.model_validate(rule(cause={**ROAMING, "join": {"per": "point"}}))


# -- repeated ---------------------------------------------------------------------------------------------------------

REPEATED = {"cause": "repeated", "within": 60, "times": 3, "what": LINE}


def test_repeated_counts_within_a_sliding_window_and_then_anew():
    assert play(REPEATED, (0, cross()), (30, cross()), (59, cross())) == [59]
    assert play(REPEATED, (0, cross()), (30, cross()), (60, cross())) == []
    assert play(REPEATED, (0, cross()), (50, cross()), (70, cross()), (80, cross())) == [80]
    assert play(REPEATED, *((i, cross()) for i in range(7))) == [2, 5]


def test_repeated_counts_only_what_its_pattern_provides():
    what = {**LINE, "provided": {"test": "field", "field": "class", "op": "is", "value": "animal"}}
    story = [(i, cross(**{"class": "animal" if i % 2 else "human"})) for i in range(6)]
    assert play({**REPEATED, "what": what}, *story) == [5]


def test_repeated_per_point():
    story = [(0, cross()), (1, cross("line2")), (2, cross()), (3, cross("line2")), (4, cross())]
    assert play({**REPEATED, "join": {"per": "point"}}, *story) == [4]
    assert play(REPEATED, *story) == [2]


# -- any of -----------------------------------------------------------------------------------------------------------

ANY = {
    "cause": "any",
    "of": [
        {"cause": "event", **FIRST},
        {"cause": "lasting", "kind": "input.active", "seconds": 5, "where": OPENED["where"]},
        {**REPEATED, "times": 2, "what": SECOND},
    ],
}


def test_any_of_fires_for_each_and_keeps_their_memories_apart():
    story = [(0, cross()), (1, gate(True)), (8, cross("line2")), (9, cross("line2")), (10, cross())]
    assert play(ANY, *story) == [0, 6, 9, 10]
    assert play(ANY, (0, gate(True)), (3, gate(False))) == []


def test_any_of_any_of():
    assert play({"cause": "any", "of": [ANY, {"cause": "button", "where": {"everywhere": True}}]}, (0, cross())) == [0]


# -- level ------------------------------------------------------------------------------------------------------------


def level(way, value, **more):
    return {"cause": "level", "way": way, "value": value, "where": {"point_kinds": ["sensor"]}, **more}


@pytest.fixture(autouse=True)
def _with_probes(monkeypatch):
    """The small site has sensors besides."""
    real = facts

    def more(*documents, **extra):
        found = real(*documents, **extra)
        return found.model_copy(update={"points": (*found.points, *PROBES)})

    monkeypatch.setattr(sys.modules[__name__], "facts", more)


def readings(*values):
    return [(i * 10, reads(v)) for i, v in enumerate(values)]


@pytest.mark.parametrize(
    ("cause", "values", "fired"),
    [
        (level("up", -12), (-18, -13, -12, -11, -18, -10), [20, 50]),
        (level("down", 5), (8, 6, 5, 4, 6, 5), [20, 50]),
        (level("up", 10, hysteresis=2), (5, 10, 9, 10, 8, 10), [10, 50]),
        (level("down", 10, hysteresis=2), (15, 10, 11, 10, 12, 10), [10, 50]),
        (level("out", 8, low=2), (5, 9, 7, 1, 5), [10, 30]),
        (level("out", 8, low=2, hysteresis=1), (5, 9, 7.5, 9, 7, 9), [10, 50]),
        (level("rate", 6), (10, 10.5, 12, 12.1, 10), [20, 40]),
        (level("up", 0), (5, 6, -1, 1), [30]),
    ],
)
def test_levels(cause, values, fired):
    assert play(cause, *readings(*values)) == fired


def test_a_level_must_be_held():
    cause = level("up", -12, held=25)
    assert play(cause, *readings(-18, -10, -10, -18, -18)) == []
    assert play(cause, *readings(-18, -10, -9, -10, -10)) == [35]


def test_an_alarm_of_a_level_ends_when_it_comes_back():
    evaluator = Evaluator(facts(rule(cause=level("up", 10))))
    for i, value in enumerate((5, 11, 12)):
        evaluator.apply(reads(value)(i + 1, i * 1000))
    assert evaluator.runs.lasts("r0", "2.r0")
    assert evaluator.apply(reads(9)(4, 4000)).ended == ["2.r0"]


def apart(way="above", value=20, **more):
    two = {"first": {"id": "flue"}, "second": {"id": "pump"}}
    return {"cause": "apart", "kind": "sensor.reading", "way": way, "value": value, **two, **more}


def heat(*values):
    """Readings of flue and pump in turn, ten seconds from one to the next; None: there is none."""
    points = [("flue", "pump")[i % 2] for i in range(len(values))]
    return [(i * 10, reads(v, p)) for i, (v, p) in enumerate(zip(values, points, strict=True)) if v is not None]


@pytest.mark.parametrize(
    ("cause", "values", "fired"),
    [
        (apart(), (50, 40, 60, 40, 61, 40, 50, 40, 70), [20, 80]),
        (apart(), (40, 50, 40, 90, 40), []),
        (apart("apart"), (40, 50, 40, 90, 40), [30]),
        (apart(hysteresis=5), (50, 40, 60, 40, 57, 40, 60, 40, 54, 40, 60), [20, 100]),
        (apart(held=30), (50, 40, 60, 40, 59, 40, 60, 40, 61, 40), [90]),
        (apart(fresh=15), (50, 40, None, None, None, 41, 90), [60]),
        (apart(fresh=15), (50, 40, None, None, 90), []),
        (apart(), (90, 40, 90, 40), []),
    ],
)
def test_two_readings_apart(cause, values, fired):
    assert play(cause, *heat(*values)) == fired


@pytest.mark.parametrize(
    "more", [{"second": {"id": "flue"}}, {"hysteresis": 30}, {"kind": "input.active"}, {"value": 0}]
)
def test_two_readings_are_of_two_points_and_come_back_to_where_they_were(more):
    with pytest.raises(ValidationError):
        RuleDocument.model_validate(rule(cause={**apart(), **more}))


@pytest.mark.parametrize("value", ["warm", None, True])
def test_what_is_no_number_is_no_reading(value):
    assert play(level("up", 0), *readings(-1, value, -1)) == []


# -- documents --------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "cause",
    [
        {**TOGETHER, "of": [FIRST]},
        {**TOGETHER, "within": 0},
        {**TOGETHER, "join": {"per": "field"}},
        {**REPEATED, "times": 1},
        {**MISSING, "first": {**OPENED, "phase": "pulse"}},
        level("out", 5),
        level("out", 5, low=9),
        level("up", 5, low=1),
        level("up", 5, kind="scene.line_crossed"),
        {"cause": "any", "of": []},
    ],
)
def test_causes_that_make_no_sense_are_refused(cause):
    with pytest.raises(ValidationError):
        RuleDocument.model_validate(rule(cause=cause))


@pytest.mark.parametrize(
    ("cause", "words"),
    [
        (TOGETHER, "When Lake line is crossed and Gate contact is on within 10 s: "),
        (ORDER, "When Lake line is crossed, then Far line is crossed within 20 s: "),
        (MISSING, "When Gate contact is on and not within 15 s Lake line is crossed: "),
        (
            {**REPEATED, "join": {"per": "point"}},
            "When any detector is crossed 3 times within 60 s at the same point: ",
        ),
        (level("up", -12, held=600), "When any sensor rises to -12 for 10 min: "),
        (level("out", 8, low=2), "When any sensor leaves 2 to 8: "),
        (ANY, "When Lake line is crossed, Gate contact is on for 5 s or Far line is crossed 2 times within 60 s: "),
    ],
)
def test_every_cause_reads_as_a_sentence_and_survives_export(cause, words):
    document = RuleDocument.model_validate(rule(cause=cause))
    assert plain(sentence(document, facts())).startswith(words)
    assert RuleDocument.model_validate(json.loads(json.dumps(document.to_json()))) == document


def test_what_is_named_inside_a_cause_is_checked_at_its_place():
    cause = {**TOGETHER, "of": [FIRST, {**SECOND, "where": {"points": [{"id": "gone"}]}}]}
    paths = {(f.check, f.path) for f in check(RuleDocument.model_validate(rule(cause=cause)), facts())}
    assert ("unknown-reference", "cause.of.1.where.points.0") in paths
    assert ("no-point", "cause.of.1.where") in paths


def test_a_stream_of_ever_new_subjects_cannot_grow_memory_without_limit(monkeypatch):
    monkeypatch.setattr(state, "CAP", 50)
    cause = {**REPEATED, "within": 86_400, "join": {"per": "field", "field": "object"}}
    evaluator = Evaluator(facts(rule(cause=cause)))
    for i in range(1000):
        evaluator.apply(crossing(i + 1, i, object=i))
    rows = evaluator.state.rules["r0"]
    assert len(rows) <= 51 and rows[state.FORGOTTEN]["count"] == 950
    assert "repeated|999" in rows and "repeated|0" not in rows, "the oldest went"


def test_windows_are_forgotten_when_they_are_over():
    evaluator = Evaluator(facts(rule(cause={**REPEATED, "join": {"per": "field", "field": "object"}})))
    for i in range(100):
        evaluator.apply(crossing(i + 1, i, object=i))
    evaluator.apply(Tick(200, 61_000))
    assert not evaluator.state.rules["r0"]


STORY = st.lists(
    st.tuples(
        st.integers(0, 25), st.sampled_from(["line", "line2", "bay", "on", "off", "warm", "cold"]), st.integers(0, 2)
    ),
    max_size=25,
)
EVERY = (
    TOGETHER,
    ORDER,
    MISSING,
    {**REPEATED, "join": {"per": "field", "field": "object"}},
    ROAMING,
    ANY,
    level("up", 5, held=8, hysteresis=1),
)


def entry(seq, at, what, number):
    if what in ("on", "off"):
        return contact(seq, at, what == "on")
    if what in ("warm", "cold"):
        return reads(5 + number if what == "warm" else 3)(seq, at)
    return crossing(seq, at, what, object=number)


@settings(max_examples=120, deadline=None)
@given(STORY)
def test_losing_the_process_at_any_moment_changes_nothing(story):
    def run(restart):
        evaluator, at, seq, found = Evaluator(facts(*(rule(cause=c) for c in EVERY))), 0, 0, []
        for gap, what, number in story:
            at += gap * 1000
            while (wake := evaluator.next_wake()) is not None and wake <= at:
                seq += 1
                found.append(evaluator.apply(Tick(seq, wake)))
            seq += 1
            found.append(evaluator.apply(entry(seq, at, what, number)))
            if restart:
                rows = json.loads(json.dumps([[list(k), r] for k, r in evaluator.state.all_rows()]))
                evaluator = Evaluator(evaluator.facts, State([(tuple(k), r) for k, r in rows]))
        return [(o.verdicts, o.runs, o.ended) for o in found]

    assert run(True) == run(False)


def test_every_cause_is_told_of_here():
    told = {
        TOGETHER["cause"],
        ORDER["cause"],
        MISSING["cause"],
        REPEATED["cause"],
        ROAMING["cause"],
        ANY["cause"],
        "level",
        "apart",
        "event",
        "lasting",
        "button",
        "at",
        # In tests/web/test_following.py, with the engine that counts.
        "limit",
    }
    assert told == set(CAUSES.names())
