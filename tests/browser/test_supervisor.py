"""`make demo` keeps its parts running: one that falls is named and started again, and what it did goes on."""

import json
import os
import signal
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
    assert set(before) == {"standins", "engine", "intake", "web"}
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


def test_nothing_is_left_behind_when_everything_is_stopped(tmp_path):
    from tools.demo_process import start_demo

    own = start_demo(tmp_path / "data")
    folder = str(tmp_path)
    assert own.stop() == 0

    def left():
        found = []
        for process in Path("/proc").glob("[0-9]*"):
            try:
                if folder in (process / "environ").read_bytes().decode(errors="ignore") and process.name != str(
                    os.getpid()
                ):
                    found.append((process / "cmdline").read_bytes())
            except OSError:
                continue
        return found

    until(lambda: left() == [], 10)
