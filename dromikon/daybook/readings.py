"""What sensors read over a stretch of time, gathered into so many pieces that a chart can show: bare SQL, since there may be very
many."""

from collections.abc import Sequence
from typing import NamedTuple

from django.db import connection


class Piece(NamedTuple):
    """Readings of a short while: its middle (ms UTC), the least, the most and the mean of them."""

    at: int
    low: float
    high: float
    mean: float


def pieces(site: str, points: Sequence[str], start: int, end: int, count: int) -> dict[str, list[Piece]]:
    """By point, at most `count` pieces between two instants, in order; none for points that read nothing."""
    if not points or end <= start:
        return {}
    wide = max(1, (end - start) // count)
    places = ", ".join(["%s"] * len(points))
    query = f"""
        SELECT point, (occurred_at - %s) / %s AS piece, min(value), max(value), avg(value) FROM (
            SELECT point, occurred_at, json_extract(fields, '$.value') AS value FROM daybook_event
            WHERE site = %s AND occurred_at >= %s AND occurred_at < %s AND phase = 'reading' AND NOT test AND point IN ({places})
        ) WHERE typeof(value) IN ('integer', 'real') GROUP BY point, piece ORDER BY point, piece"""  # noqa: S608
    with connection.cursor() as cursor:
        cursor.execute(query, [start, wide, site, start, end, *points])
        rows = cursor.fetchall()
    found: dict[str, list[Piece]] = {}
    for point, piece, low, high, mean in rows:
        found.setdefault(point, []).append(Piece(start + piece * wide + wide // 2, low, high, mean))
    return found
