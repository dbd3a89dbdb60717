"""The generic editor: every part that the schema knows can be built, changed and undone; its pure modules by themselves."""

import json

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from dromikon.core.rules.form import forms
from tests.browser.conftest import one, wait

pytestmark = [pytest.mark.browser, pytest.mark.slow]
G = "/s/quillmere-gardens"
FORMS = forms()
#: The fields of a part that mean something, with whether each has its control, or says that there
#: is nothing to choose from yet: asked of the page as it stands.
ASK = """
const [path, part] = arguments, parts = JSON.parse(document.getElementById("forms").textContent).parts;
const doc = document.querySelector("[x-data=editor]")._x_dataStack[0].raw.doc;
const value = path.split(".").reduce((v, s) => v?.[s], doc) ?? {};
const stands = (f) => { const o = parts[part].fields.find((x) => x.name === f.when.field); return value[f.when.field] ?? o.default; };
return parts[part].fields.map((f) => {
  const counts = !f.when || f.when.values.includes(stands(f)) !== f.when.negated;
  const place = document.querySelector(`[data-field="${path}.${f.name}"]`);
  const control = place && place.querySelector("input, select, textarea, button");
  return [f.name, counts, Boolean(control || place?.textContent.includes("This site has no"))];
});
"""


def document(browser):
    return browser.execute_script("return document.querySelector('[x-data=editor]')._x_dataStack[0].raw.doc")


@pytest.fixture(scope="module")
def browser(lasting_person):
    return lasting_person("ines")


@pytest.fixture
def editor(demo, browser):
    browser.get(f"{demo.address}{G}/rulebook/new")
    one(browser, "[data-field='cause'] .chip")
    yield browser
    browser.execute_script("document.querySelector('[x-data=editor]')._x_dataStack[0].dirty = false")


def press(browser, key):
    browser.execute_script(f"document.querySelector('[data-key=\"{key}\"]').click()")


def pick(browser, key, value):
    code = "const s = document.querySelector(`[data-key='${arguments[0]}']`); s.value = arguments[1]; s.dispatchEvent(new Event('change'));"
    browser.execute_script(code, key, value)


def complete(browser, path, part):
    asked = browser.execute_script(ASK, path, part)
    assert asked and all(has == counts for _, counts, has in asked), (path, part, asked)


def undo(browser):
    browser.execute_script("document.activeElement.blur()")
    ActionChains(browser).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()


def kept(browser):
    """Wait until what was changed is a state of its own to come back to."""
    pause = "return document.querySelector('[x-data=editor]')._x_dataStack[0].history.past.at(-1) === JSON.stringify(document.querySelector('[x-data=editor]')._x_dataStack[0].raw.doc)"
    wait(browser).until(lambda b: b.execute_script(pause))


def test_every_cause_is_built_changed_and_undone(editor):
    for kind in FORMS["nodes"]["cause"]["kinds"]:
        press(editor, f"cause|{kind['name']}")
        assert document(editor)["cause"]["cause"] == kind["name"]
        complete(editor, "cause", kind["part"])
        kept(editor)
        before = document(editor)
        number = editor.execute_script(
            "return document.querySelector('#part-cause input[type=number]')?.dataset.key || ''"
        )
        if number:
            field = one(editor, f"[data-key='{number}']")
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys("17")
            kept(editor)
            assert document(editor) != before and "17" in json.dumps(document(editor)["cause"])
            undo(editor)
            wait(editor).until(lambda b, before=before: document(b) == before)
    for pattern in ("of.0", "of.1"):
        press(editor, "cause|order")
        complete(editor, f"cause.{pattern}", "Pattern")


