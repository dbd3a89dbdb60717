"""Waking: whoever commits wakes who works it off; nobody depends on it."""

import os
import subprocess
import sys
import threading
import time

import pytest
from django.db import transaction

from dromikon import config, wake
from dromikon.database import doorbell, writer
from dromikon.daybook.services import record_act
from dromikon.engine import apart


@pytest.fixture
def deep(tmp_path, monkeypatch):
    """A data folder whose name is longer than a socket's address may be."""
    folder = tmp_path / ("d" * 90) / ("e" * 90)
    folder.mkdir(parents=True)
    monkeypatch.setattr(config, "data", lambda: folder)
    return folder


def test_a_waking_ends_the_wait_and_several_are_one(deep):
    ear = wake.Ear("engine")
    threading.Timer(0.1, lambda: [wake.wake("engine") for _ in range(1_000)]).start()
    began = time.monotonic()
    assert ear.wait(20) and time.monotonic() - began < 10
    time.sleep(0.3)
    ear.drain()
    assert not ear.wait(0)
    ear.close()
    assert not list(deep.iterdir())


def test_nobody_listening_is_no_trouble_and_what_a_dead_one_left_is_cleared_away(deep):
    wake.wake("engine")
    left = f"import sys; sys.path.insert(0, '.'); from pathlib import Path; from dromikon import config, wake; config.data = lambda: Path({str(deep)!r}); wake.Ear('engine')"
    subprocess.run([sys.executable, "-c", left], check=True, env={**os.environ})
    assert len(list(deep.glob("engine.*.wake"))) == 1
    wake.wake("engine")
    assert not list(deep.glob("engine.*.wake"))


@pytest.mark.django_db(transaction=True)
def test_an_act_wakes_the_engine_when_it_is_committed(garden):
    ear = wake.Ear(wake.ENGINE)
    with transaction.atomic():
        record_act(garden.id, "mode", 1, value="open")
        assert not ear.wait(0), "not before the commit"
    assert ear.wait(0)
    ear.close()


def child(code):
    return (sys.executable, "-c", code)


def until(condition):
    deadline = time.monotonic() + 10
    while not condition():
        assert time.monotonic() < deadline
        time.sleep(0.02)


def test_deliveries_live_as_long_as_the_pipe_and_are_begun_anew(monkeypatch, tmp_path):
    heard = tmp_path / "heard"
    code = f"import os,sys; f=open({str(heard)!r},'ab',0)\nwhile b := os.read(0, 100): f.write(b)\nf.write(b'end')"
    monkeypatch.setattr(apart, "PAUSE", 0.0)
    deliveries = apart.Apart(child(code))
    deliveries.wake()
    deliveries.start()
    deliveries.wake()
    until(lambda: heard.exists() and heard.read_bytes() == b"!")
    assert deliveries.look_after()
    deliveries._process.kill()
    deliveries._process.wait()
    deliveries.wake()
    assert not deliveries.look_after() and deliveries.look_after(), "begun anew"
    deliveries.stop()
    assert heard.read_bytes().endswith(b"end") and deliveries._process.returncode == 0


def test_deliveries_that_do_not_end_are_ended(monkeypatch):
    monkeypatch.setattr(apart, "LAST_CALL", 0.2)
    deliveries = apart.Apart(child("import time; time.sleep(60)"))
    deliveries.start()
    deliveries.stop()
    assert deliveries._process.returncode == -9


def test_who_holds_the_writer_is_waited_for_in_line(garden):
    took = []

    def other():
        with writer.turn():
            took.append("other")

    with writer.turn():
        waiting = threading.Thread(target=other)
        waiting.start()
        until(doorbell.heard)
        took.append("mine")
    waiting.join(10)
    assert took == ["mine", "other"] and not doorbell.heard()
