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
