"""Charts of readings: what is drawn lies on the sheet, in order, with the limits of rules where they are."""

from typing import NamedTuple

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.readings.chart import Sheet, chart, ticks
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.limits import limits_of

SHEET = Sheet(0, 86_400_000, 960, 300)


class Read(NamedTuple):
    at: int
    low: float
    high: float
    mean: float


def read(*values, every=600_000):
    return [Read(i * every, v, v, v) for i, v in enumerate(values)]


reads = st.lists(st.floats(-1e4, 1e4), min_size=1, max_size=50)


@given(reads, st.lists(st.floats(-1e4, 1e4), max_size=3))
def test_everything_lies_on_the_sheet_and_more_is_higher_up(values, limits):
    drawn = chart(read(*values), limits, SHEET, 7_200_000)
    (line,) = drawn.lines
    heights = [y for _, y in line] + [y for y, _ in drawn.limits] + [y for y, _ in drawn.ticks]
    assert all(0 <= y <= 300 for y in heights) and [x for x, _ in line] == sorted(x for x, _ in line)
    most, least = values.index(max(values)), values.index(min(values))
    assert line[most][1] <= line[least][1]
    assert [value for _, value in drawn.limits] == sorted(set(limits))


def test_a_long_pause_breaks_the_line_and_a_band_is_drawn_where_values_differ():
    told = [Read(0, 1, 3, 2), Read(600_000, 2, 2, 2), Read(30_000_000, 5, 5, 5)]
    drawn = chart(told, [], SHEET, 7_200_000)
    assert [len(line) for line in drawn.lines] == [2, 1] and len(drawn.bands) == 1 and len(drawn.bands[0]) == 4


def test_nothing_read_is_an_empty_chart():
    assert chart([], [5], SHEET, 1).lines == [] and chart([], [5], SHEET, 1).limits == []


@given(st.floats(-1e6, 1e6), st.floats(1e-3, 1e6))
def test_ticks_are_round_in_between_and_few(low, room):
    found = ticks(low, low + room)
    assert found == sorted(found) and len(found) <= 6
    assert all(low - 1e-6 * abs(low) - 1e-9 <= tick <= low + room + 1e-6 * abs(low) + 1e-9 for tick in found)


@pytest.mark.parametrize(
    ("parts", "limits"),
    [
        ({"cause": {"cause": "level", "way": "up", "value": -17, "where": {"points": [{"id": "a"}]}}}, [-17]),
        ({"cause": {"cause": "level", "way": "out", "value": 30, "low": 20, "where": {"points": [{"id": "a"}]}}}, [30, 20]),
        ({"cause": {"cause": "level", "way": "rate", "value": 3, "where": {"points": [{"id": "a"}]}}}, []),
        ({"cause": {"cause": "event", "kind": "sensor.reading", "phase": "reading", "where": {"points": [{"id": "a"}]}},
          "provided": {"test": "any", "of": [{"test": "field", "field": "value", "op": "between", "value": [4, 6]},
                                             {"test": "not", "of": {"test": "field", "field": "value", "op": "at_least", "value": 9}}]}}, [4, 6, 9]),
        ({"cause": {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": {"points": [{"id": "a"}]}},
          "provided": {"test": "field", "field": "confidence", "op": "at_least", "value": 55}}, []),
    ],
)  # fmt: skip
def test_limits_of_a_rule_are_what_it_compares_readings_with(parts, limits):
    document = RuleDocument.model_validate({"name": "R", "response": [{"do": "line", "text": "x"}], **parts})
    assert limits_of(document) == limits
