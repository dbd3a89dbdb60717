"""The step that runs a script: once, with a limit, and nothing outside its folder."""

import asyncio
import json
from pathlib import Path

import pytest

from dromikon import scripts
from dromikon.clock import now_ms
from dromikon.daybook.models import Step
from dromikon.engine.effects import script
from dromikon.engine.effects.script import ScriptEffect
from tests.conftest import GARDENS

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]


@pytest.fixture
def run(tmp_path, monkeypatch, garden):
    """`run(name, content)`: put a script into the folder and deliver a step that names it."""
    folder = tmp_path / "scripts"
    folder.mkdir()
    monkeypatch.setenv("DROMIKON_SCRIPTS", str(folder))
    monkeypatch.setenv("DROMIKON_SECRET", "ours")

    def deliver(name, content=None, mode=0o755):
        if content is not None:
            (folder / name).write_text(f"#!/bin/sh\n{content}\n")
            (folder / name).chmod(mode)
        step = Step(run="1.r", site=GARDENS, step=0, action="script", target=f"script:{name}", due=now_ms())
        step.payload = {"rule": "R", "point": "jetty", "fields": {"class": "human"}, "text": "$(id); `id`"}
        sent = asyncio.run(ScriptEffect().deliver(step))
        return sent.outcome, sent.answer

    deliver.folder = folder
    return deliver


def test_it_is_given_the_event_and_nothing_of_ours(run):
    outcome, answer = run("tell", 'read line; echo first; echo "$line $DROMIKON_SECRET"')
    assert outcome == "done"
    assert json.loads(answer) == {
        "run": "1.r", "rule": "R", "point": "jetty", "fields": {"class": "human"}, "text": "$(id); `id`",
    }  # fmt: skip


def test_what_goes_wrong_is_told(run):
    assert run("bad", "echo fine; echo no such printer >&2; exit 3") == ("failed", "It ended with 3. no such printer")
    assert "is called gone" in run("gone")[1]
    assert run("closed", "true", mode=0o644)[0] == "failed"
    (run.folder / "none").write_text("#!/does/not/exist\n")
    (run.folder / "none").chmod(0o755)
    assert run("none") == ("failed", "It cannot be run: No such file or directory.")


def test_nothing_outside_the_folder_is_run(run, tmp_path):
    (tmp_path / "other").write_text("#!/bin/sh\necho outside\n")
    (tmp_path / "other").chmod(0o755)
    (run.folder / "link").symlink_to(tmp_path / "other")
    assert [run(name)[0] for name in ("link", "../other", "..", "")] == ["failed"] * 4
    run("fine", "true")
    run("closed", "true", mode=0o644)
    assert scripts.names() == {"fine"}, "the editor knows what may be run"


def test_one_that_takes_too_long_is_ended_with_all_that_it_began(run, monkeypatch):
    monkeypatch.setattr(script, "LIMIT", 0.5)
    outcome, answer = run("long", 'sleep 77 & echo $! > "$(dirname "$0")/child"; wait')
    assert outcome == "unconfirmed" and "ended after" in answer
    child = Path(f"/proc/{int((run.folder / 'child').read_text())}/stat")
    assert not child.exists() or child.read_text().rpartition(")")[2].split()[0] == "Z", "it is gone with its parent"


def test_one_that_talks_without_end_fills_no_memory(run, monkeypatch):
    monkeypatch.setattr(script, "LIMIT", 0.5)
    assert run("talk", "yes")[0] == "unconfirmed"
    assert run("much", "yes | head -c 3000000; echo; echo end") == ("done", "end")


def test_without_a_folder_it_says_what_to_set_up(run, monkeypatch):
    monkeypatch.delenv("DROMIKON_SCRIPTS")
    assert "DROMIKON_SCRIPTS" in run("any")[1]
