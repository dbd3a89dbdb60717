"""Clips and stills that wait are copied from their recorders, one after the other, whole or not at all."""

import asyncio
import hashlib
import os
from collections.abc import AsyncIterator, Awaitable
from contextlib import closing
from pathlib import Path

from av.error import FFmpegError
from django.db.models import QuerySet

from dromikon.archive.pictures import source_of
from dromikon.cases.hiding import hide
from dromikon.cases.models import Piece
from dromikon.cases.services import path_of
from dromikon.core.cases.blurring import AROUND, Blur, rectangles
from dromikon.scene import store
from dromikon.sources.models import Point, Recorder
from dromikon.wire.pictures import NoRecording, PicturesUnavailable

#: Wide enough to recognise somebody.
WIDTH = 1920
#: A recorder that is away is asked again so often, for so long after the piece was added, in ms.
AGAIN, PATIENCE = 30_000, 3_600_000


def waiting(now: int) -> QuerySet[Piece]:
    """What is to be copied now: what was never tried, and what was not lately."""
    return Piece.objects.filter(state=Piece.State.WAITING, tried_at__lte=now - AGAIN)


def fetch(now: int) -> str:
    """Copy what waits. How much, in words."""
    done, left = 0, 0
    for piece in waiting(now).select_related("case").order_by("added_at", "id"):
        try:
            _fetch(piece)
            done += 1
        except PicturesUnavailable as error:
            given_up = isinstance(error, NoRecording) or now - piece.added_at > PATIENCE
            left += not given_up
            _say(piece, Piece.State.FAILED if given_up else Piece.State.WAITING, str(error), now)
        except OSError as error:
            _say(piece, Piece.State.FAILED, f"It could not be kept: {error.strerror}.", now)
    return f"{done} copied" + (f", {left} asked again" if left else "")


def _fetch(piece: Piece) -> None:
    if piece.file and piece.blur:
        _hide(piece)
        return
    camera = Point.objects.select_related("recorder").filter(pk=piece.camera).first()
    if camera is None or camera.recorder is None:
        raise NoRecording("The camera is gone, or no recorder records it.")
    name = f"{piece.pk}.{'jpg' if piece.sort == 'still' else 'webm'}"
    digest, size = asyncio.run(_copied(piece, camera.recorder, camera.recorder_channel, path_of(piece.case, name)))
    if not size:
        path_of(piece.case, name).unlink(missing_ok=True)
        raise NoRecording("Nothing is recorded in that stretch.")
    # Whoever has taken it out meanwhile wants no file of it either.
    changed = Piece.objects.filter(pk=piece.pk).update(
        state=Piece.State.READY, why="", file=name, sha256=digest, size=size
    )
    if not changed:
        path_of(piece.case, name).unlink(missing_ok=True)


def _hide(piece: Piece) -> None:
    """Make a clip anew, in which somebody is hidden; as it came it is kept beside."""
    name, start = f"{piece.pk}-hidden.webm", piece.start or 0
    with closing(store.connect()) as opened:
        sights = list(store.sights(opened, piece.camera, start - AROUND, (piece.end or start) + AROUND))
    source, target = path_of(piece.case, piece.file), path_of(piece.case, name)
    try:
        hide(source, target, start, rectangles(sights, Blur.model_validate(piece.blur)))
    except FFmpegError as error:
        raise NoRecording(f"It could not be made anew: {error}.") from error
    with target.open("rb") as file:
        digest = hashlib.file_digest(file, "sha256").hexdigest()
    changed = Piece.objects.filter(pk=piece.pk, state=Piece.State.WAITING, file=piece.file).update(
        state=Piece.State.READY, file=name, sha256=digest, size=target.stat().st_size, original=piece.file,
        original_sha256=piece.sha256,
    )  # fmt: skip
    if not changed:
        target.unlink(missing_ok=True)


async def _copied(piece: Piece, recorder: Recorder, channel: str, path: Path) -> tuple[str, int]:
    source, start = source_of(recorder), piece.start or 0
    try:
        if piece.sort == "still":
            return await _keep(path, _one(source.picture(channel, start, WIDTH)))
        return await _keep(path, source.export(channel, start, piece.end or start))
    finally:
        await source.close()


async def _one(picture: Awaitable[bytes]) -> AsyncIterator[bytes]:
    yield await picture


async def _keep(path: Path, content: AsyncIterator[bytes]) -> tuple[str, int]:
    """Write it; its SHA-256 and size."""
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    part, digest, size = path.with_name(f".{path.name}.part"), hashlib.sha256(), 0
    try:
        with part.open("wb") as file:
            async for chunk in content:
                file.write(chunk)
                digest.update(chunk)
                size += len(chunk)
            file.flush()
            os.fsync(file.fileno())
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)
    return digest.hexdigest(), size


def _say(piece: Piece, state: str, why: str, now: int) -> None:
    Piece.objects.filter(pk=piece.pk).update(state=state, why=why[:300], tried_at=now)
