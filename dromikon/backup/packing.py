"""The form of a backup: a gzipped tar whose last member, `manifest.json`, names every other one with its length and SHA-256.

What comes last cannot be there when the file was cut short. Only regular files of known names are ever taken out.
"""

import contextlib
import gzip
import hashlib
import io
import json
import re
import tarfile
import time
import zlib
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import IO

from pydantic import BaseModel, ConfigDict, ValidationError

FORMAT = "dromikon-backup/1"
MANIFEST = "manifest.json"
#: What a backup may hold: the databases, and files in folders of their own, one folder deep.
_NAMES = re.compile(
    r"(dromikon|inbox)\.sqlite3|(evidence|snapshots|lists|cases)/([A-Za-z0-9-]{1,40}/)?[A-Za-z0-9][A-Za-z0-9._-]{0,150}"
)
PIECE = 256 * 1024
#: A backup yields this long after each piece that it writes, in seconds, so that what records has the disk and a core.
BREATH = 0.004


class BackupUnusable(Exception):
    """A backup cannot be made or used; the message says why and what to do."""


class Packed(BaseModel):
    model_config = ConfigDict(extra="forbid")

    bytes: int
    sha256: str


class Manifest(BaseModel):
    """What a backup says of itself. `key`: by what the key of its secrets is known; `tables`: the upgrades that its
    database has been through; `made_at`: ms UTC."""

    model_config = ConfigDict(extra="forbid")

    format: str
    release: str
    made_at: int
    key: str
    tables: list[str]
    files: dict[str, Packed]


def pack(target: IO[bytes], files: Iterator[tuple[str, Path]], manifest: Manifest) -> None:
    """Write a backup. What is named and not there any more is left out: it was forgotten meanwhile."""
    with (
        gzip.GzipFile(fileobj=target, mode="wb", compresslevel=1) as zipped,
        tarfile.open(fileobj=zipped, mode="w|") as tar,
    ):
        for name, file in files:
            with contextlib.suppress(FileNotFoundError), file.open("rb") as source:
                manifest.files[name] = _add(tar, name, source, file.stat().st_size)
        content = manifest.model_dump_json(indent=1).encode()
        _add(tar, MANIFEST, io.BytesIO(content), len(content))


def _add(tar: tarfile.TarFile, name: str, source: IO[bytes], size: int) -> Packed:
    info = tarfile.TarInfo(name)
    info.size, info.mode, info.mtime = size, 0o600, int(time.time())
    counted = _Counted(source)
    tar.addfile(info, counted)
    return Packed(bytes=size, sha256=counted.digest.hexdigest())


class _Counted:
    """A file that is read, with the digest of what was read; it takes a breath now and then."""

    def __init__(self, source: IO[bytes]) -> None:
        self.source, self.digest = source, hashlib.sha256()

    def read(self, size: int = -1) -> bytes:
        piece = self.source.read(size)
        self.digest.update(piece)
        time.sleep(BREATH * len(piece) / PIECE)
        return piece


def verify(file: Path, into: Callable[[str], IO[bytes]] | None = None) -> Manifest:
    """Read a whole backup, and compare it with what it says of itself; `into` opens where each file goes.

    Raises BackupUnusable when it is none, was cut short, or was changed.
    """
    found: dict[str, Packed] = {}
    manifest: Manifest | None = None
    try:
        with gzip.open(file) as zipped, tarfile.open(fileobj=zipped, mode="r|") as tar:
            for member in tar:
                source = tar.extractfile(member) if member.isreg() else None
                if source is None or manifest is not None:
                    raise BackupUnusable(f"{file.name} holds something that no backup has ({member.name!r}).")
                if member.name == MANIFEST:
                    manifest = _read_manifest(source.read(50_000_000))
                elif _NAMES.fullmatch(member.name):
                    found[member.name] = _take(source, into(member.name) if into else None)
                else:
                    raise BackupUnusable(f"{file.name} holds something that no backup has ({member.name!r}).")
    except FileNotFoundError as error:
        raise BackupUnusable(f"There is no file {file}.") from error
    except (tarfile.TarError, EOFError, zlib.error, OSError) as error:
        raise BackupUnusable(f"{file.name} cannot be read to its end: it was cut short, or is no backup.") from error
    if manifest is None:
        raise BackupUnusable(f"{file.name} was cut short: its manifest, which comes last, is missing.")
    if found != manifest.files:
        changed = sorted(n for n in {*found, *manifest.files} if found.get(n) != manifest.files.get(n))
        raise BackupUnusable(f"{file.name} is not as it was made: {', '.join(changed[:3])} differs.")
    return manifest


def _take(source: IO[bytes], target: IO[bytes] | None) -> Packed:
    digest, size = hashlib.sha256(), 0
    with target or contextlib.nullcontext():
        while piece := source.read(PIECE):
            digest.update(piece)
            size += len(piece)
            if target is not None:
                target.write(piece)
            else:
                time.sleep(BREATH)
    return Packed(bytes=size, sha256=digest.hexdigest())


def _read_manifest(content: bytes) -> Manifest:
    try:
        manifest = Manifest.model_validate(json.loads(content))
    except (ValueError, ValidationError) as error:
        raise BackupUnusable("Its manifest cannot be read.") from error
    if manifest.format != FORMAT:
        raise BackupUnusable(f"It is of a form that this release does not know ({manifest.format}).")
    return manifest
