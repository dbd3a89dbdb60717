"""Static files: gathered under names with digests, modules rewritten to one another, and never at the sources' cost."""

import json
import re
from pathlib import Path

import pytest
from django.conf import settings
from django.test import override_settings

from dromikon.web import statics

pytestmark = pytest.mark.timeless

SOURCES = Path(settings.STATICFILES_DIRS[0])


@pytest.fixture
def gathered(tmp_path):
    backend = {"staticfiles": {"BACKEND": "dromikon.web.statics.GatheredStorage"}}
    with override_settings(STATIC_ROOT=tmp_path / "static", STORAGES={**settings.STORAGES, **backend}):
        statics.gather()
        yield tmp_path / "static"


def test_every_module_is_found_under_its_digest_from_those_that_import_it(gathered):
    names = json.loads((gathered / "staticfiles.json").read_text())["paths"]
    assert names["js/desk/desk.js"] != "js/desk/desk.js"
    known = {(gathered / hashed).resolve() for hashed in names.values()}
    modules = [gathered / hashed for name, hashed in names.items() if name.startswith("js/")]
    imports = [(m, target) for m in modules for target in re.findall(r'^import .*"(.+)";', m.read_text(), re.M)]
    assert len(imports) > 100
    assert [i for i in imports if (i[0].parent / i[1]).resolve() not in known] == []


def test_what_has_not_changed_is_not_gathered_again_and_an_earlier_release_goes(gathered, monkeypatch):
    calls = []
    monkeypatch.setattr(statics, "call_command", lambda *a, **k: calls.append(a) or (gathered.mkdir(exist_ok=True)))
    statics.gather()
    assert calls == []
    (gathered / ".gathered").write_text("of another release")
    (gathered / "old.js").write_text("")
    statics.gather()
    assert len(calls) == 1 and not (gathered / "old.js").exists()


def test_files_that_are_served_as_they_lie_are_left_alone(monkeypatch):
    monkeypatch.setattr(statics.shutil, "rmtree", lambda *a, **k: pytest.fail("the sources were taken away"))
    with override_settings(STATIC_ROOT=SOURCES):
        statics.gather()


def test_a_page_tells_of_all_that_its_scripts_import_and_of_each_once(garden, as_, client):
    client.force_login(as_("ines").person)
    page = client.get("/s/quillmere-gardens/rulebook/new").content.decode()
    told = re.findall(r'rel="modulepreload" href="/static/([^"]+)"', page)
    assert len(told) == len(set(told)) and {"js/form/nodes.js", "js/kit/words.js", "js/editor/plan.js"} <= set(told)
    wanted = {"js/kit/start.js", "js/editor/editor.js"}
    for name in (*wanted, *told):
        wanted.update(statics.imported(name))
    assert set(told) >= wanted - {"js/kit/start.js", "js/editor/editor.js"}


@pytest.mark.parametrize(("sort", "lines"), [("js", 200), ("css", 400), ("html", 200)])
def test_files_that_pages_are_made_of_stay_small_and_narrow(sort, lines):
    folders = (SOURCES / "js", SOURCES / "css", SOURCES.parent / "templates")
    files = [path for folder in folders for path in folder.rglob(f"*.{sort}")]
    long = [p.name for p in files if len(p.read_text().splitlines()) > lines]
    wide = [p.name for p in files if any(len(line) > 120 for line in p.read_text().splitlines())]
    assert files and long == [] and wide == []
