"""Durable messages a second, against Django's bulk_create of the same rows."""

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from bench.report import Result
from dromikon.intake import inbox
from dromikon.intake.inbox import Message

GROUPS, SIZE = 60, 200
BODY = b"<wsnt:NotificationMessage>" + b"x" * 900 + b"</wsnt:NotificationMessage>"


def measure() -> Iterator[Result]:
    import django
    from django.conf import settings

    if not settings.configured:
        django.setup()
    with tempfile.TemporaryDirectory() as folder:
        ours, theirs = [], []
        connection = inbox.connect(Path(folder) / "inbox.sqlite3")
        model, database = _django_table(Path(folder) / "django.sqlite3")
        for group in range(GROUPS):
            messages = [
                Message(group * SIZE + i, "onvif", "device", '{"clock_offset_ms": 0}', BODY) for i in range(SIZE)
            ]
            began = time.perf_counter()
            inbox.append(connection, messages)
            ours.append(time.perf_counter() - began)
            rows = [
                model(received_at=m.received_at, adapter=m.adapter, source=m.source, meta=m.meta, body=m.body)
                for m in messages
            ]
            began = time.perf_counter()
            model.objects.using(database).bulk_create(rows)
            theirs.append(time.perf_counter() - began)
    ratio = sum(theirs) / sum(ours)
    rate = GROUPS * SIZE / sum(ours)
    yield Result(
        f"inbox, groups of {SIZE} against bulk_create (here {rate:,.0f} messages/s)", ratio, 1.0, "times", at_most=False
    )


def _django_table(path: Path):  # type: ignore[no-untyped-def]
    """The same table as a model, with the same durability."""
    from django.db import connections, models

    options = {"init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;", "transaction_mode": "IMMEDIATE"}
    connections.databases["bench"] = {**connections.databases["default"], "NAME": str(path), "OPTIONS": options}

    class BenchMessage(models.Model):
        received_at = models.BigIntegerField()
        adapter = models.TextField()
        source = models.TextField()
        meta = models.TextField()
        body = models.BinaryField()

        class Meta:
            app_label = "bench"

    with connections["bench"].schema_editor() as editor:
        editor.create_model(BenchMessage)
    return BenchMessage, "bench"
