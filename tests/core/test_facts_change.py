"""What has changed in facts, made and applied: any two values lead from one to the other."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromikon.core.events import Event, Phase
from dromikon.core.facts import Area, Facts, LiveRule, Point, same_but_rules
from dromikon.core.facts_change import applied, facts_change, is_change
from dromikon.core.rules.evaluate import Evaluator

pytestmark = pytest.mark.timeless

IDS = [f"t{i}" for i in range(7)]


def to_json(part):
    return part.model_dump(mode="json")


def some(make):
    """Some of the ids in some order, each with a content of its own."""
    items = st.tuples(st.sampled_from(IDS), st.integers(0, 2))
    unique = st.lists(items, unique_by=lambda item: item[0], max_size=6)
    return unique.map(lambda chosen: tuple(make(id, content) for id, content in chosen))


FACTS = st.builds(
    Facts,
    site=st.just("s"),
    name=st.sampled_from(["A", "B"]),
    zone=st.sampled_from(["UTC", "Europe/London"]),
    modes=st.sampled_from([(), ("open",), ("open", "closed")]),
    areas=some(lambda id, n: Area(id=id, name=f"area {n}")),
    points=some(lambda id, n: Point(id=id, name=id, kind="door", tags=(str(n),))),
    sightlines=st.dictionaries(st.sampled_from(IDS), st.just(("t1", "t2")), max_size=4),
    rules=some(lambda id, n: LiveRule(id=id, revision=n, document={"name": id})),
)


@settings(max_examples=400, deadline=None)
@given(FACTS, FACTS)
def test_a_change_leads_from_one_to_the_other(before, after):
    change = facts_change(before, after, to_json)
    if change is None:
        assert before == after
        return
    assert is_change(change) and not is_change(to_json(after))
    read = json.loads(json.dumps(change))
    assert Facts.model_validate(applied(to_json(before), read)) == after


@settings(max_examples=100, deadline=None)
@given(st.lists(FACTS, min_size=2, max_size=5))
def test_changes_one_after_the_other_lead_to_the_last(versions):
    body = to_json(versions[0])
    for before, after in zip(versions, versions[1:], strict=False):
        change = facts_change(before, after, to_json)
        body = applied(body, change) if change else body
    assert Facts.model_validate(body) == versions[-1]


def test_a_saved_rule_costs_its_own_size_however_many_there_are():
    rules = tuple(
        LiveRule(id=f"r{i:03}", revision=1, document={"name": f"Rule {i}", "response": []}) for i in range(500)
    )
    before = Facts(site="s", name="S", rules=rules)
    after = before.model_copy(
        update={"rules": (*rules[:250], rules[250].model_copy(update={"revision": 2}), *rules[251:])}
    )
    assert len(json.dumps(facts_change(before, after, to_json))) < 200


def rule(id, revision=1):
    where = {"points": [{"id": "t1"}]}
    document = {
        "format": "dromikon-rule/1", "name": id, "cause": {"cause": "event", "kind": "door.forced", "phase": "pulse", "where": where},
        "response": [{"do": "line", "text": f"{id} {revision}"}],
    }  # fmt: skip
    return LiveRule(id=id, revision=revision, document=document)


def forced(seq):
    return Event(seq, "door.forced", "t1", Phase.PULSE, seq * 1000, seq * 1000, seq * 1000, None, {}, False, False, ())


def test_a_saved_rule_is_compiled_alone_and_all_are_when_what_they_name_has_changed(monkeypatch):
    from dromikon.core.rules import evaluate

    compiled, real = [], evaluate.compile_rule
    monkeypatch.setattr(evaluate, "compile_rule", lambda live, *rest: (compiled.append(live.id), real(live, *rest))[1])
    points = (Point(id="t1", name="Door", kind="door"),)
    facts = Facts(site="s", name="S", points=points, rules=tuple(rule(f"r{i}") for i in range(5)))
    evaluator = Evaluator(facts)
    compiled.clear()
    changed = facts.model_copy(update={"rules": (rule("r0", 2), *facts.rules[1:])})
    assert same_but_rules(facts, changed) and not same_but_rules(facts, Facts(site="s", name="T", points=points))
    evaluator.replace(changed, 10)
    assert compiled == ["r0"]
    outcome = evaluator.apply(forced(1))
    assert sorted((v.rule, v.revision) for v in outcome.verdicts) == [(f"r{i}", 2 if i == 0 else 1) for i in range(5)]
    evaluator.replace(changed.model_copy(update={"points": (points[0].model_copy(update={"name": "Gate"}),)}), 20)
    assert compiled == ["r0", "r0", "r1", "r2", "r3", "r4"]
    evaluator.replace(changed.model_copy(update={"rules": changed.rules[1:]}), 30)
    assert "r0" not in evaluator.rules and "r0" not in {v.rule for v in evaluator.apply(forced(40)).verdicts}
