"""Settings of detectors between a person and a device."""

import pytest

from dromikon.core.devices.settings import NotSettable, checked_shapes, first_shapes, settings_of, written

TYPE = {
    "name": "tt:LoiteringDetector", "topics": [], "limit": None,
    "parameters": [
        {"name": "TimeThreshold", "type": "duration"}, {"name": "ConfidenceLevel", "type": "float"},
        {"name": "Near", "type": "boolean"}, {"name": "Field", "type": "Polygon"},
    ],
}  # fmt: skip
BAY = {"name": "Bay", "type": "tt:LoiteringDetector", "parameters": {"TimeThreshold": "PT1M30S", "ConfidenceLevel": "0.55", "Odd": "x"}}  # fmt: skip


def test_seconds_and_percent_are_what_a_person_reads():
    shown = {s.name: (s.value, s.unit, s.sort) for s in settings_of(BAY, TYPE)}
    assert shown == {
        "TimeThreshold": ("90", "s", "number"),
        "ConfidenceLevel": ("55", "%", "number"),
        "Near": ("", "", "yes_no"),
        "Odd": ("x", "", "text"),
    }


def test_what_is_written_is_what_the_device_wants():
    given = {"TimeThreshold": "12", "ConfidenceLevel": "60", "Near": "true", "Odd": " y "}
    assert written(given, TYPE["parameters"]) == {
        "TimeThreshold": "PT12S", "ConfidenceLevel": "0.6", "Near": "true", "Odd": "y",
    }  # fmt: skip


@pytest.mark.parametrize(
    ("name", "value"),
    [
        ("TimeThreshold", "soon"),
        ("TimeThreshold", "-3"),
        ("ConfidenceLevel", "120"),
        ("Near", "perhaps"),
        ("Direction", "Up"),
    ],
)
def test_what_cannot_be_is_told_at_its_place(name, value):
    with pytest.raises(NotSettable) as refused:
        written({name: value}, TYPE["parameters"])
    assert refused.value.path == f"settings.{name}"


@pytest.mark.parametrize(
    ("sort", "points"),
    [("line", [(0, 0)]), ("area", [(0, 0), (0.1, 0)]), ("line", [(0, 0), (1.2, 0)]), ("area", [(0, 0)] * 41)],
)
def test_what_cannot_be_drawn_is_refused(sort, points):
    with pytest.raises(NotSettable):
        checked_shapes([{"sort": sort, "item": "Field", "points": points}])


def test_a_new_one_begins_in_the_middle():
    (shape,) = checked_shapes(first_shapes(TYPE))
    assert (shape["sort"], shape["item"], len(shape["points"])) == ("area", "Field", 4)


def test_a_value_that_the_device_writes_otherwise_is_shown_as_it_is():
    odd = {**BAY, "parameters": {"TimeThreshold": "ten", "ConfidenceLevel": "high"}}
    assert [s.value for s in settings_of(odd, TYPE)][:2] == ["ten", "high"]
