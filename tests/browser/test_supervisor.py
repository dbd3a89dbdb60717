"""`make demo` keeps its parts running: one that falls is named and started again, and what it did goes on.

That nothing is left behind when everything is stopped is asked in the end, when the demo of all tests is (`conftest.demo`)."""

import json
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

import pytest

pytestmark = [pytest.mark.browser, pytest.mark.slow]


def parts_of(pid):
    """The supervisor's processes: part -> pid."""
    found = {}
    for process in Path("/proc").glob("[0-9]*"):
        try:
            parent = (process / "stat").read_text().rsplit(")", 1)[1].split()[1]
            words = (process / "cmdline").read_bytes().split(b"\0")
        except OSError:
            continue
        if parent == str(pid) and b"dromikon" in words:
            found[words[-2].decode()] = int(process.name)
    return found


def healthz(demo):
    try:
        answer = urllib.request.urlopen(f"{demo.address}/healthz", timeout=5)
        return answer.status, json.load(answer)
    except urllib.error.HTTPError as error:
        return error.code, json.load(error)
    except OSError:
        return 0, {}


def until(condition, seconds=30):
    deadline = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < deadline, "waited in vain"
        time.sleep(0.2)


@pytest.mark.parametrize("part", ["engine", "web", "intake"])
def test_a_part_that_falls_is_started_again(demo, part):
    before = parts_of(demo.process.pid)
    assert set(before) == {"standins", "engine", "keeper", "scene", "intake", "web"}
    os.kill(before[part], signal.SIGKILL)
    until(lambda: parts_of(demo.process.pid).get(part) not in (None, before[part]))
    until(lambda: healthz(demo)[0] == 200)
    assert f"{part} fell" in (demo.folder.parent / "demo.log").read_text()
    others = {p: i for p, i in parts_of(demo.process.pid).items() if p != part}
    assert others == {p: i for p, i in before.items() if p != part}, "the others were left alone"


def test_health_is_503_while_the_engine_does_not_run(demo):
    engine = parts_of(demo.process.pid)["engine"]
    os.kill(engine, signal.SIGSTOP)
    try:
        until(lambda: healthz(demo)[0] == 503)
        assert healthz(demo)[1]["engine"] == "not running"
    finally:
        os.kill(engine, signal.SIGCONT)
    until(lambda: healthz(demo)[0] == 200)


@pytest.mark.parametrize("own_folder", [False, True], ids=["on the same folder", "on the same ports"])
def test_a_second_start_is_one_clear_line_and_leaves_the_first_alone(demo, tmp_path, own_folder):
    environment = dict(
        entry.split("=", 1)
        for entry in Path(f"/proc/{demo.process.pid}/environ").read_bytes().decode().split("\0")
        if "=" in entry
    )
    if own_folder:
        environment["DROMIKON_DATA"] = str(tmp_path / "data")
    before = parts_of(demo.process.pid)
    second = subprocess.run(
        [sys.executable, "-m", "dromikon", "demo"], env=environment, capture_output=True, timeout=60
    )
    said = second.stderr.decode().strip().splitlines()
    assert second.returncode == 78 and len(said) == 1 and said[0].startswith("Dromikon cannot start: ")
    assert ("is in use" if own_folder else "another Dromikon is at work") in said[0]
    assert parts_of(demo.process.pid) == before and healthz(demo)[0] == 200
