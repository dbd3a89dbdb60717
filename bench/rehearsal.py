"""Rehearsal over a journal of a million events, against fetching and parsing the same rows bare."""

import json
import random
import sqlite3
import time
from collections.abc import Iterator
from typing import Any

from bench.evaluation import document
from bench.report import Result

EVENTS, POINTS, CONCERNED = 1_000_000, 40, 8
DAY = 86_400_000
START = 1_760_000_000_000
STEP = 30 * DAY // EVENTS
INSERT = (
    "INSERT INTO daybook_event (seq, site, kind, point, phase, at, occurred_at, received_at, device_at, fields, late, "
    "initial, chain, inbox, test) VALUES (?, 's', 'scene.line_crossed', ?, 'pulse', ?, ?, ?, NULL, ?, 0, 0, '[]', NULL, 0)"
)


def measure() -> Iterator[Result]:
    """Needs a database of its own: the environment is set by `bench.__main__`'s settings."""
    import django
    from django.conf import settings
    from django.core.management import call_command

    if not settings.configured:
        django.setup()
    from django.db import connection

    connection.creation.create_test_db(verbosity=0, autoclobber=True)
    try:
        call_command("migrate", verbosity=0)
        yield from _over(connection)
    finally:
        connection.creation.destroy_test_db(str(settings.DATABASES["default"]["NAME"]), verbosity=0)


def _over(connection: Any) -> Iterator[Result]:
    _fill(connection)
    path = connection.settings_dict["NAME"]
    wanted = [f"p{i}" for i in range(CONCERNED)]
    # In turns, so that what else the machine does falls on both.
    pairs = [(_bare(str(path), wanted), _rehearse(wanted, [])) for _ in range(5)]
    bare, once = (min(times) for times in zip(*pairs, strict=True))
    count = EVENTS * CONCERNED // POINTS
    yield Result(
        f"rehearsal over 1,000,000 events, {count:,} of its kind and points ({once:.2f} s), against bare rows",
        once / bare,
        2.0,
        "times",
    )
    for what, path_, values in (
        ("confidence", "provided.of.1.value", [float(v) for v in range(40, 80, 2)]),
        ("hold-off", "hold_off.seconds", [float(v) for v in range(10, 210, 10)]),
    ):
        pairs = [(_rehearse(wanted, []), _rehearse(wanted, [(path_, values)])) for _ in range(4)]
        one, swept = (min(times) for times in zip(*pairs, strict=True))
        yield Result(f"sweep of 20 values of {what} against one rehearsal", swept / one, 3.0, "times")


def _fill(connection: Any) -> None:
    rnd = random.Random(1)
    texts = [
        json.dumps({"class": rnd.choice(["human", "human", "animal", "vehicle"]), "confidence": round(rnd.uniform(30, 99), 1), "height": 12.5, "object": i, "direction": "in"})
        for i in range(500)
    ]  # fmt: skip
    rows = (
        (i, f"p{i * 7 % POINTS}", START + i * STEP, START + i * STEP, START + i * STEP, texts[i % 500])
        for i in range(2, EVENTS + 2)
    )
    with connection.cursor() as cursor:
        cursor.execute("PRAGMA synchronous=OFF")
        raw = connection.connection
        raw.execute("BEGIN")
        raw.execute(
            "INSERT INTO daybook_journal (seq, at, site, type, body) VALUES (1, ?, 's', 'facts', ?)",
            (START - 1, json.dumps(_facts())),
        )
        raw.executemany(INSERT, rows)
        journal = ((i, START + i * STEP) for i in range(2, EVENTS + 2))
        raw.executemany(
            "INSERT INTO daybook_journal (seq, at, site, type, body) VALUES (?, ?, 's', 'event', NULL)", journal
        )
        raw.execute("COMMIT")
        raw.execute("ANALYZE")


def _facts() -> dict[str, Any]:
    points = [{"id": f"p{i}", "name": f"P{i}", "kind": "detector", "channel": "c"} for i in range(POINTS)]
    return {"site": "s", "name": "S", "points": points}


def _bare(path: str, points: list[str]) -> float:
    marks = ",".join("?" * len(points))
    connection = sqlite3.connect(path)
    began = time.perf_counter()
    sql = (
        "SELECT seq, kind, point, phase, at, occurred_at, received_at, device_at, fields, late, initial, chain FROM "
        f"daybook_event WHERE site = 's' AND kind = 'scene.line_crossed' AND point IN ({marks}) ORDER BY seq"
    )
    for row in connection.execute(sql, points):
        json.loads(row[8])
    spent = time.perf_counter() - began
    connection.close()
    return spent


def _rehearse(points: list[str], sweep: list[tuple[str, list[float]]]) -> float:
    from dromikon.authoring.replay import entries
    from dromikon.core.facts import LiveRule
    from dromikon.core.rules.rehearse import Stage, Variant, rehearse, varied

    where = {"points": [{"id": p} for p in points]}
    rule = {**document(0), "cause": {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": where}}
    rule["provided"]["of"][1]["value"] = 80
    rule["hold_off"] = {"seconds": 600, "per": "point"}
    end = START + (EVENTS + 2) * STEP
    documents = [d for path, values in sweep for d in varied(rule, path, values)]
    variants = [Variant(LiveRule(id="r", revision=1, document=d), 0, end) for d in documents]
    stage = Stage(LiveRule(id="r", revision=1, document=rule), 0, end, variants=variants)
    began = time.perf_counter()
    (result,) = rehearse(entries("s", 0, end, {"scene.line_crossed"}, set(points)), [stage])
    spent = time.perf_counter() - began
    assert result.runs and result.considered == EVENTS * len(points) // POINTS, (len(result.runs), result.considered)
    return spent
