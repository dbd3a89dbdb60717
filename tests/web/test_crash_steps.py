"""Engine and deliverers killed at fifty moments while steps go out: what each other side counted, beside what we say of it."""

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
from starlette.applications import Starlette
from starlette.responses import Response
from starlette.routing import Route

from dromikon.intake import inbox
from dromikon.intake.inbox import Message
from dromikon.standins.onvif.camera import StandInCamera
from dromikon.standins.onvif.soap import Account
from dromikon.standins.picture.frame import Studio
from dromikon.standins.run import PASSWORD, USER
from dromikon.standins.world.world import World
from tools.ports import free_port

KILLS, EVENTS = 50, 300

SETUP = """
import json, sys
import django; django.setup()
from django.core.management import call_command
call_command("migrate", verbosity=0)
from dromikon.clock import now_ms
from dromikon.demo.load import configure
from dromikon.people.access import Everywhere
from dromikon.people.models import Membership, Person
from dromikon.setup import changes
from dromikon.setup.registry import SORTS
from dromikon.sources.models import Device
document, camera, gateway = json.loads(sys.argv[1])
configure(now_ms(), [("crossed", "quillmere-gardens", document)])
Membership.objects.update(duty="", quiet="")
Device.objects.filter(id="cam-jetty").update(address=camera, minimum_gap=0)
who = Everywhere(Person.objects.get(username="ada"))
changes.save(SORTS["gateways"], who, "gateways", {"text": {"address": gateway}})
"""

#: Made ready once, and forked for each life: an engine and its deliverers in one process.
LIVES = """
import asyncio, os, signal, sys, threading, time
import django; django.setup()
from dromikon import config
from dromikon.clock import now_ms
from dromikon.engine.deliver import Deliverers
from dromikon.engine.engine import Engine
from django.db import OperationalError

def decide(deliverers):
    engine = Engine()
    engine.steps_committed = deliverers.wake
    engine.load()
    while True:
        try:
            taken = engine.turn()
        except OperationalError:
            taken = 0
        time.sleep(0.001 if taken else 0.01)

def live():
    deliverers = Deliverers(now_ms)
    threading.Thread(target=decide, args=(deliverers,), daemon=True).start()
    asyncio.run(deliverers.run())

for _ in sys.stdin:
    pid = os.fork()
    if pid == 0:
        os.close(0)
        live()
    print(pid, flush=True)
    os.waitpid(pid, 0)
    print("over", flush=True)
"""


class Others:
    """What is called: each effect counted by the event that it is about."""

    def __init__(self):
        self.once, self.again, self.hooks, self.texts = Counter(), Counter(), [], []

    def app(self):
        async def count(request):
            body = json.loads(await request.body())
            {"once": self.once, "again": self.again}[request.path_params["what"]][body["n"]] += 1
            return Response(status_code=204)

        async def hook(request):
            self.hooks.append((request.headers["webhook-id"], (await request.json())["data"]["fields"]["object"]))
            return Response(status_code=204)

        async def text(request):
            body = await request.json()
            self.texts.append((body["id"], body["to"], body["text"]))
            return Response(status_code=202)

        routes = [("/count/{what}", count), ("/hook", hook), ("/texts", text)]
        return Starlette(routes=[Route(path, take, methods=["POST"]) for path, take in routes])


