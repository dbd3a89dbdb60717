"""Messages that are alike."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.decoding.likeness import likeness

ALARM = {"till": 3, "items": [{"code": "A"}, {"code": "B"}]}


def of(content, reason="kind: Field required"):
    return likeness(reason, content if isinstance(content, str) else json.dumps(content))


@pytest.mark.parametrize(
    ("one", "other", "alike"),
    [
        (ALARM, {"till": 4, "items": [{"code": "C"}]}, True),
        (ALARM, {"items": [{"code": "C"}], "till": 9}, True),
        (ALARM, {**ALARM, "shop": 1}, False),
        ("link 3 is down", "link 14 is down", True),
        ("link 3 is down", "link 3 is up", False),
        ("<a>1</a>", "<a>22</a>", True),
    ],
)
def test_shapes_count_and_values_do_not(one, other, alike):
    assert (of(one) == of(other)) is alike


def test_what_a_reason_quotes_does_not_count():
    assert of(ALARM, "There is no point “attic”.") == of(ALARM, "There is no point “cellar”.") != of(ALARM, "Not JSON.")


@given(st.text(max_size=200), st.text(max_size=200))
def test_any_text_has_a_likeness(reason, raw):
    assert len(likeness(reason, raw)) == 16
