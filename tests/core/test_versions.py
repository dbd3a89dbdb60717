"""One rule beside another version of itself, as a text, and all rules as a matrix."""

import pytest

from dromikon.core.rules.changes import changes
from dromikon.core.rules.checks import check_beside, check_rulebook
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.matrix import matrix
from dromikon.core.rules.sentence import parts_in_words
from dromikon.core.rules.text import read_text, text_of
from tests.core.site import facts, rule

SITE = facts()
ALARM = rule()["response"][0]
BOOKMARK = {"do": "bookmark", "before": 10, "beyond": 20}


def document(**parts):
    return RuleDocument.model_validate(rule(**parts))


# -- changes ---------------------------------------------------------------------------------------------------------------


def told(before, after):
    return [(c.part, c.before, c.after) for c in changes(document(**before), document(**after), SITE)]


def test_what_changed_is_said_part_by_part():
    assert told({}, {}) == []
    quiet = {"hold_off": {"seconds": 60}}
    assert told({}, quiet) == [("hold_off", "", "then quiet for 60 s per point")]
    assert told(quiet, {"hold_off": {"seconds": 90}}) == [
        ("hold_off", "then quiet for 60 s per point", "then quiet for 90 s per point")
    ]
    assert told({"name": "A", "tags": ["x"]}, {"name": "B", "tags": ["x", "y"]}) == [
        ("name", "A", "B"),
        ("tags", "x", "x, y"),
    ]


def test_a_step_that_was_put_in_front_does_not_change_those_behind_it():
    [one] = told({"response": [ALARM]}, {"response": [BOOKMARK, ALARM]})
    assert one[:2] == ("response.0", "") and one[2].startswith("bookmark its sightlines")
    [gone] = told({"response": [ALARM, BOOKMARK]}, {"response": [ALARM]})
    assert gone[2] == "" and gone[1].startswith("bookmark")
    [moved] = told({"response": [BOOKMARK]}, {"response": [{**BOOKMARK, "before": 30}]})
    assert "from 10 s before" in moved[1] and "from 30 s before" in moved[2]


def test_what_the_sentence_does_not_tell_is_told_by_its_fields():
    urgent, calm = ({**ALARM, "sound": sound, "instruction": "look"} for sound in ("urgent", "none"))
    [one] = told({"response": [urgent]}, {"response": [calm]})
    assert (one[1], one[2]) == ("Sound: urgent", "Sound: none")


def test_each_part_says_itself_in_words():
    words = parts_in_words(
        document(hold_off={"seconds": 60}, response=[ALARM, {**BOOKMARK, "anchor": "acknowledged"}]), SITE
    )
    assert words["cause"] == "Lake line is crossed" and words["hold_off"] == "then quiet for 60 s per point"
    assert words["response.0"].startswith("raise a medium alarm") and words["response.1"].endswith("once acknowledged")
    assert not {"provided", "hours", "stop", "again"} & set(words)


# -- text ------------------------------------------------------------------------------------------------------------------


def test_a_document_is_read_back_from_its_text_and_begins_with_its_name():
    content = document(response=[{**ALARM, "instruction": "1. Look.\n2. Call."}, BOOKMARK]).to_json()
    text = text_of(content)
    assert read_text(text) == (content, [])
    assert text.splitlines()[1].startswith("name:") and "instruction: |-" in text


@pytest.mark.parametrize(
    ("text", "line", "words"),
    [
        ("name: x\n  bad: [", 2, "not YAML"),
        ('{"name": "x",\n "cause": }', 2, "not JSON"),
        ("- a list", 1, "fields and values"),
        ("name: &a x\npurpose: *a\n", 2, "aliases"),
        ("name: x\ncause: {cause: event, kind: scene.line_crossed, phase: pulse, where: {}}\nresponse:\n- {do: alarm, title: ''}", 2, ""),
        ("name: x\nresponse:\n- do: bookmark\n  before: -3\n", 4, "greater than or equal"),
    ],
)  # fmt: skip
def test_what_is_wrong_with_a_text_stands_at_its_line(text, line, words):
    found = read_text(text)[1]
    assert any(p.line == line and words in p.message for p in found), found


# -- matrix ----------------------------------------------------------------------------------------------------------------


def test_the_matrix_has_what_is_driven_across_and_offsets_in_its_cells():
    light = {"do": "relay", "target": {"point": {"id": "light"}}, "after": 45, "held": 20}
    first = document(response=[{**ALARM, "priority": "high"}, light])
    second = document(
        name="Two", response=[{**light, "held": "state"}, {**light, "anchor": "end", "after": 0, "set": "off"}]
    )
    made = matrix([("a", True, first), ("b", False, second)], SITE)
    assert [c.words for c in made.columns] == ["Alarm", "Relay: Pier light"]
    alarm, relay = made.columns
    assert made.rows[0].cells[alarm][0].priority == "high" and made.rows[0].cells[alarm][0].words == ""
    assert [c.words for c in made.rows[0].cells[relay]] == ["+45 s for 20 s"]
    assert [c.words for c in made.rows[1].cells[relay]] == ["+45 s while it lasts", "at the end"]
    assert alarm not in made.rows[1].cells and not made.rows[1].on


# -- two alarms ------------------------------------------------------------------------------------------------------------


def provided(value, op="is"):
    return {"provided": {"test": "all", "of": [{"test": "field", "field": "class", "op": op, "value": value}]}}


OFFICE = {"hours": {"id": "office"}}


@pytest.mark.parametrize(
    ("one", "other", "twice"),
    [
        ({}, {}, False),
        (provided("human"), provided(["human"], "one_of"), True),
        ({}, provided("human"), True),
        (provided("human"), provided("animal"), False),
        (provided(["human", "vehicle"], "one_of"), provided("vehicle"), True),
        (provided("human"), provided("human", "is_not"), False),
        ({"hours": OFFICE}, {"hours": {**OFFICE, "inside": False}}, False),
        ({"hours": OFFICE}, {}, True),
        ({"provided": {"test": "mode", "modes": ["open"]}}, {"provided": {"test": "mode", "modes": ["closed"]}}, False),
        ({}, {"response": [BOOKMARK]}, False),
    ],
)
def test_two_alarms_for_one_event_are_found_where_nothing_keeps_them_apart(one, other, twice):
    rules = [("a", document(name="First", **one)), ("b", document(name="Second", **other))]
    found = [f for f in check_rulebook(rules, SITE)["b"] if f.check == "two-alarms"]
    assert bool(found) is twice
    beside = [
        f
        for f in check_beside(rules[1][1], [rules[0], ("b", document(name="Old"))], SITE, id="b")
        if f.check == "two-alarms"
    ]
    assert bool(beside) is twice, "the draft is set beside the others, not beside what it replaces"
    if twice:
        assert "“First” raises an alarm at the same event of Lake line" in found[0].reason