def test_every_condition_is_built_nested_changed_and_undone(editor):
    press(editor, "cause|event")
    options = editor.find_elements(By.CSS_SELECTOR, "[data-key='cause.kind'] option")
    pick(editor, "cause.kind", str([o.text for o in options].index("Plate read")))
    press(editor, "provided|more")
    press(editor, "provided|more")
    assert document(editor)["provided"]["test"] == "all"
    kinds = FORMS["nodes"]["condition"]["kinds"]
    for kind in kinds:
        kept(editor)
        before = document(editor)
        pick(editor, "provided.of.1|test", kind["name"])
        changed = document(editor)["provided"]["of"][1]
        assert changed["test"] == kind["name"]
        complete(editor, "provided.of.1", kind["part"])
        kept(editor)
        if changed != before["provided"]["of"][1]:
            undo(editor)
            wait(editor).until(lambda b, before=before: document(b) == before)
    pick(editor, "provided.of.1|test", "any")
    press(editor, "provided.of.1.of|more")
    pick(editor, "provided.of.1.of.1|test", "not")
    assert [c["test"] for c in document(editor)["provided"]["of"][1]["of"]] == ["field", "not"]
    complete(editor, "provided.of.1.of.1.of", "FieldCondition")


def test_every_step_is_built_changed_moved_and_undone(editor):
    press(editor, "cause|event")
    steps = FORMS["nodes"]["step"]["kinds"]
    for i, kind in enumerate(steps):
        press(editor, f"response|add|{kind['name']}")
        complete(editor, f"response.{i}", kind["part"])
        labels = [e.text for e in editor.find_elements(By.CSS_SELECTOR, f"#part-response-{i} .label-text")]
        assert len(set(labels)) == len(labels), "no two fields look alike"
    kept(editor)
    assert [s["do"] for s in document(editor)["response"]] == [k["name"] for k in steps]
    # By keyboard: the first step goes behind the second; out; and back by undo.
    press(editor, "response.0|open")
    one(editor, "[data-key='response.0|1']").send_keys(Keys.ALT, Keys.ARROW_DOWN)
    assert [s["do"] for s in document(editor)["response"]][:2] == [steps[1]["name"], steps[0]["name"]]
    kept(editor)
    press(editor, "response.0|out")
    kept(editor)
    assert len(document(editor)["response"]) == len(steps) - 1
    undo(editor)
    wait(editor).until(lambda b: len(document(b)["response"]) == len(steps))
    # A setting inside a part that the document leaves out writes it down.
    at = next(i for i, s in enumerate(document(editor)["response"]) if s["do"] == "record")
    press(editor, f"response.{at}.cameras.of|point")
    assert document(editor)["response"][at]["cameras"]["point"]["id"] in ("gate", "jetty")
    relay = next(i for i, s in enumerate(document(editor)["response"]) if s["do"] == "relay")
    press(editor, f"response.{relay}.set|toggle")
    assert not editor.find_elements(By.CSS_SELECTOR, f"[data-field='response.{relay}.held']")


def test_hours_hold_off_and_stop_are_switched_on_and_off(editor):
    press(editor, "cause|event")
    for name, part in (("hours", "HoursPart"), ("hold_off", "HoldOff"), ("stop", "Stop")):
        press(editor, name)
        complete(editor, name, part)
        press(editor, name)
        assert name not in document(editor)
    press(editor, "hold_off")
    press(editor, "hold_off.per|field")
    assert document(editor)["hold_off"]["field"]
    press(editor, "hold_off.per|rule")
    assert "field" not in document(editor)["hold_off"]


def test_a_selection_takes_areas_exceptions_and_everywhere_by_keyboard(editor):
    press(editor, "cause|event")
    search = one(editor, "[data-key='cause.where|search']")
    search.send_keys("boat")
    one(editor, "[data-key='cause.where|area-boathouse']").send_keys(Keys.ENTER)
    assert document(editor)["cause"]["where"]["areas"][0]["id"] == "boathouse"
    press(editor, "cause.where|but|jetty-line")
    assert document(editor)["cause"]["where"]["but"][0]["id"] == "jetty-line"
    again = one(editor, "[data-key='cause.where|search']")
    again.send_keys(Keys.CONTROL, "a")
    again.send_keys("everyw")
    press(editor, "cause.where|everywhere")
    assert document(editor)["cause"]["where"]["everywhere"] is True
    press(editor, "cause.where.areas|boathouse")
    assert "areas" not in document(editor)["cause"]["where"]
