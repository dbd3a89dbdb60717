"""Taught decoders: places in messages, what fits, what it means, and what can be sent to break them."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from dromikon.core.decoders import paths
from dromikon.core.decoders.decode import read_with, read_with_all
from dromikon.core.decoders.document import DecoderDocument
from dromikon.core.decoders.ready import READY
from dromikon.core.decoding import bodies
from dromikon.core.events import Phase

TICKETS = {
    "sender": "till 3",
    "at": 1_795_000_000,
    "items": [
        {"code": "A-7", "sort": "alarm", "state": "RAISED", "level": "19.5", "zone": 4},
        {"code": "A-8", "sort": "sale", "state": "RAISED", "level": "3"},
        {"code": "A-9", "sort": "alarm", "state": "CLEARED", "level": 21, "zone": 5},
    ],
}
DOCUMENT = {
    "name": "Alarms of the till",
    "intake": {"id": "till"},
    "when": [{"path": "$.sort", "how": "is", "value": "alarm"}, {"path": "^.sender", "how": "begins", "value": "till"}],
    "each": "$.items[*]",
    "kind": "input.active",
    "phase_path": "$.state",
    "begins": ["RAISED"],
    "ends": ["CLEARED"],
    "point_path": "$.zone",
    "points": [{"said": "4", "point": {"id": "leak"}}],
    "fields": [
        {"name": "code", "path": "$.code", "meanings": [{"said": "A-7", "means": "water"}]},
        {"name": "none", "path": "$.nothing"},
    ],
    "time_path": "^.at",
    "time_as": "seconds",
}


def decoder(**changes):
    return DecoderDocument.model_validate({**DOCUMENT, **changes})


def test_one_message_means_several_events_with_their_own_points_phases_and_fields():
    found = read_with(decoder(), TICKETS)
    assert found.outcome == "read"
    first, last = found.made
    assert (first.decoded.token, first.decoded.phase, first.decoded.fields) == ("leak", Phase.BEGIN, {"code": "water"})
    assert (last.decoded.token, last.decoded.phase, last.decoded.fields) == ("5", Phase.END, {"code": "A-9"})
    assert first.at == 1_795_000_000_000


@pytest.mark.parametrize(
    ("changes", "message", "why"),
    [
        ({"begins": ["UP"], "ends": ["DOWN"]}, TICKETS, "“RAISED” says neither"),
        ({"point_path": "$.nowhere", "points": []}, TICKETS, "It names no point at $.nowhere."),
        ({"time_path": "^.sender"}, TICKETS, "'till 3' is no time of that form."),
        ({"kind": "sensor.reading", "phase_path": "", "phase": "reading", "fields": [{"name": "value", "path": "$.code"}]}, TICKETS, "value is 'A-7', and no number."),
    ],
)  # fmt: skip
def test_what_fits_and_cannot_be_read_says_why(changes, message, why):
    found = read_with(decoder(**changes), message)
    assert (found.outcome, found.made) == ("failed", ()) and why in found.why


def test_numbers_are_read_where_the_kind_has_numbers():
    fields = [{"name": "value", "path": "$.level"}, {"name": "unit", "path": "$.zone"}]
    found = read_with(decoder(kind="sensor.reading", phase_path="", phase="reading", fields=fields), TICKETS)
    assert [made.decoded.fields for made in found.made] == [{"value": 19.5, "unit": "4"}, {"value": 21.0, "unit": "5"}]


@pytest.mark.parametrize(
    ("how", "value", "fits"),
    [
        ("is", "4", True), ("is", "5", False), ("is_not", "5", True), ("contains", "", True), ("there", "", True),
        ("not_there", "", False), ("at_least", "4", True), ("at_least", "4.1", False), ("at_most", "x", False), ("begins", "4", True),
    ],
)  # fmt: skip
def test_conditions(how, value, fits):
    when = [{"path": "$.zone", "how": how, "value": value}]
    plain = decoder(
        when=when, each="", phase_path="", phase="begin", point={"id": "leak"}, point_path="", fields=[], time_path=""
    )
    assert (read_with(plain, {"zone": 4}).outcome == "read") is fits


def test_the_first_that_fits_counts_and_one_that_fits_and_fails_is_not_passed_over():
    first, second = decoder(begins=["UP"]), decoder(name="second")
    assert [d for d, _ in read_with_all((first, second), TICKETS)] == [first]
    assert [d for d, _ in read_with_all((decoder(each="$.sales[*]"), second), TICKETS)] == [second]
    assert read_with_all((second,), {"other": 1}) == []
    open_one = first.model_copy(update={"goes_on": True})
    assert [d for d, _ in read_with_all((open_one, second), TICKETS)] == [open_one, second]


@pytest.mark.parametrize(
    "changes",
    [
        {"each": "items"}, {"each": "$..a..b"}, {"each": "$[?match(@.a, '(a+)+$')]"}, {"time_path": "$" + ".a" * 200}, {"kind": "door.exploded"},
        {"phase_path": "", "phase": "pulse"}, {"kind": "button.pressed"}, {"point_path": ""}, {"fields": [{"name": "x", "path": "$["}]},
    ],
)  # fmt: skip
def test_what_can_mean_nothing_is_refused(changes):
    with pytest.raises(ValidationError):
        decoder(**changes)


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=6), inner, max_size=4), max_leaves=20,
)  # fmt: skip


@settings(max_examples=150)
@given(JSON)
def test_nothing_that_a_message_can_be_raises(content):
    for known in (decoder(), decoder(each="", point_path="$..zone"), decoder(each="$..*")):
        assert read_with(known, content).outcome in ("other", "read", "failed")


@settings(max_examples=150)
@given(JSON)
def test_every_leaf_is_found_again_at_its_place(content):
    for path, value in paths.leaves(content):
        assert paths.values(path, paths.Part(content, content)) == [value]


def test_a_message_made_to_be_slow_is_not():
    deep = {"a": [{"b": list(range(50))} for _ in range(2_000)]}
    assert len(paths.values("$..*", paths.Part(deep, deep))) == paths.MOST


@pytest.mark.parametrize("ready", READY, ids=lambda r: r.id)
def test_a_ready_decoder_reads_its_example(ready):
    # A site chooses the point of what names none.
    own = {"name": ready.name, "intake": {"id": "x"}} | (
        {} if "point_path" in ready.document else {"point": {"id": "p"}}
    )
    known = DecoderDocument.model_validate({**ready.document, **own})
    content, _ = bodies.read("" if ready.example[0] == "{" else "text/plain", "", ready.example.encode())
    found = read_with(known, content)
    assert found.outcome == "read" and all(made.decoded.token for made in found.made), found.why
    names = {field.name for field in known.fields}
    assert all(set(made.decoded.fields) == names for made in found.made)


# -- XPath -------------------------------------------------------------------------------------------------------------------

PANEL = b"""<p:report xmlns:p="urn:panel" xmlns:x="urn:x" at="2026-11-26T12:00:00Z">
  <p:alarm x:id="A-7"><spot>by the pumps</spot><state>SET</state></p:alarm>
  <p:alarm x:id="A-8"><spot>attic</spot><state>CLEAR</state></p:alarm>
