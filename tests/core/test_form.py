"""Forms are made from the classes: every field of every part says what it is for a person."""

from typing import Annotated

import pytest

from dromikon.core.rules.actions import ACTIONS
from dromikon.core.rules.causes import CAUSES
from dromikon.core.rules.conditions import CONDITIONS
from dromikon.core.rules.controls import Number, When
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.exchange import json_schema
from dromikon.core.rules.form import all_parts, form_of, forms
from dromikon.core.rules.parts import Part
from tests.small_site import RULES
from tools.schema import REFERENCE, reference_text

PARTS = all_parts()


@pytest.mark.parametrize("name", sorted(PARTS))
def test_every_field_has_a_control_and_names_told_apart(name):
    form = form_of(PARTS[name])
    labels = [f.control.label for f in form.fields]
    assert all(labels) and len(set(labels)) == len(labels), "no two fields of a part are called alike"
    for field in form.fields:
        if field.control.when:
            other = next(f for f in form.fields if f.name == field.control.when.field)
            assert not other.choices or set(field.control.when.values) <= set(other.choices)
        if field.control.widget == "choice":
            assert field.choices and set(getattr(field.control, "words", {})) <= set(field.choices)
        if field.control.widget == "part":
            assert field.part in PARTS


def test_every_registered_part_has_a_form():
    made = forms()
    offered = {kind["part"] for node in made["nodes"].values() for kind in node["kinds"]}
    assert offered == {p.__name__ for registry in (CAUSES, CONDITIONS, ACTIONS) for p in registry}
    assert offered <= set(made["parts"])


def test_a_field_that_says_nothing_is_an_error_of_ours():
    class Nameless(Part):
        seconds: float = 3

    with pytest.raises(TypeError, match="Nameless.seconds"):
        form_of(Nameless)


def test_limits_and_defaults_come_from_the_type():
    class Timed(Part):
        how: str = "short"
        seconds: Annotated[float, Number("Held", unit="s", when=When("how", ("long",)))] = 3

    Timed.model_fields["how"].metadata.append(Number("how"))
    seconds = form_of(Timed).fields[1].to_json()
    assert (seconds["default"], seconds["unit"], seconds["when"]["field"]) == (3, "s", "how")
    record = {f.name: f for f in form_of(ACTIONS["record"]).fields}
    assert (record["beyond"].least, record["beyond"].most, record["beyond"].default) == (1, 14_400, 60)
    assert "times" not in record and "times" in {f.name for f in form_of(ACTIONS["line"]).fields}
    together = {f.name: f for f in form_of(CAUSES["together"]).fields}
    assert (together["of"].many, together["of"].least, together["of"].part) == (True, 2, "Pattern")
    provided = next(f for f in form_of(RuleDocument).fields if f.name == "provided")
    assert provided.optional and not provided.many


def _follow(document, path):
    for step in path.split("."):
        document = document[int(step)] if step.lstrip("-").isdigit() else document[step]
    return document


@pytest.mark.parametrize("rule", RULES, ids=lambda r: r[0])
def test_what_a_cause_speaks_of_is_its_kind(rule):
    cause = RuleDocument.model_validate(rule[2]).cause
    speaks, data = cause.speaks_of, cause.model_dump(mode="json")
    while not speaks.startswith("="):
        data = _follow(data, speaks)
        if isinstance(data, str):
            speaks = "=" + data
        else:
            part = CAUSES[data["cause"]] if "cause" in data else PARTS["Pattern"]
            speaks = part.speaks_of
    assert speaks[1:] == cause.event_kind()


def test_the_schema_carries_the_labels():
    record = json_schema()["$defs"]["RecordAction"]["properties"]
    assert record["before"]["title"] == "From" and record["cameras"]["$ref"].endswith("Target")


def test_the_published_reference_is_the_present_one():
    assert REFERENCE.read_text(encoding="utf-8") == reference_text(), "write it anew: python -m tools.schema"
    assert "| `beyond` | to | number (1 to 14,400 s after it happened) | `60` |" in reference_text()
