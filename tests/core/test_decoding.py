"""From topics and plain JSON to events."""

import pytest

from dromikon.core.decoding import NotDecoded
from dromikon.core.decoding import http as plain_http
from dromikon.core.decoding.onvif import TOPIC_KINDS, TOPICS, decode
from dromikon.core.decoding.onvif.topics import own_event
from dromikon.core.events import Phase
from dromikon.core.kinds import KINDS

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


DOOR, POINT, RULE = {"DoorToken": "d"}, {"AccessPointToken": "a"}, {"VideoSource": "v", "Rule": "R"}
HOLDER = {"CredentialToken": "7731", "CredentialHolderName": "Clio Fenwright", "External": "false"}


@pytest.mark.parametrize(
    ("topic", "source", "data", "kind", "token", "phase", "fields"),
    [
        ("RuleEngine/FieldDetector/ObjectsInside", RULE, {"IsInside": "true", "ObjectId": "4"}, "scene.inside", "v/R", "begin", {"object": 4}),
        ("RuleEngine/CellMotionDetector/Motion", RULE, {"IsMotion": "false"}, "scene.motion", "v/R", "end", {}),
        ("VideoSource/SignalLoss", {"Source": "v"}, {"State": "true"}, "picture.lost", "v", "begin", {}),
        ("RuleEngine/CountAggregation/Counter", RULE, {"Count": "12"}, "scene.count", "v/R", "reading", {"value": 12}),
        ("VideoAnalytics/Radiometry/BoxTemperatureReading", {"VideoSourceToken": "v"}, {"ItemID": "Flue", "MaxTemperature": "353.15"},
         "scene.temperature", "v/Flue", "reading", {"value": 80.0}),
        ("VideoAnalytics/Radiometry/BoxTemperatureReading", {"VideoSourceToken": "v"},
         {"ItemID": "Flue", "MaxTemperature": "353.15", "MinTemperature": "330.15", "AverageTemperature": "341.65"},
         "scene.temperature", "v/Flue", "reading", {"value": 80.0, "lowest": 57.0, "mean": 68.5}),
        ("RuleEngine/Radiometry/TemperatureAlarm", RULE, {"State": "true"}, "scene.hot", "v/R", "begin", {}),
        ("RuleEngine/Recognition/LicensePlate", RULE, {"LicensePlateInfo/PlateNumber": "qm 23 kub", "LicensePlateInfo/PlateNumber@Likelihood": "0.91"},
         "plate.read", "v/R", "pulse", {"plate": "QM23KUB", "confidence": 91.0}),
        ("RuleEngine/Recognition/Face", RULE, {"Likelihood": "0.8", "FaceName": "Clio"}, "face.seen", "v/R", "pulse", {"person": "Clio", "confidence": 80.0}),
        ("Device/Trigger/Relay", {"RelayToken": "1"}, {"LogicalState": "active"}, "output.active", "relay/1", "begin", {}),
        ("Door/State/DoorPhysicalState", DOOR, {"State": "Open"}, "door.open", "door/d", "begin", {}),
        ("Door/State/LockPhysicalState", DOOR, {"State": "Unlocked"}, "door.locked", "door/d", "end", {}),
        ("Door/State/DoorAlarm", DOOR, {"State": "DoorForcedOpen"}, "door.forced", "door/d", "pulse", {}),
        ("Door/State/DoorAlarm", DOOR, {"State": "DoorOpenTooLong"}, "door.held_open", "door/d", "begin", {}),
        ("Door/State/DoorAlarm", DOOR, {"State": "Normal"}, "door.held_open", "door/d", "end", {}),
        ("Door/State/DoorTamper", DOOR, {"State": "TamperDetected"}, "door.tampered", "door/d", "begin", {}),
        ("AccessControl/AccessGranted/Credential", POINT, HOLDER, "access.granted", "access/a", "pulse", {"card": "7731", "person": "Clio Fenwright"}),
        ("AccessControl/Denied/Credential", POINT, {**HOLDER, "Reason": "CredentialExpired"}, "access.denied", "access/a", "pulse",
         {"card": "7731", "person": "Clio Fenwright", "reason": "CredentialExpired"}),
        ("AccessControl/Denied/CredentialNotFound/Card", POINT, {"Card": "0000"}, "access.denied", "access/a", "pulse", {"card": "0000"}),
        ("AccessControl/Duress", POINT, HOLDER, "access.duress", "access/a", "pulse", {"card": "7731", "person": "Clio Fenwright"}),
    ],
)  # fmt: skip
def test_topics_of_the_standard_become_events(topic, source, data, kind, token, phase, fields):
    got = decode(f"tns1:{topic}", "", source, data)
    assert (got.kind, got.token, got.phase.value, dict(got.fields)) == (kind, token, phase, fields)
    assert kind in TOPIC_KINDS[f"tns1:{topic}"]


def test_every_topic_becomes_a_kind_that_there_is_in_a_phase_that_it_has():
    for kinds in TOPIC_KINDS.values():
        assert kinds and all(kind in KINDS for kind in kinds)
    assert set(TOPIC_KINDS) == set(TOPICS.names())


def test_an_event_of_a_makers_own_keeps_what_it_tells():
    state = own_event("tns1:RuleEngine/mk:Near", "Changed", {"Zone": "3"}, {"Active": "1", "Level": "4.5"})
    assert (state.kind, state.token, state.phase) == ("device.own", "topic/tns1:RuleEngine/mk:Near", Phase.BEGIN)
    assert state.fields["items"] == "Zone=3, Active=1, Level=4.5"
    assert own_event("mk:Rebooted", "", {}, {"State": "true"}).phase is Phase.PULSE, "no property, no state"
    assert own_event("mk:Near", "Initialized", {}, {"Active": "off"}).told_on_request


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
