"""What a colleague would say of a rule before it goes live."""

import pytest

from dromikon.core.rules.checks import Known, check
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.timeplan import stretches, time_plan
from tests.core.site import facts, rule

BAY = {"cause": "event", "kind": "scene.loitering", "phase": "begin", "where": {"points": [{"id": "bay"}]}}


def found(document, known=None):
    return {f.check: f for f in check(RuleDocument.model_validate(document), known or facts())}


def test_a_sound_rule_has_no_findings():
    assert found(rule(response=[*rule()["response"], {"do": "bookmark", "before": 10}])) == {}


@pytest.mark.parametrize("groups", [[], [{"id": "nobody"}], [{"id": "gone"}]])
def test_an_alarm_that_nobody_receives_is_an_error_with_a_mend(groups):
    finding = found(rule(response=[{"do": "alarm", "title": "x", "groups": groups}]))["no-recipient"]
    assert (finding.severity, finding.path) == ("error", "response.0.groups")
    assert finding.mend.value == [{"id": "ops", "name": "Operators"}]


def test_a_script_that_is_not_there_is_named_where_the_folder_is_known():
    document = RuleDocument.model_validate(rule(response=[{"do": "script", "script": "on-event"}]))
    told = lambda scripts: [f.path for f in check(document, facts(), Known(scripts=scripts)) if f.check == "no-script"]
    assert told(frozenset({"other"})) == told(frozenset()) == ["response.0.script"]
    assert told(frozenset({"on-event"})) == told(None) == []


def test_what_does_not_exist_is_named_at_its_place():
    document = rule(
        cause={
            "cause": "event",
            "kind": "scene.line_crossed",
            "phase": "pulse",
            "where": {"points": [{"id": "gone", "name": "Old line"}, {"id": "line"}]},
        },
        hours={"hours": {"id": "gone"}},
        response=[{"do": "relay", "target": {"point": {"id": "gone"}}, "held": 3}],
    )
    paths = {f.path for f in check(RuleDocument.model_validate(document), facts()) if f.check == "unknown-reference"}
    assert paths == {"cause.where.points.0", "hours.hours", "response.0.target.point"}


def test_a_selection_without_a_fitting_point_never_fires():
    document = rule(
        cause={
            "cause": "event",
            "kind": "scene.line_crossed",
            "phase": "pulse",
            "where": {"points": [{"id": "contact"}]},
        }
    )
    assert "never fires" in found(document)["no-point"].reason


def test_a_pre_roll_shorter_than_the_detector_waits_and_its_mend():
    document = rule(cause=BAY, response=[{"do": "bookmark", "before": 4}])
    finding = found(document)["pre-roll-too-short"]
    assert finding.severity == "warning" and finding.mend.value == 15
    document["response"][0]["before"] = finding.mend.value
    assert "pre-roll-too-short" not in found(document)


@pytest.mark.parametrize(("recorded", "told"), [("continuous", False), ("events", True), ("none", True), ("", False)])
def test_pictures_from_before_need_a_recording_that_goes_on(recorded, told):
    document = RuleDocument.model_validate(rule(cause=BAY, response=[{"do": "bookmark", "before": 30}]))
    cameras = facts().cameras_of("bay")
    known = Known(recorded=dict.fromkeys(cameras, recorded) if recorded else {})
    said = {f.check for f in check(document, facts(), known)}
    assert cameras and ("pre-roll-unrecorded" in said) is told
    after = RuleDocument.model_validate(rule(cause=BAY, response=[{"do": "bookmark", "before": 0}]))
    assert "pre-roll-unrecorded" not in {f.check for f in check(after, facts(), known)}


def test_fields_and_filters_that_the_kind_does_not_have():
    provided = {"test": "field", "field": "speed", "op": "at_least", "value": 3}
    finding = found(rule(provided=provided))["unknown-field"]
    assert finding.path == "provided" and "confidence" in finding.hint
    assert (
        "plate"
        in found(rule(response=[{"do": "alarm", "title": "{plate}", "groups": [{"id": "ops"}]}]))[
            "unknown-field"
        ].reason
    )
    assert (
        "shout"
        in found(rule(response=[{"do": "alarm", "title": "{class|shout}", "groups": [{"id": "ops"}]}]))[
            "unknown-field"
        ].reason
    )


