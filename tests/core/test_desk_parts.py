"""Parts of the Desk that are computed: boxes in pictures, instructions with steps, calls, buttons, commands at a place."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from dromikon.core import calls
from dromikon.core.alarms.instruction import lines_of, steps_of
from dromikon.core.at_hand import OFFERS, at_hand, offer_of
from dromikon.core.boxes import Box, box_of, cut_out, normalised, read_box
from dromikon.core.buttons import ButtonPart
from dromikon.core.decoding.onvif import decode
from dromikon.core.events import Event, Phase
from dromikon.core.facts import Area, Facts, Point, Signal, Siren, Told
from dromikon.core.rules.actions import Firing
from dromikon.core.rules.actions.alarm import AlarmAction
from dromikon.core.rules.actions.popup import PopupAction

# -- boxes --------------------------------------------------------------------------------------------------------------


def test_normalised_coordinates_run_upwards_from_the_middle():
    assert normalised(-1, 1, 1, -1) == (0, 0, 1, 1)
    assert normalised(0, 0.5, 0.5, 0) == (0.5, 0.25, 0.75, 0.5)


@pytest.mark.parametrize("sides", [(1.2, 1, 1.4, 0), (0, 0, 0, 1), (-2, 3, -1.5, 2)])
def test_a_box_outside_or_without_extent_is_refused(sides):
    with pytest.raises(ValueError, match="outside"):
        normalised(*sides)


@pytest.mark.parametrize("text", ["", None, "1 2 3", "a b c d", "0 0 0 0", "nan 0 1 1", 7])
def test_what_is_no_box_is_none(text):
    assert read_box(text) is None


SHARE = st.floats(0, 1, allow_nan=False)


@given(SHARE, SHARE, SHARE, SHARE)
def test_what_is_cut_out_lies_in_the_picture_and_shows_the_box(a, b, c, d):
    try:
        box = box_of(a, b, c, d)
    except ValueError:
        return
    assert read_box(box.written()) is None or all(
        abs(x - y) < 0.001 for x, y in zip(read_box(box.written()), box, strict=True)
    )
    left, top, right, bottom = cut_out(box, 1920, 1080)
    assert 0 <= left < right <= 1920 and 0 <= top < bottom <= 1080
    assert left <= box.left * 1920 + 1 and right >= box.right * 1920 - 1
    assert right - left >= 0.09 * 1920, "never less than one can see"


def test_somebody_small_and_far_is_cut_out_upright_with_room_around():
    left, top, right, bottom = cut_out(Box(0.5, 0.5, 0.52, 0.6), 1920, 1080)
    assert (right - left) / (bottom - top) == pytest.approx(0.75, abs=0.02)


def test_an_object_that_crosses_a_line_brings_its_place():
    source = {"VideoSourceConfigurationToken": "v", "Rule": "Line"}
    sides = {"left": "0", "top": "0.5", "right": "0.5", "bottom": "0"}
    data = {"ObjectId": "7", **{f"BoundingBox/BoundingBox@{side}": value for side, value in sides.items()}}
    decoded = decode("tns1:RuleEngine/LineDetector/Crossed", "", source, data)
    assert decoded.fields["box"] == "0.5 0.25 0.75 0.5"
    broken = {**data, "BoundingBox/BoundingBox@top": "high"}
    assert "box" not in decode("tns1:RuleEngine/LineDetector/Crossed", "", source, broken).fields, (
        "the event is worth more"
    )


# -- instructions -------------------------------------------------------------------------------------------------------


def test_lines_that_begin_like_steps_are_ticked_off_and_the_rest_is_read():
    text = "The jetty is closed.\n\n1. Look.\n- Call them back.\n[ ] Ring channel 4.\n2.5 metres of water"
    assert [(line.words, line.step) for line in lines_of(text)] == [
        ("The jetty is closed.", None), ("Look.", 0), ("Call them back.", 1), ("Ring channel 4.", 2), ("2.5 metres of water", None),
    ]  # fmt: skip
    assert steps_of("") == [] and len(steps_of("- x\n" * 40)) == 30


# -- calls --------------------------------------------------------------------------------------------------------------


def test_a_call_is_answered_once_missed_by_itself_and_over_once():
    ringing = calls.Standing(1_000)
    assert ringing.state is calls.CallState.RINGING and ringing.gives_up == 61_000
    assert calls.ring_again(ringing, 31_000).gives_up == 91_000
    talking = calls.answer(ringing, 5_000)
    assert talking.state is calls.CallState.TALKING and talking.gives_up == 5_000 + calls.LONGEST
    with pytest.raises(calls.NotPossible, match="answered already"):
        calls.answer(talking, 6_000)
    assert calls.end(ringing, 9_000).state is calls.CallState.MISSED
    over = calls.end(talking, 9_000)
    assert over.state is calls.CallState.ENDED and calls.end(over, 10_000) == over and over.gives_up is None
    for act in (calls.answer, calls.ring_again):
        with pytest.raises(calls.NotPossible, match="over"):
            act(over, 11_000)


# -- buttons ------------------------------------------------------------------------------------------------------------


def test_a_button_with_two_positions_has_a_word_for_each():
    assert ButtonPart(positions="two", on="out", off="in").word(True) == "out"
    for words in ({}, {"on": "out"}, {"on": "out", "off": " "}):
        with pytest.raises(ValidationError, match="both positions"):
            ButtonPart(positions="two", **words)


# -- commands at a place ------------------------------------------------------------------------------------------------

FACTS = Facts(
    site="s", name="Site", areas=(Area(id="yard", name="Yard"), Area(id="shed", name="Shed", parent="yard"), Area(id="far", name="Far")),
    points=(
        Point(id="door", name="Door", kind="door", area="yard", device="d"),
        Point(id="lamp", name="Lamp", kind="relay", area="shed", device="d"),
        Point(id="horn", name="Horn", kind="siren", area="yard", device="d", siren=Siren(light="1", signals=(Signal(name="deter", light=5),))),
        Point(id="eye", name="Eye", kind="camera", area="far", device="d", told=Told(presets=("Gate",))),
        Point(id="loose", name="Loose", kind="relay", area="yard"),
        Point(id="away", name="Away", kind="relay", area="far", device="d"),
    ),
    sightlines={"door": ("eye",)},
)  # fmt: skip


def test_a_place_offers_what_stands_in_its_area_and_inside_it_and_who_looks_there():
    assert [one.point.id for one in at_hand(FACTS, "door")] == ["door", "horn", "lamp", "eye"]
    assert offer_of(FACTS, "door", "release:door").words(FACTS) == "let Door be opened once"
    assert offer_of(FACTS, "door", "preset:eye:Gate").words(FACTS) == "turn Eye to “Gate”"
    assert offer_of(FACTS, "door", "hold5:away") is None and offer_of(FACTS, "nowhere", "release:door") is None


@pytest.mark.parametrize("kind", OFFERS.names())
def test_every_offer_is_a_step_that_the_language_of_rules_has(kind):
    point = next((p for p in FACTS.points if p.kind == kind), Point(id="x", name="X", kind=kind, device="d"))
    facts = Facts(**{**FACTS.model_dump(), "points": (*FACTS.points, point)})
    keys = set()
    for offer in OFFERS[kind](facts, point):
        assert offer.words(facts) and offer.short
        assert type(offer.action).model_validate(offer.action.model_dump()) == offer.action
        assert offer.key not in keys
        keys.add(offer.key)
    assert keys


# -- what a button is pressed at, and whom an alarm is about ------------------------------------------------------------


def firing(kind, point, **fields):
    return Firing("Rule", Event(1, kind, point, Phase.PULSE, 1, 1, 1, None, fields), FACTS, "r")


def test_the_camera_that_a_button_was_pressed_at_is_the_source_of_its_steps():
    pressed = firing("button.pressed", "door", pressed_at="eye", camera="Eye")
    assert pressed.source == "eye" and pressed.cameras() == ("eye",)
    assert firing("button.pressed", "door", pressed_at="gone").source == "door"
    assert pressed.fill("{camera}") == "Eye"


def test_an_alarm_says_where_in_which_picture_its_object_is():
    facts = Facts(
        **{
            **FACTS.model_dump(),
            "points": (*FACTS.points, Point(id="line", name="Line", kind="detector", channel="eye")),
        }
    )
    event = Event(1, "scene.line_crossed", "line", Phase.PULSE, 1, 1, 1, None, {"box": "0.1 0.2 0.3 0.4"})
    [order] = AlarmAction(title="t").orders(Firing("Rule", event, facts, "r"))
    assert order.payload["subject"] == {"camera": "eye", "box": "0.1 0.2 0.3 0.4"}
    [plain] = AlarmAction(title="t").orders(firing("door.forced", "door"))
    assert plain.payload["subject"] is None


def test_a_popup_is_for_desks_and_for_displays_each_for_itself():
    from dromikon.core.facts import Display

    facts = Facts(
        **{
            **FACTS.model_dump(),
            "displays": (Display(id="wall", name="Wall"), Display(id="spot", name="Spot", shows=("other",))),
        }
    )
    one = Firing("Rule", Event(1, "door.forced", "door", Phase.PULSE, 1, 1, 1), facts, "r")
    displays = [{"id": "wall", "name": "Wall"}, {"id": "spot"}, {"id": "gone"}]
    only = PopupAction.model_validate({"displays": displays, "priority": "high"})
    assert [(o.target, o.payload["display"], o.part) for o in only.orders(one)] == [("eye", "wall", 1)]
    both = PopupAction.model_validate({"displays": displays[:1], "groups": [{"id": "g"}]})
    assert [o.payload.get("display", "") for o in both.orders(one)] == ["", "wall"]
    said = "".join(p.text for p in only.phrases(facts, ""))
    assert said == "show its sightlines on Wall, Spot and gone for 30 s" and only.recipients() is None
    assert both.recipients() == both.groups
