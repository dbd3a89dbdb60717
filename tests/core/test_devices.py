"""What a device says of itself: how it changed, what stays known, and what has fallen silent."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.devices.catalogue import topics_of, topics_set_up
from dromikon.core.devices.drift import Change, changes, kept
from dromikon.core.devices.reach import Reach, reach_of
from dromikon.core.devices.silence import Silence, silence
from dromikon.core.devices.standing import stand_for_device

LINE = {"topic": "tns1:RuleEngine/LineDetector/Crossed", "state": False, "source": {"Rule": "string"}, "data": {}}
MOTION = {"topic": "tns1:VideoSource/MotionAlarm", "state": True, "source": {}, "data": {"State": "boolean"}}
BAY = {
    "name": "Bay", "type": "tt:LoiteringDetector", "channel": "v", "waits": 10.0, "parameters": {"TimeThreshold": "PT10S"},
    "shapes": [{"sort": "area", "item": "Field", "points": [[0.0, 0.0], [0.5, 0.0], [0.5, 0.5]]}],
}  # fmt: skip
WHOLE = {
    "information": {"manufacturer": "M", "model": "X", "firmware": "1.0", "serial": "7"},
    "channels": ["v"], "events": [LINE, MOTION], "inputs": ["1"], "relays": ["r"], "detectors": [BAY],
    "modules": [{"name": "Objects", "type": "tt:X", "parameters": {"Sensitivity": "60"}, "running": True}],
    "presets": [{"channel": "v", "token": "1", "name": "Home"}],
    "applications": [{"id": "a", "name": "Counter", "version": "1", "running": True, "licensed": None}],
}  # fmt: skip


def test_a_device_that_says_the_same_has_not_changed():
    assert changes(WHOLE, json.loads(json.dumps(WHOLE))) == []


@pytest.mark.parametrize(
    ("part", "now", "change"),
    [
        ("events", [LINE], Change("events", "gone", MOTION["topic"])),
        ("events", [LINE, {**MOTION, "data": {"State": "string"}}],
         Change("events", "changed", MOTION["topic"], "State: boolean → string")),
        ("inputs", ["1", "2"], Change("inputs", "new", "2")),
        ("relays", [], Change("relays", "gone", "r")),
        ("information", {**WHOLE["information"], "firmware": "2.0"}, Change("firmware", "changed", "2.0", "1.0 → 2.0")),
        ("detectors", [{**BAY, "parameters": {"TimeThreshold": "PT30S"}}],
         Change("detectors", "changed", "v/Bay", "TimeThreshold: PT10S → PT30S")),
        ("modules", [{**WHOLE["modules"][0], "parameters": {"Sensitivity": "20"}}],
         Change("modules", "changed", "Objects", "Sensitivity: 60 → 20")),
        ("presets", [{"channel": "v", "token": "1", "name": "Gate"}], Change("presets", "changed", "v/1", "name: Home → Gate")),
        ("applications", [{**WHOLE["applications"][0], "running": False}],
         Change("applications", "changed", "a", "running: True → False")),
    ],
)  # fmt: skip
def test_what_is_new_gone_or_changed_is_named(part, now, change):
    assert changes(WHOLE, {**WHOLE, part: now}) == [change]


def test_a_shape_that_was_moved_is_a_change():
    moved = {**BAY, "shapes": [{**BAY["shapes"][0], "points": [[0.1, 0.0], [0.5, 0.0], [0.5, 0.5]]}]}
    (change,) = changes(WHOLE, {**WHOLE, "detectors": [moved]})
    assert change.said.startswith("Field: (0.00, 0.00)")


def test_another_device_at_the_same_address_is_told():
    other = {**WHOLE, "information": {**WHOLE["information"], "serial": "8"}}
    assert changes(WHOLE, other) == [Change("identity", "changed", "M 8", "M 7 → M 8")]


def test_what_is_not_told_is_neither_gone_nor_forgotten():
    told = {"channels": ["v"], "refused": {"events": "not here", "detectors": "busy"}}
    now = kept(WHOLE, told)
    assert topics_of(now) == [LINE["topic"], MOTION["topic"]] and now["detectors"] == [BAY]
    assert changes(WHOLE, now) == [] and "inputs" not in now
    assert changes({}, WHOLE) == [], "what is told for the first time is not new"


PARTS = st.fixed_dictionaries({}, optional={"channels": st.sets(st.sampled_from("abc")).map(sorted), "inputs": st.sets(st.sampled_from("12")).map(sorted)})  # fmt: skip


@given(PARTS, PARTS)
def test_changes_lead_from_what_was_to_what_is(before, after):
    now = {part: set(content) for part, content in before.items() if part in after}
    for change in changes(before, after):
        (now[change.part].add if change.how == "new" else now[change.part].remove)(change.name)
    assert now == {part: set(content) for part, content in after.items() if part in before}


def test_what_it_can_send_is_not_what_it_is_set_up_to():
    types = [
        {"name": "tt:LoiteringDetector", "topics": ["a"], "parameters": [], "limit": None},
        {"name": "tt:LineDetector", "topics": ["b"], "parameters": [], "limit": 4},
    ]
    assert topics_set_up({"detector_types": types, "detectors": [BAY]}) == {"a": True, "b": False}


def test_what_came_daily_and_stops_is_silent_after_a_day():
    daily = dict.fromkeys(range(100, 110), 5)
    assert silence("scene.motion", daily, 110) is None, "today is not over"
    assert silence("scene.motion", daily, 111) == Silence(days=1, usual=0)
    assert silence("device.lost", daily, 111) is None, "nobody waits for trouble"


def test_what_comes_on_tuesdays_is_not_silent_on_fridays():
    weekly = dict.fromkeys(range(100, 130, 7), 4)
    last = max(weekly)
    assert silence("scene.motion", weekly, last + 8) is None
    assert silence("scene.motion", weekly, last + 14) == Silence(days=13, usual=6)


def test_of_little_nobody_says_that_it_is_silent():
    assert silence("scene.motion", {100: 500}, 140) is None and silence("scene.motion", {}, 140) is None
    assert silence("scene.motion", {100: 1, 101: 1, 102: 1, 103: 1}, 140) is None


def test_a_device_stands_by_its_channels_or_else_its_doors():
    points = [("i", "input"), ("d1", "door"), ("d2", "door"), ("x", "detector")]
    assert stand_for_device(points) == ("d1", "d2")
    assert stand_for_device([*points, ("c", "camera")]) == ("c",)
    assert stand_for_device([("x", "detector")]) == ()


HOUR = 3_600_000


@pytest.mark.parametrize(
    ("stretches", "since", "sort"),
    [
        ([(0, 400 * HOUR)], 0, "continuous"),
        ([(0, 300 * HOUR), (301 * HOUR, 400 * HOUR)], 0, "continuous"),
        ([(h * HOUR, h * HOUR + 120_000) for h in range(100, 400, 3)], 100 * HOUR, "events"),
        ([(0, 100 * HOUR)], 0, "none"),
        ([(398 * HOUR, 400 * HOUR)], 398 * HOUR, "continuous"),
        ([(h * 1000, h * 1000 + 999) for h in range(0, 1_440_000, 1)], 0, "continuous"),
        ([], None, "none"),
    ],
)
def test_recordings_are_continuous_by_event_or_none(stretches, since, sort):
    assert reach_of(stretches, 400 * HOUR) == Reach(since, sort)
