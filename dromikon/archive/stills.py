"""Files of stills that are kept: evidence of alarms, and snapshots that rules wanted."""

import contextlib
from pathlib import Path

from dromikon import config
from dromikon.archive.models import Snapshot


def keep_still(folder: str, name: str, picture: bytes) -> None:
    """Write a still whole, or not at all. Raises OSError when the disk cannot take it."""
    path = config.data() / folder / name
    path.parent.mkdir(parents=True, exist_ok=True)
    part = path.with_name(f".{path.name}.part")
    try:
        part.write_bytes(picture)
        part.replace(path)
    except OSError:
        with contextlib.suppress(OSError):
            part.unlink(missing_ok=True)
        raise


def forget_stills(folder: str, names: list[str]) -> None:
    """Delete stills whose rows are gone. A snapshot is named by what it shows, so that another row may still have it."""
    if folder == "snapshots":
        wanted = set(Snapshot.objects.filter(file__in=names).values_list("file", flat=True))
        names = [name for name in names if name not in wanted]
    for name in names:
        path = config.data() / folder / name
        path.unlink(missing_ok=True)
        _tidy(path.parent, config.data() / folder)


def _tidy(folder: Path, above: Path) -> None:
    """A folder goes with its last still."""
    if folder != above:
        with contextlib.suppress(OSError):
            folder.rmdir()
