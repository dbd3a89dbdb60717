"""What an intake was sent last, and what became of it."""

import contextlib
import json
import sqlite3
from contextlib import closing
from dataclasses import dataclass
from typing import Any

from dromikon import config
from dromikon.core.decoding import snmp
from dromikon.core.mibs.names import Names
from dromikon.core.reading import NotReadable
from dromikon.daybook.models import EnginePosition, EventRow
from dromikon.sources.mibs import names_at
from dromikon.sources.models import Intake, IntakeCount, Unclaimed

#: So many of the inbox's last messages are looked through for those of one intake.
LOOKED_THROUGH = 5_000
#: So much of a message is shown.
SHOWN = 3_000
DAY, MINUTE = 86_400_000, 60_000
LATELY = 10 * MINUTE


@dataclass(frozen=True, slots=True)
class Sent:
    """A message. `events`: the kinds and points of what became of it; `why`: nothing did; neither: it waits."""

    id: int
    at: int
    content_type: str
    size: int
    raw: str
    events: tuple[tuple[str, str], ...]
    why: str
    waits: bool


@dataclass(frozen=True, slots=True)
class Counted:
    """How often something became of messages: today, in seven days, and when last."""

    outcome: str
    today: int
    week: int
    last_at: int


@dataclass(frozen=True, slots=True)
class Captured:
    """A message as it came."""

    id: int
    at: int
    content_type: str
    query: str
    body: bytes
    adapter: str = "http"
    #: Of a broker's message.
    topic: str = ""
    retained: bool = False


def captured(source: str, limit: int, most: int = 200_000) -> list[Captured]:
    """The last messages of an intake or a device, by its id, the newest first, each up to so many bytes."""
    return [
        Captured(
            id,
            at,
            str(known.get("content_type", "")),
            str(known.get("query", "")),
            bytes(body),
            adapter,
            str(known.get("topic", "")),
            bool(known.get("retained")),
        )
        for id, at, adapter, meta, _, body in _rows(source, limit, most)
        for known in (json.loads(meta),)
    ]


def _rows(source: str, limit: int, most: int) -> list[Any]:
    # What our own sessions tell of devices nobody can teach.
    query = """SELECT id, received_at, adapter, meta, length(body), substr(body, 1, ?) FROM
        (SELECT * FROM message ORDER BY id DESC LIMIT ?)
        WHERE source = ? AND adapter NOT IN ('session', 'catalogue') ORDER BY id DESC LIMIT ?"""
    try:
        with closing(sqlite3.connect(f"file:{config.inbox_path()}?mode=ro", uri=True, timeout=2)) as connection:
            return connection.execute(query, (most, LOOKED_THROUGH, source, limit)).fetchall()
    except sqlite3.OperationalError:
        return []


def last_sent(intake: Intake, limit: int = 30) -> list[Sent]:
    """The last messages that were taken, the newest first."""
    rows, names = _rows(intake.id, limit, SHOWN), names_at(intake.site_id)
    ids = [row[0] for row in rows]
    events: dict[int, list[tuple[str, str]]] = {}
    for place, kind, point in (
        EventRow.objects.filter(inbox__in=ids).order_by("seq").values_list("inbox", "kind", "point")
    ):
        events.setdefault(place or 0, []).append((kind, point))
    why = dict(Unclaimed.objects.filter(inbox__in=ids).values_list("inbox", "reason"))
    position = EnginePosition.objects.values_list("inbox", flat=True).first() or 0
    return [
        Sent(id, at, _kind_of(json.loads(meta)), size, _legible(adapter, bytes(body), names),
             tuple(events.get(id, ())), why.get(id, ""), id > position)
        for id, at, adapter, meta, size, body in rows
    ]  # fmt: skip


def _kind_of(meta: dict[str, Any]) -> str:
    """What sort of message it says it is: a type, or the topic of a broker's."""
    return str(meta.get("content_type") or meta.get("topic") or "")


def rate_of(intake: Intake, now: int) -> float:
    """Messages a minute that were taken in the last ten, as far as the newest messages of all reach back."""
    query = """SELECT COUNT(*), MIN(received_at) FROM (SELECT source, received_at FROM message ORDER BY id DESC LIMIT ?)
        WHERE source = ? AND received_at > ?"""
    try:
        with closing(sqlite3.connect(f"file:{config.inbox_path()}?mode=ro", uri=True, timeout=2)) as connection:
            count, first = connection.execute(query, (LOOKED_THROUGH, intake.id, now - LATELY)).fetchone()
    except sqlite3.OperationalError:
        return 0.0
    minutes = LATELY / MINUTE if count < LOOKED_THROUGH // 2 else max(1, now - first) / MINUTE
    return float(count) / minutes


def counted(intakes: list[Intake], now: int) -> dict[str, list[Counted]]:
    """By intake, what became of what it was sent, the most frequent first."""
    today = now // DAY
    found: dict[tuple[str, str], list[int]] = {}
    for row in IntakeCount.objects.filter(intake__in=intakes, day__gt=today - 7):
        known = found.setdefault((row.intake_id, row.outcome), [0, 0, 0])
        known[0] += row.count if row.day == today else 0
        known[1] += row.count
        known[2] = max(known[2], row.last_at)
    made: dict[str, list[Counted]] = {}
    for (intake, outcome), (day, week, last) in sorted(found.items(), key=lambda item: -item[1][1]):
        made.setdefault(intake, []).append(Counted(outcome, day, week, last))
    return made


def _legible(adapter: str, body: bytes, names: Names) -> str:
    """A message's bytes, or what they say where they say nothing to people."""
    if adapter == "snmp":
        with contextlib.suppress(NotReadable):
            return json.dumps(snmp.read(body, names), ensure_ascii=False, indent=1)
    return body.decode("utf-8", "replace")
