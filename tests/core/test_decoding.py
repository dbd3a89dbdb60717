"""From topics and plain JSON to events."""

import pytest

from dromikon.core.alarms.states import AlarmState, NotPossible, acknowledge, end
from dromikon.core.decoding import NotDecoded
from dromikon.core.decoding import http as plain_http
from dromikon.core.decoding.onvif import decode
from dromikon.core.events import Phase

LINE = {"VideoSourceConfigurationToken": "v", "Rule": "Gate"}


def test_a_crossed_line_with_class_confidence_size_and_direction():
    got = decode(
        "tns1:RuleEngine/LineDetector/Crossed",
        "",
        LINE,
        {"ObjectId": "7", "ClassTypes": "Human", "Likelihood": "0.8134", "Height": "0.12", "Direction": "Right"},
    )
    assert (got.kind, got.token, got.phase) == ("scene.line_crossed", "v/Gate", Phase.PULSE)
    assert got.fields == {"object": 7, "class": "human", "confidence": 81.3, "height": 12.0, "direction": "in"}


@pytest.mark.parametrize(("state", "phase"), [("true", Phase.BEGIN), ("1", Phase.BEGIN), ("False", Phase.END)])
def test_states_begin_and_end(state, phase):
    assert (
        decode("tns1:Device/Trigger/DigitalInput", "Changed", {"InputToken": "i"}, {"LogicalState": state}).phase
        is phase
    )


def test_a_camera_that_is_covered_says_so():
    got = decode("tns1:VideoSource/GlobalSceneChange/ImagingService", "Changed", {"Source": "v"}, {"State": "true"})
    assert (got.kind, got.token, got.phase) == ("scene.tampered", "v", Phase.BEGIN)


def test_what_was_told_on_request_says_so():
    assert decode("tns1:VideoSource/MotionAlarm", "Initialized", {"Source": "v"}, {"State": "true"}).told_on_request


@pytest.mark.parametrize(
    ("topic", "source", "data", "says"),
    [
        ("tns1:Nobody/Knows", {}, {}, "No decoder knows"),
        ("tns1:RuleEngine/LineDetector/Crossed", {"VideoSourceConfigurationToken": "v"}, {}, "no item Rule"),
        ("tns1:RuleEngine/LoiteringDetector/ObjectIsLoitering", LINE, {"State": "perhaps"}, "neither true nor false"),
        ("tns1:RuleEngine/LineDetector/Crossed", LINE, {"Likelihood": "high"}, "cannot be read"),
    ],
)
def test_what_cannot_be_decoded_says_why(topic, source, data, says):
    with pytest.raises(NotDecoded, match=says):
        decode(topic, "", source, data)


def test_an_unknown_class_is_other_and_never_lost():
    assert (
        decode("tns1:RuleEngine/LineDetector/Crossed", "", LINE, {"ClassTypes": "Trolley"}).fields["class"] == "other"
    )


def test_plain_json_events():
    got, said = plain_http.decode(
        {"kind": "input.active", "point": "p", "phase": "begin", "occurred_at": "2026-01-01T00:00:00Z"}
    )
    assert (got.kind, got.token, got.phase, said) == ("input.active", "p", Phase.BEGIN, 1_767_225_600_000)


@pytest.mark.parametrize(
    ("content", "says"),
    [
        ([], "message"),
        ({"kind": "input.active", "point": "p"}, "phase"),
        ({"kind": "x.y", "point": "p", "phase": "begin"}, "no kind"),
        ({"kind": "input.active", "point": "p", "phase": "pulse"}, "no phase"),
        ({"kind": "input.active", "point": "p", "phase": "begin", "more": 1}, "more"),
        ({"kind": "input.active", "point": "p", "phase": "begin", "occurred_at": "soon"}, "occurred_at"),
        ({"kind": "input.active", "point": "p", "phase": "begin", "fields": {"x": float("inf")}}, "fields"),
    ],
)
def test_plain_json_that_is_wrong_names_the_field(content, says):
    with pytest.raises(NotDecoded, match=says):
        plain_http.decode(content)


def test_alarm_states_after_iec_62682():
    assert acknowledge(AlarmState.UNACKNOWLEDGED, lasting=True) is AlarmState.ACKNOWLEDGED
    assert acknowledge(AlarmState.UNACKNOWLEDGED, lasting=False) is AlarmState.CLOSED
    assert end(AlarmState.UNACKNOWLEDGED) is AlarmState.RETURNED
    assert acknowledge(AlarmState.RETURNED, lasting=False) is AlarmState.CLOSED
    assert end(AlarmState.ACKNOWLEDGED) is AlarmState.CLOSED
    assert end(AlarmState.CLOSED) is AlarmState.CLOSED
    for state in (AlarmState.ACKNOWLEDGED, AlarmState.CLOSED):
        with pytest.raises(NotPossible):
            acknowledge(state, lasting=True)
