"""Rows written by an earlier release go on in this one."""

import pytest

from dromikon.core.events import Tick
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.state import STATE_FORMAT, State
from dromikon.core.rules.upgrade import upgraded
from dromikon.core.stored import event_to_json
from tests.core.site import contact, facts, rule

BEGINS = {"cause": "event", "kind": "input.active", "phase": "begin", "where": {"points": [{"id": "contact"}]}}
STEPS = [
    {"do": "relay", "target": {"point": {"id": "light"}}, "held": "state"},
    {"do": "line", "text": "later", "after": 60},
]
#: A held output and a pending step, as format 1 had them.
RUN = {
    "event": {k: v for k, v in event_to_json(contact(1, 0, True)).items() if k != "chain"},
    "state": "input.active@contact",
    "pending": [{"step": 1, "anchor": "start", "due": 60_000}],
    "held": [{"step": 0, "do": "relay", "target": "light", "until": None}],
    "due": 60_000,
}


def test_a_run_of_an_earlier_release_is_released_and_finished():
    rows = upgraded([(("r0", "run|1.r0"), RUN), (("", "input.active@contact"), {"on": True})], 1)
    evaluator = Evaluator(facts(rule(cause=BEGINS, response=STEPS)), State(rows))
    outcome = evaluator.apply(contact(2, 5_000, False))
    assert [(o.action, o.release, o.due) for o in outcome.orders] == [("relay", True, 5_000)] and outcome.ended == [
        "1.r0"
    ]
    assert [o.action for o in evaluator.apply(Tick(3, 60_000)).orders] == ["line"]
    assert evaluator.next_wake() is None


def test_rows_of_this_release_stay_and_later_ones_are_refused():
    rows = [(("r", "k"), {"a": 1})]
    assert upgraded(rows, STATE_FORMAT) == rows
    with pytest.raises(ValueError, match="later release"):
        upgraded(rows, STATE_FORMAT + 1)
