"""The scripts folder (DROMIKON_SCRIPTS): what an administrator put there, rules may run by its name."""

import os
from pathlib import Path

from dromikon import config


def find(name: str) -> Path | None:
    """A script that lies in the folder itself and may be run, wherever links and dots would lead."""
    folder = config.scripts()
    if folder is None:
        return None
    path = (folder / name).resolve()
    inside = path.parent == folder.resolve() and path.is_file() and os.access(path, os.X_OK)
    return path if inside else None


def names() -> frozenset[str]:
    """All scripts that may be run now; empty where there is no folder, or it cannot be read."""
    folder = config.scripts()
    try:
        found = [path.name for path in folder.iterdir()] if folder else []
    except OSError:
        return frozenset()
    return frozenset(name for name in found if find(name))