</p:report>"""
BY_XPATH = {
    "when": [{"path": "/report/@at", "how": "there"}], "each": "/report/alarm", "phase_path": "./state", "begins": ["SET"], "ends": ["CLEAR"],
    "point_path": "./spot", "points": [], "fields": [{"name": "text", "path": "./@id"}], "time_path": "/report/@at", "time_as": "iso",
}  # fmt: skip


def test_places_in_xml_may_be_xpath_below_each_part_and_from_the_root():
    content, _ = bodies.read("text/xml", "", PANEL)
    found = read_with(decoder(**BY_XPATH), content)
    assert found.outcome == "read", found.why
    assert [(m.decoded.token, m.decoded.phase, m.decoded.fields) for m in found.made] == [
        ("by the pumps", Phase.BEGIN, {"text": "A-7"}),
        ("attic", Phase.END, {"text": "A-8"}),
    ]
    assert {m.at for m in found.made} == {1_795_694_400_000}
    mixed = decoder(**{**BY_XPATH, "each": "$.alarm[*]", "point_path": "$.spot", "phase_path": "./state"})
    assert [m.decoded.token for m in read_with(mixed, content).made] == ["by the pumps", "attic"], "both name the same"
    assert read_with(decoder(**BY_XPATH), TICKETS).outcome == "other", "there is no XML in it"


@pytest.mark.parametrize("path", ["/a[", "//a//b", "/a" * 200, "./alarm[unknown()]"])
def test_what_is_no_xpath_is_said(path):
    content, _ = bodies.read("text/xml", "", PANEL)
    with pytest.raises(paths.BadPath):
        paths.check(path)
        paths.values(path, paths.Part(content, content))


@given(st.text(alphabet="/.@[]*()abc=12'\" ", max_size=30))
def test_no_xpath_raises_anything_else(text):
    content, _ = bodies.read("text/xml", "", PANEL)
    for start in ("/", "./"):
        try:
            paths.values(start + text, paths.Part(content, content))
        except paths.BadPath:
            continue
