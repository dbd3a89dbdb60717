"""The engine killed at random moments: every accepted message evaluated exactly once, nothing lost, nothing twice."""

import json
import os
import random
import signal
import sqlite3
import subprocess
import sys
import time
from collections import Counter
from pathlib import Path

import pytest

from dromikon.intake import inbox
from dromikon.intake.inbox import Message

EVENTS, KILLS = 2_000, 6

SETUP = """
import django; django.setup()
from django.core.management import call_command
call_command("migrate", verbosity=0)
from dromikon.demo.load import configure
from tests.small_site import RULES
from dromikon.rulebook.models import Revision, Rule
configure({at}, RULES)
Rule.objects.exclude(id="jetty-geese").update(enabled=False)
revision = Revision.objects.get(rule="jetty-geese")
document = dict(revision.document)
document.pop("hold_off")
document["response"] = document["response"] + [{{"do": "relay", "target": {{"point": {{"id": "storm-light"}}}}, "held": 1}}, {{"do": "bookmark", "after": 1, "title": "later"}}]
revision.document = document
revision.save()
"""


def start(environment):
    return subprocess.Popen(
        [sys.executable, "-m", "dromikon", "engine"],
        env=environment,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )


def query(path, sql):
    with sqlite3.connect(path, timeout=10) as connection:
        return connection.execute(sql).fetchall()


@pytest.mark.slow
def test_sigkill_at_random_moments_during_two_thousand_events(tmp_path):
    environment = {
        **os.environ,
        "DROMIKON_DATA": str(tmp_path),
        "DROMIKON_KEY_FILE": str(tmp_path / "key"),
        "DJANGO_SETTINGS_MODULE": "dromikon.settings",
    }
    began = time.time_ns() // 1_000_000 - 3_600_000
    subprocess.run([sys.executable, "-c", SETUP.format(at=began)], env=environment, check=True, cwd=Path.cwd())
    database = tmp_path / "dromikon.sqlite3"
    connection = inbox.connect(tmp_path / "inbox.sqlite3")
    for group in range(0, EVENTS, 100):
        body = lambda i: json.dumps(
            {
                "kind": "scene.line_crossed",
                "point": "jetty-line",
                "phase": "pulse",
                "fields": {"class": "animal", "object": i},
            }
        ).encode()
        inbox.append(
            connection,
            [
                Message(began + 1000 + i * 300, "http", "garden-gateway", "{}", body(i))
                for i in range(group, group + 100)
            ],
        )

    done, kills, rnd = 0, 0, random.Random(17)
    deadline = time.monotonic() + 600
    while done < EVENTS:
        engine = start(environment)
        if kills < KILLS:
            # Wait until it has begun to write, then a moment more, and kill it in the middle.
            while (
                now := query(database, "SELECT COUNT(*) FROM daybook_event WHERE kind = 'scene.line_crossed'")[0][0]
            ) == done and engine.poll() is None:
                time.sleep(0.005)
            time.sleep(rnd.uniform(0, 0.12))
            engine.send_signal(signal.SIGKILL)
            kills += now < EVENTS
        else:
            while (
                query(database, "SELECT COUNT(*) FROM daybook_event WHERE kind = 'scene.line_crossed'")[0][0] < EVENTS
            ):
                assert time.monotonic() < deadline, "it does not come to an end"
                time.sleep(0.1)
            time.sleep(1.5)
            engine.send_signal(signal.SIGTERM)
        engine.wait(10)
        done = query(database, "SELECT COUNT(*) FROM daybook_event WHERE kind = 'scene.line_crossed'")[0][0]
    assert kills >= 5

    crossed = "SELECT fields FROM daybook_event WHERE kind = 'scene.line_crossed' ORDER BY seq"
    objects = [json.loads(f)["object"] for (f,) in query(database, crossed)]
    assert objects == list(range(EVENTS)), "each once, in order"
    verdicts = Counter(query(database, "SELECT event, rule FROM daybook_verdict"))
    assert len(verdicts) == EVENTS and set(verdicts.values()) == {1}
    runs = query(database, "SELECT event, COUNT(*) FROM daybook_run GROUP BY event")
    assert len(runs) == EVENTS and {n for _, n in runs} == {1}
    bookmarks = Counter(t for (t,) in query(database, "SELECT title FROM archive_bookmark"))
    assert bookmarks == {"Geese on the jetty": EVENTS, "later": EVENTS}
    steps = Counter(query(database, 'SELECT action, "release" FROM daybook_step'))
    assert steps == {("bookmark", 0): 2 * EVENTS, ("relay", 0): EVENTS, ("relay", 1): EVENTS}
    sent = {
        s
        for (s,) in query(
            database, "SELECT DISTINCT status FROM daybook_step WHERE action = 'relay' AND \"release\" = 0"
        )
    }
    assert "done" not in sent and "sending" not in sent, "commands an hour old are never sent"
    seqs = [s for (s,) in query(database, "SELECT seq FROM daybook_journal ORDER BY seq")]
    assert seqs == list(range(1, len(seqs) + 1)), "the journal has no gap and no double"
