"""Rehearsal is the same code over the same journal: a live revision makes the same runs again."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromikon.core.events import Act, Tick
from dromikon.core.facts import LiveRule
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.rehearse import Change, Checkpoint, Stage, Variant, compare, rehearse, shares_cause, varied
from tests.core.site import contact, crossing, facts, rule
from tests.core.test_causes import ANY, MISSING, ORDER, REPEATED, TOGETHER
from tests.core.test_evaluate import BEGINS, LASTING, RELAY

FOREVER = 10**12
DOCUMENTS = (
    rule(hold_off={"seconds": 7}),
    rule(cause=LASTING | {"seconds": 5}),
    rule(
        cause=BEGINS,
        response=[*rule()["response"], {"do": "popup", "anchor": "unanswered", "after": 3, "groups": [{"id": "ops"}]}],
    ),
    *(rule(cause=c) for c in (ANY, MISSING, ORDER, REPEATED, TOGETHER)),
    *(
        rule(again=a, response=[{**RELAY, "held": 9.0}, {"do": "line", "text": "x", "after": 4}])
        for a in ("extend", "restart", "ignore")
    ),
    rule(cause=BEGINS, again="ignore", response=[{**RELAY, "held": "state"}], stop={"on_end": True}),
    rule(hold_off={"seconds": 12, "then": "join"}),
    rule(hold_off={"seconds": 12, "most": 2, "then": "sum"}),
    rule(provided={"test": "mode", "modes": ["closed"]}),
    rule(provided={"test": "counter", "counter": {"id": "visitors"}, "value": 2}),
    # The epoch began at one o'clock on the wall of that year.
    rule(cause={"cause": "at", "time": "01:01"}),
)
LESS = {**DOCUMENTS[0], "provided": {"test": "field", "field": "confidence", "op": "at_least", "value": 60}}
STORY = st.lists(
    st.tuples(
        st.integers(0, 9_000),
        st.sampled_from(["line", "line2", "bay", "on", "off", "ack", "change", "mode", "count", "pause", "resume"]),
        st.integers(30, 90),
    ),
    max_size=40,
)


def live(story):
    """Play a story as the engine does, and keep its journal."""
    known = facts(*DOCUMENTS)
    evaluator, journal, runs, seq, at, changes = Evaluator(known), [Change(0, known)], [], 0, 0, 0
    evaluator.replace(known, 0)
    for gap, what, number in story:
        at += gap
        while (wake := evaluator.next_wake()) is not None and wake <= at:
            seq += 1
            journal.append(Tick(seq, wake))
            runs += evaluator.apply(journal[-1]).runs
        seq += 1
        if what == "change":
            changes += 1
            documents = (LESS if changes % 2 else DOCUMENTS[0], *DOCUMENTS[1:])
            known = facts(*documents)
            rules = (known.rules[0].model_copy(update={"revision": changes + 1}), *known.rules[1:])
            known = known.model_copy(update={"rules": rules})
            journal.append(Change(at, known))
            evaluator.replace(known, at)
            continue
        entry = (
            Act(seq, at, "acknowledged", runs[-1].ref if runs else "none", "x")
            if what == "ack"
            else Act(seq, at, "mode", value=("open", "closed")[number % 2])
            if what == "mode"
            else Act(seq, at, "counter", target="visitors", value=number % 4)
            if what == "count"
            else Act(seq, at, "paused", target=f"r{number % 3}", value="cam", until=at + number * 100)
            if what == "pause"
            else Act(seq, at, "resumed", target=f"r{number % 3}", value="cam")
            if what == "resume"
            else contact(seq, at, what == "on")
            if what in ("on", "off")
            else crossing(seq, at, what, confidence=float(number), object=number % 3)
        )
        journal.append(entry)
        runs += evaluator.apply(entry).runs
    return journal, runs, at


@settings(max_examples=150, deadline=None)
@given(STORY)
def test_each_live_rule_rehearsed_alone_makes_its_runs_again(story):
    journal, runs, at = live(story)
    stages = [Stage(None, 0, at + 1, only=f"r{i}") for i in range(len(DOCUMENTS))]
    for i, result in enumerate(rehearse(journal, stages)):
        assert result.runs == [r for r in runs if r.rule == f"r{i}"]


@settings(max_examples=60, deadline=None)
@given(STORY)
def test_the_whole_rulebook_rehearsed_together_is_the_same_too(story):
    journal, runs, at = live(story)
    assert rehearse(journal, [Stage(None, 0, at + 1)])[0].runs == runs


@settings(max_examples=60, deadline=None)
@given(STORY, st.integers(0, 100_000), st.integers(1, 100_000))
def test_a_period_is_a_part_of_the_whole(story, start, length):
    journal, runs, _ = live(story)
    result = rehearse(journal, [Stage(None, start, start + length)])[0]
    # Beyond the journal's end a rehearsal lets come what was still due.
    within = [r for r in runs if start <= r.at < start + length]
    assert result.runs[: len(within)] == within


def journal_of(*confidences):
    return [Change(0, facts(rule()))] + [
        crossing(i + 1, i * 1000, confidence=float(c)) for i, c in enumerate(confidences)
    ]


def draft(value):
    return LiveRule(
        id="draft",
        revision=1,
        document=rule(provided={"test": "field", "field": "confidence", "op": "at_least", "value": value}),
    )


def test_a_draft_beside_the_live_revision_what_is_new_gone_and_the_same():
    journal = journal_of(40, 60, 80)
    journal[0] = Change(0, facts(rule(provided={"test": "field", "field": "confidence", "op": "at_most", "value": 60})))
    results = rehearse(journal, [Stage(draft(60), 0, FOREVER), Stage(None, 0, FOREVER, only="r0")])
    compared = compare(*results)
    assert [[r.event for r in part] for part in (compared.new, compared.gone, compared.same)] == [[3], [1], [2]]


def test_what_turned_events_away_is_counted_by_part():
    document = rule(
        provided={
            "test": "all",
            "of": [
                {"test": "field", "field": "class", "op": "is", "value": "human"},
                {"test": "field", "field": "confidence", "op": "at_least", "value": 70},
            ],
        },
        hold_off={"seconds": 60},
    )
    result = rehearse(journal_of(40, 80, 50, 90), [Stage(LiveRule(id="d", revision=1, document=document), 0, FOREVER)])[
        0
    ]
    assert result.turned_away == {"provided.of.1": 2, "hold_off": 1}
    assert (result.considered, dict(result.outcomes)) == (4, {"fired": 1, "not_provided": 2, "held_off": 1})
    assert result.by_point() == {"line": 1} and result.by_hour() == {0: 1}


def test_a_sweep_is_the_same_as_rehearsing_each_value():
    journal = journal_of(*range(30, 95, 3))
    documents = list(varied(draft(50).document, "provided.value", [40, 60, 80]))
    together = rehearse(journal, [Stage(LiveRule(id="d", revision=1, document=d), 0, FOREVER) for d in documents])
    counts = [len(r.runs) for r in together]
    assert counts == [len(rehearse(journal, [Stage(draft(v), 0, FOREVER)])[0].runs) for v in (40, 60, 80)]
    assert counts == sorted(counts, reverse=True)


def test_varied_sets_one_place_and_knows_when_there_is_none():
    document = rule(
        provided={"test": "all", "of": [{"test": "field", "field": "confidence", "op": "at_least", "value": 1}]}
    )
    changed = next(varied(document, "provided.of.0.value", [7]))
    assert changed["provided"]["of"][0]["value"] == 7 and document["provided"]["of"][0]["value"] == 1
    for path in ("provided.of.1.value", "nothing", "provided.of.x.value", "name.deeper"):
        with pytest.raises(KeyError):
            list(varied(document, path, [1]))


def test_progress_is_told():
    told = []
    rehearse(journal_of(*([50] * 12_000)), [Stage(draft(60), 0, FOREVER)], told.append)
    assert told == [0, 4_999_000, 9_999_000], "the moments reached"


def test_before_the_first_facts_there_is_nothing_to_rehearse():
    assert rehearse([crossing(1, 0)], [Stage(draft(1), 0, FOREVER)])[0].runs == []


SWEPT = (
    ("provided.of.1.value", [float(v) for v in range(30, 100, 5)]),
    ("hold_off.seconds", [1.0, 5.0, 9.0, 30.0]),
    ("hold_off.most", [1, 2, 3]),
)
DRAFT = rule(
    provided={
        "test": "all",
        "of": [
            {"test": "field", "field": "class", "op": "is", "value": "human"},
            {"test": "field", "field": "confidence", "op": "at_least", "value": 60},
        ],
    },
    hold_off={"seconds": 7},
)


@settings(max_examples=60, deadline=None)
@given(STORY, st.sampled_from(SWEPT), st.sampled_from(["ignore", "join", "sum"]))
def test_a_sweep_in_one_pass_counts_what_each_value_would_do_by_itself(story, swept, then):
    journal, _, at = live(story)
    path, values = swept
    draft = {**DRAFT, "hold_off": {"seconds": 7, **({} if path.endswith("most") else {"then": then})}}
    if path.endswith("most"):
        draft["hold_off"]["most"] = 1
    rules = [LiveRule(id="d", revision=1, document=d) for d in varied(draft, path, values)]
    assert shares_cause(RuleDocument.model_validate(draft), path)
    variants = [Variant(r, 0, at + 1) for r in rules]
    rehearse(journal, [Stage(LiveRule(id="d", revision=1, document=draft), 0, at + 1, variants=variants)])
    apart = rehearse(journal, [Stage(r, 0, at + 1) for r in rules])
    assert [v.count for v in variants] == [len(r.runs) for r in apart]


def test_a_number_of_the_cause_or_of_what_waits_for_it_is_not_shared():
    document = RuleDocument.model_validate(rule(cause=LASTING))
    assert not shares_cause(document, "cause.seconds")
    assert not shares_cause(RuleDocument.model_validate(rule(again="ignore")), "provided.value")


@settings(max_examples=60, deadline=None)
@given(STORY, st.integers(1, 39))
def test_begun_at_a_checkpoint_a_live_rule_makes_the_same_runs(story, place):
    """The evaluator's rows at a moment are all that what comes after depends on."""
    journal, runs, at = live(story)
    if place >= len(journal):
        return
    known, evaluator = journal[0].facts, Evaluator(journal[0].facts)
    evaluator.replace(known, 0)
    for entry in journal[1:place]:
        if isinstance(entry, Change):
            known = entry.facts
            evaluator.replace(known, entry.at)
        else:
            evaluator.apply(entry)
    kept = Checkpoint(journal[place - 1].at, known, list(evaluator.state.all_rows()))
    expected = []
    for entry in journal[place:]:
        outcome = evaluator.replace(entry.facts, entry.at) if isinstance(entry, Change) else evaluator.apply(entry)
        expected += outcome.runs
    for i in range(len(DOCUMENTS)):
        (result,) = rehearse([kept, *journal[place:]], [Stage(None, 0, at + 1, only=f"r{i}")])
        assert result.runs == [r for r in expected if r.rule == f"r{i}"]
