"""Orders for cameras, doors and sirens, and what checks say of them."""

import pytest

from dromikon.core.facts import Electrical, Point, Signal, Siren, Told
from dromikon.core.rules.checks import check, check_rulebook
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.sentence import plain, sentence
from tests.core.site import crossing, facts, rule
from tests.core.test_response import tick_until

DOME = Point(id="dome", name="Dome", kind="camera", area="lake", told=Told(presets=("Gate", "Pier")))
LINE = Point(id="line", name="Lake line", kind="detector", area="pier", seen_in={"dome": "p2"})
DOOR = Point(id="vault", name="Vault door", kind="door", area="yard")
SIREN = Point(
    id="siren", name="Siren", kind="siren", area="yard", told=Told(times={"s": 15.0}),
    siren=Siren(light="l", sound="s", signals=(Signal(name="deter", light=40, sound=20), Signal(name="flash", light=5))),
)  # fmt: skip
BESIDES = (DOME, DOOR, SIREN)


def orders(*response, until=100_000, **more):
    known = facts(rule(response=list(response)), besides=BESIDES, **more)
    known = known.model_copy(update={"points": tuple(LINE if p.id == "line" else p for p in known.points)})
    evaluator = Evaluator(known)
    outcomes = [evaluator.apply(crossing(1, 0)), *tick_until(evaluator, until)]
    return [(o.due, o.target, dict(o.payload), o.release) for out in outcomes for o in out.orders]


def found(step, known=None):
    return {
        (f.check, f.severity)
        for f in check(RuleDocument.model_validate(rule(response=[step])), known or facts(besides=BESIDES))
    }


def test_a_camera_comes_back_to_where_it_is_told():
    step = {
        "do": "ptz",
        "camera": {"point": {"id": "dome"}},
        "preset": "Pier",
        "then": "back",
        "held": 10,
        "back": "Gate",
    }
    assert orders(step) == [
        (0, "dome", {"preset": "Pier", "held": True}, False),
        (10_000, "dome", {"preset": "Gate", "held": False}, True),
    ]


def test_a_camera_goes_where_it_sees_the_source_where_that_is_known():
    named = {"do": "ptz", "camera": {"point": {"id": "dome"}}, "to": "sight"}
    assert orders(named) == [(0, "dome", {"preset": "p2", "held": False}, False)]
    assert orders({**named, "camera": {"point": {"id": "cam"}}}) == []


@pytest.mark.parametrize(("set", "undone"), [("hold_open", "end_hold_open"), ("unlock", "lock"), ("block", "lock")])
def test_what_lasts_at_a_door_is_undone_and_what_does_not_is_not(set, undone):
    step = {"do": "door", "target": {"point": {"id": "vault"}}, "set": set, "held": 10}
    assert [(d, p["verb"], r) for d, _, p, r in orders(step)] == [(0, set, False), (10_000, undone, True)]
    assert [p["verb"] for _, _, p, _ in orders({**step, "stay": True})] == [set]
    assert [p["verb"] for _, _, p, _ in orders({**step, "set": "release"})] == ["release"]


def test_light_and_sound_last_each_as_the_signal_says_or_both_as_the_step_does():
    step = {"do": "signal", "target": {"point": {"id": "siren"}}, "signal": "Deter"}
    told = [(d, p["output"], p["state"], r) for d, _, p, r in orders(step)]
    assert told == [
        (0, "l", "on", False),
        (0, "s", "on", False),
        (20_000, "s", "off", True),
        (40_000, "l", "off", True),
    ]
    both = [(d, p["output"]) for d, _, p, r in orders({**step, "lasts": "held", "held": 5}) if r]
    assert both == [(5_000, "l"), (5_000, "s")]
    assert [p["output"] for _, _, p, _ in orders({**step, "signal": "flash"})] == ["l", "l"]


def test_steps_read_as_commands():
    steps = [
        {"do": "ptz", "camera": {"point": {"id": "dome"}}, "preset": "Pier", "then": "back", "held": 10},
        {"do": "door", "target": {"point": {"id": "vault"}}, "set": "hold_open", "held": "state"},
        {"do": "signal", "target": {"point": {"id": "siren"}}, "signal": "deter"},
    ]
    said = plain(sentence(RuleDocument.model_validate(rule(response=steps)), facts(besides=BESIDES)))
    assert said.endswith(
        "turn Dome to “Pier” for 10 s, hold Vault door open while it lasts and give Siren the signal “deter”."
    )


@pytest.mark.parametrize(
    ("step", "finding"),
    [
        ({"do": "ptz", "camera": {"point": {"id": "dome"}}, "preset": "Moon"}, ("unknown-preset", "error")),
        ({"do": "ptz", "camera": {"point": {"id": "dome"}}, "to": "sight"}, ("unknown-preset", "error")),
        ({"do": "signal", "target": {"point": {"id": "siren"}}, "signal": "sing"}, ("unknown-signal", "error")),
        ({"do": "signal", "target": {"point": {"id": "siren"}}, "signal": "deter"}, ("signal-cut-short", "warning")),
    ],
)
def test_checks_know_what_devices_do_not(step, finding):
    assert finding in found(step)
    assert not {c for c, _ in found({"do": "ptz", "camera": {"point": {"id": "dome"}}, "preset": "pier"})} & {
        "unknown-preset"
    }


def test_rules_that_drive_a_door_or_camera_against_each_other_are_told():
    def with_step(step):
        return RuleDocument.model_validate(rule(response=[step], name=str(step)))

    door = {"do": "door", "target": {"point": {"id": "vault"}}, "set": "unlock", "held": 20}
    shut = {"do": "door", "target": {"point": {"id": "vault"}}, "set": "lock", "after": 10}
    dome = {"do": "ptz", "camera": {"point": {"id": "dome"}}, "preset": "Pier"}
    away = {**dome, "preset": "Gate"}
    rules = [(str(i), with_step(s)) for i, s in enumerate((door, shut, dome, away, {**shut, "after": 60}))]
    told = {
        id: [f.check for f in findings if f.check == "against-each-other"]
        for id, findings in check_rulebook(rules, facts(besides=BESIDES)).items()
    }
    assert told == {"0": [], "1": ["against-each-other"], "2": [], "3": ["against-each-other"], "4": []}


@pytest.mark.parametrize(
    ("more", "finding"),
    [
        ({}, None),
        ({"load_volts": 400}, ("load-too-high", "error")),
        ({"load_current": "dc"}, ("load-too-high", "warning")),
        ({"load_current": "dc", "rated_dc_volts": 30, "rated_dc_amps": 5, "load_volts": 24}, None),
        (
            {"load_current": "dc", "rated_dc_volts": 30, "rated_dc_amps": 1, "load_volts": 24},
            ("load-too-high", "error"),
        ),
    ],
)
def test_a_contact_is_compared_with_its_load_by_the_sort_of_current(more, finding):
    rated = {"rated_volts": 250, "rated_amps": 5, "load_volts": 230, "load_amps": 2, **more}
    pump = Point(id="pump", name="Pump", kind="relay", electrical=Electrical(**rated))
    told = found({"do": "relay", "target": {"point": {"id": "pump"}}}, facts(besides=(pump,)))
    assert {t for t in told if t[0] == "load-too-high"} == ({finding} if finding else set())
