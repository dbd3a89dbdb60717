"""Rules as files: both syntaxes, what is refused and where, binding at another site, the published schema."""

import json
from pathlib import Path

import pytest

from dromikon.core.facts import Member
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.exchange import Kept, NotReadable, json_schema, parse, read_rules, rebound, write, write_rules
from tests.core.site import facts, rule

DOCUMENT = RuleDocument.model_validate(
    rule(name='no: "yes" — on', hours={"hours": {"id": "office", "name": "office hours"}})
)


@pytest.mark.parametrize("syntax", ["json", "yaml"])
def test_a_rulebook_comes_back_as_it_was_written(syntax):
    kept = [Kept(id="r1", enabled=True, document=DOCUMENT), Kept(id="r2", document=RuleDocument.model_validate(rule()))]
    assert read_rules(write_rules(kept, syntax).encode()) == kept


def test_yaml_is_version_1_2_and_a_single_document_will_do():
    text = "name: no\ncause: {cause: button, where: {everywhere: true}}\nresponse:\n- {do: line, text: yes}\n"
    (kept,) = read_rules(text.encode())
    assert kept.document.name == "no" and kept.document.response[0].text == "yes"


@pytest.mark.parametrize(
    ("text", "path", "words"),
    [
        (b"[]", "", "an object"),
        (b"{", "line 1", "not JSON"),
        (b"a: [1", "line 1", "not YAML"),
        (b"a: &x [1]\nb: *x", "line 2", "aliases"),
        (b"\xff", "", "not UTF-8"),
        (b"{" + b" " * 5_000_000 + b"}", "", "larger than 4 MB"),
        (b"a: " + b"x" * 1_100_000, "", "YAML is read up to 1 MB"),
        (b"[" * 100_000, "", "nested too deeply"),
        (json.dumps({"format": "dromikon-rulebook/2", "rules": []}).encode(), "format", "later version"),
        (json.dumps({"format": "other", "rules": []}).encode(), "format", "has the format"),
        (json.dumps({"format": "dromikon-rulebook/1", "rules": [], "x": 1}).encode(), "x", "no such field"),
        (json.dumps({**rule(), "format": "dromikon-rule/7"}).encode(), "rules.0.document.format", "later version"),
        (json.dumps({**rule(), "cuase": 1}).encode(), "rules.0.document.cuase", "no field"),
        (json.dumps(rule(provided={"test": "field", "field": "class", "op": "matches", "value": "(a"})).encode(), "rules.0.document.provided", "cannot be read"),
    ],
)  # fmt: skip
def test_a_file_that_cannot_be_taken_over_says_where_and_why(text, path, words):
    with pytest.raises(NotReadable) as error:
        read_rules(text)
    problem = error.value.problems[0]
    assert problem.path == path and words in problem.message


def test_the_same_id_twice_is_refused():
    kept = [Kept(id="r1", document=DOCUMENT)] * 2
    with pytest.raises(NotReadable, match="comes twice"):
        read_rules(write_rules(kept, "json").encode())


def test_references_are_bound_to_what_bears_the_same_name():
    elsewhere = rule(
        cause={"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": {"points": [{"id": "p9", "name": "Lake line"}]}},
        provided={"test": "counter", "counter": {"id": "c9", "name": "Visitors"}, "value": 1},
        hours={"hours": {"id": "h9", "name": "office hours"}},
        response=[{"do": "alarm", "title": "x", "groups": [{"id": "g9", "name": "Operators"}, {"id": "g8", "name": "Gone"}]}],
    )  # fmt: skip
    bound = rebound(RuleDocument.model_validate(elsewhere), facts())
    assert [(path, ref.id) for path, _, ref in bound.refs()] == [
        ("cause.where.points.0", "line"), ("provided.counter", "visitors"), ("hours.hours", "office"),
        ("response.0.groups.0", "ops"), ("response.0.groups.1", "g8"),
    ]  # fmt: skip


def test_the_schema_names_every_part_and_is_the_published_one():
    schema = json_schema()
    assert {"cause", "provided", "hours", "hold_off", "response", "again", "stop"} <= set(schema["properties"])
    published = json.loads(Path("docs/rule-schema.json").read_text(encoding="utf-8"))
    assert published == schema, "write it anew: python -m tools.schema"


def test_what_is_written_can_be_parsed_again():
    for content in ({"a": ["x", None, 1.5, True]}, ["\u2028", "0x1f", "1_000", "2026-01-01", "~", ""]):
        assert parse(write(content, "yaml").encode()) == content


def test_a_persons_number_from_elsewhere_stands_for_nobody_else_here():
    text = {
        "do": "text",
        "text": "x",
        "persons": [{"id": "1", "name": "Dara"}, {"id": "2", "name": "Opal"}, {"id": "3", "name": "Ina"}],
    }
    members = (Member(id="1", name="Opal", role="operator"), Member(id="2", name="Dara", role="operator"), Member(id="3", name="Zoe", role="viewer"))  # fmt: skip
    known = facts().model_copy(update={"members": members})
    found = rebound(RuleDocument.model_validate(rule(response=[text])), known).response[0].persons
    assert [(p.id, p.name) for p in found] == [("2", "Dara"), ("1", "Opal"), ("elsewhere-3", "Ina")]
    assert known.name_of("person", "elsewhere-3") is None, "and a check says so"