def test_a_momentary_cause_has_no_end_to_hold_until():
    step = {"do": "relay", "target": {"point": {"id": "light"}}, "held": "state"}
    assert "never-ends" in found(rule(response=[step]))
    assert "never-ends" not in found(rule(cause=BAY, response=[step]))


def test_responses_that_make_no_sense():
    assert found(rule(response=[]))["no-response"].severity == "error"
    assert "needs-alarm" in found(rule(response=[{"do": "bookmark", "anchor": "acknowledged"}]))
    critical = {"do": "alarm", "title": "x", "priority": "critical", "groups": [{"id": "ops"}]}
    assert found(rule(response=[critical]))["no-instruction"].path == "response.0.instruction"
    unheard = found(rule(response=[{**critical, "sound": "none"}]))["unheard-alarm"]
    assert (unheard.mend.path, unheard.mend.value) == ("response.0.sound", "urgent")
    assert "unheard-alarm" not in found(rule(response=[critical]))


def test_the_time_plan_puts_the_event_at_zero():
    plan = time_plan(
        RuleDocument.model_validate(
            rule(
                cause=BAY,
                hold_off={"seconds": 60},
                response=[{"do": "bookmark", "before": 20, "beyond": 30}, {"do": "popup", "after": 5, "seconds": 40}],
            )
        ),
        facts(),
    )
    bars = {b.style: (b.above, b.start, b.end) for b in plan.bars}
    assert bars == {
        "wait": (True, -10, 0),
        "quiet": (True, 0, 60),
        "bookmark": (False, -20, 30),
        "popup": (False, 5, 45),
    }
    [axis] = plan.axes
    assert (axis.anchor, len(axis.stretches)) == ("start", 1)
    assert axis.stretches[0][0] < -20 and axis.stretches[0][1] > 60
    edges = {(b.style, name): (g.path, g.way * (edge - g.origin)) for b in plan.bars for name, g, edge in
             (("moves", b.moves, b.start), ("begins", b.begins, b.start), ("ends", b.ends, b.end)) if g}  # fmt: skip
    assert edges == {
        ("quiet", "ends"): ("hold_off.seconds", 60),
        ("bookmark", "begins"): ("response.0.before", 20),
        ("bookmark", "ends"): ("response.0.beyond", 30),
        ("popup", "moves"): ("response.1.after", 5),
        ("popup", "ends"): ("response.1.seconds", 40),
    }


def test_a_long_quiet_stretch_is_broken_out_of_the_axis_and_an_hour_in_which_something_ends_is_not():
    assert len(stretches({0.0})) == 1 and len(stretches({0.0, 600.0})) == 1
    near, far = stretches({-10.0, 0.0, 25.0, 60.0, 600.0})
    assert near[0] < -10 and 60 < near[1] < 70 and 590 < far[0] < 600 < far[1]
    assert len(stretches({-10.0, 0.0, 25.0, 60.0, 240.0})) == 1
    first, last = stretches({0.0, 5.0, 3600.0, 3605.0})
    assert first[1] < 7 and last[0] > 3595, "both ends of a bar that crosses the break are drawn"


