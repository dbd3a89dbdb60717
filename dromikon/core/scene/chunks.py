"""A minute of what was seen at a channel, packed small, so that a month of it can be kept and looked through.

Column by column, objects apart, each side of a box as what it differs from the picture before, and all of it deflated
(RFC 1951): what stands still costs nothing, and what moves little.
"""

import json
import struct
import zlib
from collections.abc import Iterable, Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from dromikon.core.instants import Instant
from dromikon.core.scene.sight import Sight

#: How long a chunk is, in ms.
CHUNK = 60_000
#: Sides are kept as so many parts of the picture: finer than any camera sees.
PARTS = 8191
VERSION = 1
_HEAD = struct.Struct(">BIIQ")
_LONGEST = 32 << 20


class Unreadable(ValueError):
    """What was kept cannot be read; the message says why."""


def chunk_of(at: Instant) -> Instant:
    """The beginning of the chunk that an instant lies in."""
    return at - at % CHUNK


def pack(sights: Sequence[Sight]) -> bytes:
    """Pictures of one chunk, in their order."""
    start = sights[0].at if sights else 0
    names = _numbered(id for s in sights for id in s.ids)
    kinds = _numbered(kind for s in sights for kind in s.kinds)
    objects = np.array([names[id] for s in sights for id in s.ids], "<u2")
    order = np.argsort(objects, kind="stable")
    boxes = np.concatenate([s.boxes for s in sights]) if sights else np.zeros((0, 4))
    sides = np.rint(boxes * PARTS).astype(np.int32)[order]
    moved = _differences(sides, objects[order]).astype("<i2")
    columns = (
        np.array([s.at - start for s in sights], "<u4"),
        np.array([len(s) for s in sights], "<u2"),
        objects,
        np.array([kinds[kind] for s in sights for kind in s.kinds], "<u1"),
        np.array([round(sure) for s in sights for sure in s.sure], "<u1"),
        *(np.ascontiguousarray(moved[:, i]) for i in range(4)),
    )
    words = json.dumps([list(names), list(kinds)]).encode()
    body = struct.pack(">I", len(words)) + words + b"".join(column.tobytes() for column in columns)
    return _HEAD.pack(VERSION, len(sights), len(objects), start) + zlib.compress(body, 6)


def unpack(data: bytes) -> list[Sight]:
    """The inverse of `pack`. Raises Unreadable."""
    try:
        version, pictures, things, start = _HEAD.unpack_from(data)
        if version != VERSION:
            raise Unreadable("It was kept by a later release.")
        body = zlib.decompressobj().decompress(data[_HEAD.size :], _LONGEST)
        (length,) = struct.unpack_from(">I", body)
        names, kinds = json.loads(body[4 : 4 + length])
        return list(_sights(_Columns(body, 4 + length), pictures, things, start, names, kinds))
    except (struct.error, zlib.error, ValueError, IndexError, TypeError) as error:
        raise Unreadable(f"What was seen cannot be read: {error}") from error


class _Columns:
    """What follows each other in the body."""

    def __init__(self, body: bytes, at: int) -> None:
        self._body, self._at = body, at

    def take(self, kind: str, count: int) -> NDArray[np.int64]:
        found = np.frombuffer(self._body, kind, count, self._at)
        self._at += found.nbytes
        return found.astype(np.int64)


def _sights(
    columns: _Columns, pictures: int, things: int, start: Instant, names: list[str], kinds: list[str]
) -> Iterator[Sight]:
    ats, counts = columns.take("<u4", pictures), columns.take("<u2", pictures)
    objects, classes, sures = columns.take("<u2", things), columns.take("<u1", things), columns.take("<u1", things)
    order = np.argsort(objects, kind="stable")
    moved = np.column_stack([columns.take("<i2", things) for _ in range(4)]) if things else np.zeros((0, 4), np.int64)
    boxes = np.empty((things, 4))
    boxes[order] = _summed(moved, objects[order]) / PARTS
    ids, classed = [names[i] for i in objects.tolist()], [kinds[i] for i in classes.tolist()]
    sure, sides, at = (
        sures.astype(float).tolist(),
        [(left, top, right, bottom) for left, top, right, bottom in boxes.tolist()],
        0,
    )
    for passed, count in zip(ats.tolist(), counts.tolist(), strict=True):
        rows = slice(at, at + count)
        at += count
        yield Sight(start + passed, tuple(ids[rows]), tuple(classed[rows]), tuple(sure[rows]), sides[rows])


def _differences(sides: NDArray[np.int32], objects: NDArray[np.uint16]) -> NDArray[np.int32]:
    """Each row less the one before of the same object; the first as it is."""
    found = sides.copy()
    same = objects[1:] == objects[:-1]
    found[1:][same] -= sides[:-1][same]
    return found


def _summed(moved: NDArray[np.int64], objects: NDArray[np.int64]) -> NDArray[np.int64]:
    """The inverse of `_differences`."""
    if not len(moved):
        return moved
    sums = moved.cumsum(axis=0)
    firsts = np.flatnonzero(np.concatenate(([True], objects[1:] != objects[:-1])))
    before = np.zeros((len(firsts), 4), np.int64)
    before[1:] = sums[firsts[1:] - 1]
    lengths = np.diff(np.append(firsts, len(moved)))
    return sums - np.repeat(before, lengths, axis=0)


def _numbered(words: Iterable[str]) -> dict[str, int]:
    found: dict[str, int] = {}
    for word in words:
        found.setdefault(word, len(found))
    return found
