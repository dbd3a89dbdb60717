"""What scripts ask for, screens link to and keys do is there: one table each, held to the server."""

import re
from pathlib import Path

import pytest
from django.urls import Resolver404, resolve

from dromikon.api.api import api
from dromikon.web import navigation

pytestmark = pytest.mark.timeless

SCRIPTS = Path(navigation.__file__).parent / "static" / "js"
ROUTES = (SCRIPTS / "kit" / "routes.js").read_text()
PAGES = re.findall(r'^  (\w+): "(/[^"]*)"', ROUTES, re.M)
CALLS = re.findall(r'^  (\w+): "([A-Z]+) (/[^"]*)"', ROUTES, re.M)
SOURCES = {path: path.read_text() for path in SCRIPTS.rglob("*.js")}


@pytest.mark.parametrize(("name", "path"), PAGES)
def test_pages_that_scripts_ask_for_are_there(name, path):
    filled = re.sub(r"\{(alarm|event|snapshot)\}", "1", path)
    try:
        resolve(re.sub(r"\{\w+\}", "x", filled))
    except Resolver404:
        pytest.fail(f"{name} leads nowhere: {path}")


def test_calls_that_scripts_make_are_operations_of_the_api():
    shape = lambda path: re.sub(r"\{[^}]*\}", "{}", path)
    known = {
        (method.upper(), shape(path).removeprefix("/api/v1"))
        for path, methods in api.get_openapi_schema()["paths"].items()
        for method in methods
    }
    assert {(method, shape(path)) for _, method, path in CALLS} <= known
    assert len(CALLS) > 20


def test_every_route_is_used_and_every_use_is_a_route():
    code = "\n".join(text for path, text in SOURCES.items() if path.name != "routes.js")
    for name, *_ in (*PAGES, *CALLS):
        assert re.search(rf'"{name}"', code), f"nobody uses {name}"
    used = set(re.findall(r'\b(?:call|asked|addressOf|fragment)\(\s*"(\w+)"', code))
    assert used <= {name for name, *_ in (*PAGES, *CALLS)}


def test_no_script_writes_an_address_of_its_own():
    found = [p.name for p, text in SOURCES.items() if p.name != "routes.js" and re.search(r'["`]/(s|api)/', text)]
    assert found == []


@pytest.mark.parametrize("screen", [s for s in navigation.SCREENS if s.keys], ids=lambda s: s.name)
def test_each_key_of_the_help_has_its_act_in_the_screens_script(screen):
    script = {
        "desk": "desk/by-key.js",
        "rulebook.edit": "editor/editor.js",
        "hours.one": "hours/hours.js",
        "installation": "setup/setup.js",
    }.get(screen.name, f"{screen.name}/{screen.name}.js")
    script = SOURCES[SCRIPTS / script]
    for act in navigation.acts_of(screen).values():
        assert re.search(rf"^\s+{act}: |\b{act}: \(|\b{act}: unless", script, re.M), act


def test_keys_are_shown_as_they_are_printed():
    desk, daybook = (navigation.screen_of(name) for name in ("desk.alarm", "daybook"))
    assert [k.shown for k in desk.keys][0] == [["j"], ["k"]] and ["Ctrl", "Enter"] in desk.keys[4].shown
    assert daybook.keys[0].shown == [["←"], ["→"]] and daybook.keys[1].shown == [["+"], ["−"]]
    assert navigation.screen_of("rulebook.new").name == "rulebook.edit" and navigation.screen_of("audit") is None