def test_what_goes_by_the_end_or_by_an_answer_has_an_axis_of_its_own():
    steps = [
        {"do": "alarm", "title": "x", "after": 10, "groups": [{"id": "ops"}]},
        {"do": "popup", "anchor": "end", "after": 5, "seconds": 20, "groups": [{"id": "ops"}]},
        {"do": "line", "text": "x", "anchor": "acknowledged"},
        {"do": "text", "text": "x", "anchor": "unanswered", "after": 120, "groups": [{"id": "ops"}]},
    ]
    cause = {"cause": "lasting", "kind": "scene.loitering", "seconds": 30, "where": {"points": [{"id": "bay"}]}}
    stop = {"unanswered": 300}
    plan = time_plan(RuleDocument.model_validate(rule(cause=cause, response=steps, stop=stop)), facts())
    at = {b.style: (b.anchor, b.start) for b in plan.bars if not b.above}
    assert at == {
        "alarm": ("start", 40),
        "popup": ("end", 5),
        "line": ("acknowledged", 0),
        "text": ("start", 160),
        "stop": ("start", 40),
    }
    assert [a.anchor for a in plan.axes] == ["start", "end", "acknowledged"]
    [dwell] = [b for b in plan.bars if b.style == "wait" and b.ends]
    assert dwell.ends.path == "cause.seconds"


def test_a_lasting_cause_decides_later_but_pictures_still_go_by_the_event():
    lasting = {"cause": "lasting", "kind": "scene.loitering", "seconds": 30, "where": {"points": [{"id": "bay"}]}}
    plan = time_plan(
        RuleDocument.model_validate(
            rule(cause=lasting, response=[{"do": "bookmark", "before": 20}, rule()["response"][0]])
        ),
        facts(),
    )
    bars = {b.style: b.start for b in plan.bars}
    assert plan.decided == 30 and bars["bookmark"] == -20 and bars["alarm"] == 30


def test_equal_to_the_waiting_time_is_too_short_a_pre_roll():
    bookmark = lambda before: rule(cause=BAY, response=[*rule()["response"], {"do": "bookmark", "before": before}])
    assert "pre-roll-too-short" in found(bookmark(10)) and "pre-roll-too-short" not in found(bookmark(11))


def test_what_is_about_zero_is_drawn_around_zero_also_when_the_cause_lasts():
    cause = {"cause": "lasting", "kind": "input.active", "seconds": 20, "where": {"points": [{"id": "contact"}]}}
    steps = [
        {"do": "record", "before": 5, "beyond": 9},
        {"do": "snapshot", "moments": [-2, 3]},
        {"do": "popup", "seconds": 7, "groups": [{"id": "ops"}]},
    ]
    plan = time_plan(RuleDocument.model_validate(rule(cause=cause, response=steps)), facts())
    spans = {b.style: (b.start, b.end) for b in plan.bars}
    assert spans["record"] == (-5, 9) and spans["snapshot"] == (-2, 3) and spans["popup"][0] == 20


def test_a_step_that_wants_pictures_where_no_camera_looks_is_named():
    pressed = {"cause": "button", "where": {"points": [{"id": "help"}]}}
    finding = found(rule(cause=pressed, response=[*rule()["response"], {"do": "bookmark", "before": 10}]))["no-camera"]
    assert finding.path == "response.1" and "Help" in finding.reason
    named = [*rule()["response"], {"do": "bookmark", "before": 10, "cameras": {"point": {"id": "cam"}}}]
    assert "no-camera" not in found(rule(cause=pressed, response=named))


def test_a_point_that_cannot_send_it_is_named_when_that_is_known():
    document = RuleDocument.model_validate(rule())
    for sends, expected in (
        ({}, []),
        ({"line": frozenset({"scene.loitering"})}, ["cannot-send"]),
        ({"line": frozenset({"scene.line_crossed"})}, []),
    ):
        assert [f.check for f in check(document, facts(), Known(sends=sends)) if f.check == "cannot-send"] == expected


def test_a_rule_on_every_reading_is_offered_a_level():
    cause = {"cause": "event", "kind": "scene.count", "phase": "reading", "where": {"points": [{"id": "bay"}]}}
    many = {"test": "field", "field": "value", "op": "at_least", "value": 50}
    finding = found(rule(cause=cause, provided=many))["every-reading"]
    mended = {**rule(cause=finding.mend.value, provided=many)}
    assert (
        "every-reading" not in found(mended) and finding.mend.value["way"] == "up" and finding.mend.value["value"] == 50
    )
    assert found(rule(cause=cause))["every-reading"].mend is None