def document(where):
    body = '{"n": {object}}'
    return {
        "name": "Crossed",
        "cause": {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": {"points": [{"id": "jetty-line"}]}},
        "response": [
            {"do": "http", "method": "POST", "url": f"{where}/count/once", "body": body},
            {"do": "http", "method": "POST", "url": f"{where}/count/again", "body": body, "idempotent": True},
            {"do": "webhook", "url": f"{where}/hook", "text": "{object}"},
            {"do": "text", "text": "{object}", "groups": [{"id": "duty"}], "link": False},
            {"do": "relay", "target": {"point": {"id": "storm-light"}}, "held": 0.3},
            {"do": "bookmark", "title": "{object}"},
        ],
    }  # fmt: skip


def query(path, sql):
    with sqlite3.connect(path, timeout=20) as connection:
        return connection.execute(sql).fetchall()


@pytest.mark.slow
@pytest.mark.present
def test_fifty_kills_double_nothing_that_is_done_once_and_lose_nothing_that_may_be_repeated(tmp_path, serve):
    others, world, port = Others(), World(), free_port()
    where = serve(others.app())
    address = f"http://127.0.0.1:{port}"
    serve(StandInCamera("jetty", Studio(world, tmp_path / "scenery"), address, Account(USER, PASSWORD)).app(), port)
    environment = {
        **os.environ, "DROMIKON_DATA": str(tmp_path), "DROMIKON_KEY_FILE": str(tmp_path / "key"),
        "DJANGO_SETTINGS_MODULE": "dromikon.settings", "DROMIKON_OUTGOING": "localhost",
    }  # fmt: skip
    told = json.dumps([document(where), f"{address}/onvif/device_service", f"{where}/texts"])
    subprocess.run([sys.executable, "-c", SETUP, told], env=environment, check=True, cwd=Path.cwd())
    database, incoming = tmp_path / "dromikon.sqlite3", inbox.connect(tmp_path / "inbox.sqlite3")
    lives = subprocess.Popen(
        [sys.executable, "-c", LIVES], env=environment, stdin=subprocess.PIPE, stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL, text=True,
    )  # fmt: skip

    def begin():
        lives.stdin.write("live\n")
        lives.stdin.flush()
        return int(lives.stdout.readline())

    def end(pid, sign=signal.SIGKILL):
        os.kill(pid, sign)
        assert lives.stdout.readline() == "over\n"

    numbers, rnd = iter(range(EVENTS)), random.Random(29)

    def more(count):
        now = time.time_ns() // 1_000_000
        body = {"kind": "scene.line_crossed", "point": "jetty-line", "phase": "pulse"}
        contents = [
            json.dumps({**body, "fields": {"class": "human", "object": n}})
            for _, n in zip(range(count), numbers, strict=False)
        ]
        inbox.append(incoming, [Message(now, "http", "garden-gateway", "{}", c.encode()) for c in contents])

    for _ in range(KILLS):
        pid = begin()
        more(EVENTS // KILLS // 2)
        time.sleep(rnd.uniform(0.02, 0.22))
        more(EVENTS // KILLS // 2)
        time.sleep(rnd.uniform(0.0, 0.1))
        end(pid)
    pid, deadline = begin(), time.monotonic() + 60
    open_steps = "SELECT COUNT(*) FROM daybook_step WHERE status IN ('due', 'sending')"
    while query(database, "SELECT COUNT(*) FROM daybook_run")[0][0] < EVENTS or query(database, open_steps)[0][0]:
        assert time.monotonic() < deadline, query(
            database, "SELECT action, status, answer FROM daybook_step WHERE status IN ('due', 'sending') LIMIT 5"
        )
        time.sleep(0.2)
    end(pid)
    lives.stdin.close()
    lives.wait(10)

    runs = dict(query(database, "SELECT r.ref, e.fields FROM daybook_run r JOIN daybook_event e ON e.seq = r.event"))
    object_of = {ref: json.loads(fields)["object"] for ref, fields in runs.items()}
    assert sorted(object_of.values()) == list(range(EVENTS)), "each event once"
    steps = query(
        database, "SELECT run, step, action, status, \"release\" FROM daybook_step WHERE delivery <> 'inside'"
    )
    said = {(object_of[run], step): status for run, step, _, status, release in steps if not release}

    # Done once: never twice, and what is said to be done was.
    assert max(others.once.values()) == 1, "a call that goes out once went out twice"
    for n in range(EVENTS):
        came = others.once[n]
        assert (said[n, 0], came) in {("done", 1), ("unconfirmed", 0), ("unconfirmed", 1), ("expired", 0)}, (
            n,
            said[n, 0],
            came,
        )
    doubtful = sum(status == "unconfirmed" for (_, step), status in said.items() if step == 0)
    assert doubtful < EVENTS / 3, "most are certain all the same, however busy the machine is"

    # What may be repeated: nothing is lost, and whoever gets it twice can tell by its id.
    assert all(said[n, step] == "done" for n in range(EVENTS) for step in (1, 2, 3))
    assert set(others.again) == set(range(EVENTS))
    assert {n for _, n in others.hooks} == set(range(EVENTS)) and len({id for id, _ in others.hooks}) == EVENTS
    assert {int(t) for _, _, t in others.texts} == set(range(EVENTS)) and len(
        {id for id, _, _ in others.texts}
    ) == EVENTS

    # Outputs that were switched on are released.
    switched = [e.value for e in world.entries]
    assert switched.count("on") <= EVENTS and switched[-1] == "off"
    assert {status for _, _, action, status, release in steps if action == "relay" and release} == {"done"}
    bookmarks = Counter(t for (t,) in query(database, "SELECT title FROM archive_bookmark"))
    assert sum(bookmarks.values()) == EVENTS and set(bookmarks.values()) == {1}
