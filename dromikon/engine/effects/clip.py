"""Effect: a stretch of recording is kept as a file, here or on a server of SFTP."""

import asyncio
import errno
import os
from collections.abc import AsyncIterator
from pathlib import Path
from typing import Any, cast

from dromikon import config
from dromikon.archive.pictures import source_of
from dromikon.core.instants import Instant
from dromikon.core.rules.actions.clip import ClipOrder
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.daybook.trial import TEST
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.engine.effects.destination import GONE, Known, known
from dromikon.secrets import SealBroken
from dromikon.sources.models import Point
from dromikon.wire import sftp
from dromikon.wire.outgoing import NotAllowed
from dromikon.wire.pictures import NoRecording, PicturesUnavailable

#: What is still being written is called so, and taken away when it comes to nothing.
PART = ".part"
TRIED = b"Dromikon can write here.\n"
FULL = {errno.ENOSPC: "The disk is full.", errno.EDQUOT: "The disk's quota is used up."}


class ClipEffect(OutsideEffect):
    """One lane a folder, a clip at a time: recorders encode them."""

    patient = True

    def lane(self, order: StepOrder, now: Instant) -> str:
        return order.target

    async def deliver(self, step: Step) -> Sent:
        try:
            where = await known(step.site, step.target, "folder") or await known(step.site, step.target, "sftp")
        except SealBroken as error:
            return Sent("retry", f"{error} The server's password is needed.", ours=True)
        if where is None:
            return Sent("failed", GONE)
        order = cast(ClipOrder, step.payload)
        content = _test() if step.run.startswith(TEST) else await _stretch(order)
        if content is None:
            return Sent("failed", "The camera is gone, or no recorder records it.")
        try:
            return Sent("done", await _keep(where, order["name"], content))
        except NoRecording as error:
            return Sent("failed", str(error))
        except (PicturesUnavailable, sftp.NotNow) as error:
            return Sent("retry", str(error))
        except (NotAllowed, sftp.Refused) as error:
            return Sent("failed", str(error))
        except OSError as error:
            # A full disk may have room again within the hour.
            return Sent("retry", FULL.get(error.errno or 0, f"It could not be kept: {error.strerror}."))


async def _test() -> AsyncIterator[bytes]:
    yield TRIED


async def _stretch(order: ClipOrder) -> AsyncIterator[bytes] | None:
    camera = await Point.objects.select_related("recorder").filter(id=order["camera"]).afirst()
    if camera is None or camera.recorder is None:
        return None
    return source_of(camera.recorder).export(camera.recorder_channel, order["start"], order["end"])


async def _keep(where: Known, name: str, content: AsyncIterator[bytes]) -> str:
    """Write a file; answers where it is."""
    settings: dict[str, Any] = where.settings
    if settings["sort"] == "folder":
        return await _keep_here(folder_of(settings["folder"]), name, content)
    server = sftp.Server(
        settings["host"], int(settings.get("port") or sftp.PORT), settings["user"], where.secrets.get("password", ""),
        settings["host_key"],
    )  # fmt: skip
    path = f"{settings.get('folder') or '.'}/{name}"
    size = await sftp.keep(server, path, content)
    return f"{server.host}: {path}, {size:,} bytes"


def folder_of(name: str) -> Path:
    """A folder for clips, below the one that is set up for them (DROMIKON_CLIPS). Raises PermissionError for one outside."""
    root = config.clips().resolve()
    found = (root / name.lstrip("/")).resolve()
    if not found.is_relative_to(root):
        raise PermissionError(errno.EACCES, "it lies outside the folder for clips")
    return found


async def _keep_here(folder: Path, name: str, content: AsyncIterator[bytes]) -> str:
    """Whole or not at all: it has its name once it is on the disk."""
    path, size = folder / name, 0
    if path.exists():
        return f"{path.name} is there already."
    await asyncio.to_thread(folder.mkdir, parents=True, exist_ok=True)
    part = path.with_name(path.name + PART)
    try:
        with part.open("wb") as file:
            async for piece in content:
                size += await asyncio.to_thread(file.write, piece)
            await asyncio.to_thread(_settle, file)
        part.rename(path)
    except BaseException:
        part.unlink(missing_ok=True)
        raise
    return f"{path.name}, {size:,} bytes"


def _settle(file: Any) -> None:
    file.flush()
    os.fsync(file.fileno())
