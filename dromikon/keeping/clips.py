"""Clips that rules keep in folders here: they go when their time is over."""

from pathlib import Path

from dromikon import config
from dromikon.clock import now_ms
from dromikon.sites.models import Destination

#: Folders are looked at this often, in ms.
EVERY, DAY = 6 * 3_600_000, 86_400_000


def clips_every() -> int | None:
    """How often old clips are looked for, in ms; never while no folder has a limit."""
    return EVERY if any(days for _, days in _folders()) else None


def forget_clips() -> str:
    """Delete what is older than its folder keeps. Answers how many files went. Raises OSError."""
    root, count = config.clips().resolve(), 0
    for folder, days in _folders():
        where = (root / folder.lstrip("/")).resolve()
        if not days or not where.is_dir() or not where.is_relative_to(root):
            continue
        limit = now_ms() - days * DAY
        for file in _files(where):
            if file.stat().st_mtime * 1000 < limit:
                file.unlink(missing_ok=True)
                count += 1
    return f"{count} clips went" if count else "no clip was old enough"


def _folders() -> list[tuple[str, int]]:
    """Every folder for clips, and for how many days it keeps them (0: for good)."""
    known = Destination.objects.filter(sort="folder", retired_at=None).values_list("settings", flat=True)
    return [(str(s.get("folder", "")), int(s.get("days", 0))) for s in known]


def _files(folder: Path) -> list[Path]:
    """The clips of a folder itself; what lies in folders inside belongs to others."""
    return [
        f for f in folder.iterdir() if f.suffix in (".webm", ".txt", ".part") and f.is_file() and not f.is_symlink()
    ]
