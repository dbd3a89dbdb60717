"""Readings before they are events: units, and what tells nothing new."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.readings.thinning import Thinning
from dromikon.core.readings.units import UNITS, OtherQuantity, converted, known_as


@pytest.mark.parametrize(
    ("value", "said", "wanted", "told"),
    [(32, "°F", "°C", 0), (212, "F", "°C", 100), (273.15, "K", "°C", 0), (-40, "°C", "°F", -40), (36, "km/h", "m/s", 10), (10, "kn", "m/s", 5.1444444),
     (20, "mph", "m/s", 8.9408), (55, "%RH", "%", 55), (1, "bar", "hPa", 1000), (7, "°C", "", 7), (7, "", "°C", 7), (4, "widgets", "widgets", 4)],
)  # fmt: skip
def test_a_value_is_the_same_in_another_unit(value, said, wanted, told):
    assert converted(value, said, wanted) == pytest.approx(told, abs=1e-6)


@pytest.mark.parametrize(("said", "wanted"), [("°C", "m/s"), ("widgets", "°C"), ("%", "hPa")])
def test_what_is_another_quantity_is_said(said, wanted):
    with pytest.raises(OtherQuantity, match="cannot be told"):
        converted(1, said, wanted)


@given(st.sampled_from(sorted(UNITS)), st.sampled_from(sorted(UNITS)), st.floats(-1e6, 1e6))
def test_there_and_back_is_where_one_was(said, wanted, value):
    if UNITS[said].of == UNITS[wanted].of:
        assert converted(converted(value, said, wanted), wanted, said) == pytest.approx(value, rel=1e-6, abs=1e-6)
    assert known_as(said) == said


@given(st.lists(st.floats(-50, 50), min_size=1, max_size=60), st.floats(0.1, 10), st.integers(0, 120))
def test_what_is_not_told_is_near_what_was_and_the_longest_pause_is_kept(values, deadband, every):
    thinning, told = Thinning(deadband, every), []
    for i, value in enumerate(values):
        if thinning.lets(told[-1] if told else None, i * 10_000, value):
            told.append((i * 10_000, value))
        at, last = told[-1]
        assert abs(value - last) < deadband or (at, last) == (i * 10_000, value)
        assert not every or i * 10_000 - at < every * 1000
    assert told[0] == (0, values[0])


def test_without_a_deadband_every_reading_is_told():
    assert Thinning(0, 600).lets((0, 5.0), 1, 5.0)
