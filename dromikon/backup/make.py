"""Making a backup while everything runs."""

import errno
import os
import sqlite3
import tempfile
import time
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

from dromikon import __version__, config, start
from dromikon.backup.packing import FORMAT, BackupUnusable, Manifest, pack, verify
from dromikon.backup.snapshot import snapshot
from dromikon.clock import now_ms

SUFFIX = ".dromikon"
#: By folder, the table whose files lie there, and what names them.
_FILES = {
    "evidence": ("desk_evidence", "SELECT file FROM desk_evidence WHERE file != ''"),
    "snapshots": ("archive_snapshot", "SELECT file FROM archive_snapshot WHERE file != ''"),
    "cases": (
        "cases_piece",
        "SELECT case_id || '/' || file FROM cases_piece WHERE file != '' "
        "UNION SELECT case_id || '/' || original FROM cases_piece WHERE original != ''",
    ),
}


def folder() -> Path:
    """Where backups are kept when nobody says otherwise (DROMIKON_BACKUPS)."""
    return Path(os.environ.get("DROMIKON_BACKUPS") or config.data() / "backups")


def make_backup(target: Path | None = None, why: str = "") -> Path:
    """Make a backup, verify it, and only then give it its name. Raises BackupUnusable; then nothing is left behind."""
    at = now_ms()
    stamp = time.strftime("%Y%m%dT%H%M%SZ", time.gmtime(at / 1000))
    target = target or folder() / f"dromikon-{stamp}{f'-{why}' if why else ''}{SUFFIX}"
    if target.exists():
        raise BackupUnusable(f"{target} is there already.")
    try:
        target.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        with tempfile.TemporaryDirectory(prefix=".backup-", dir=target.parent) as made:
            part = Path(made) / "part"
            _write(part, Path(made), at)
            verify(part)
            part.replace(target)
    except OSError as error:
        said = "the disk is full" if error.errno == errno.ENOSPC else error.strerror
        raise BackupUnusable(f"No backup was made in {target.parent}: {said}.") from error
    except sqlite3.Error as error:
        said = "the disk is full" if "full" in str(error) else str(error)
        raise BackupUnusable(f"No backup was made: {said}.") from error
    return target


def _write(part: Path, scratch: Path, at: int) -> None:
    # The inbox comes last: then it has everything up to where the other database says that it has come.
    copies = {"dromikon.sqlite3": config.database_path(), "inbox.sqlite3": config.inbox_path()}
    copies = {name: source for name, source in copies.items() if source.exists()}
    for name, source in copies.items():
        snapshot(source, scratch / name)
    manifest = Manifest(
        format=FORMAT,
        release=__version__,
        made_at=at,
        key=start.key_mark(),
        tables=_tables(scratch / "dromikon.sqlite3"),
        files={},
    )
    with part.open("wb") as handle:
        pack(handle, _files(scratch, list(copies)), manifest)
        handle.flush()
        os.fsync(handle.fileno())


def _files(scratch: Path, copies: list[str]) -> Iterator[tuple[str, Path]]:
    for name in copies:
        yield name, scratch / name
    with closing(sqlite3.connect(scratch / "dromikon.sqlite3")) as database:
        there = {name for (name,) in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        for kept, (table, query) in _FILES.items():
            # A database of an earlier release, before it is upgraded, has fewer tables.
            for (file,) in database.execute(query) if table in there else ():
                yield f"{kept}/{file}", config.data() / kept / file
    for path in sorted((config.data() / "lists").glob("*")):
        if path.is_file():
            yield f"lists/{path.name}", path


def _tables(path: Path) -> list[str]:
    """The upgrades that a database has been through."""
    with closing(sqlite3.connect(path)) as database:
        rows = database.execute("SELECT app, name FROM django_migrations ORDER BY id").fetchall()
    return [f"{app}.{name}" for app, name in rows]


def forget_backups(keep: int, why: str) -> list[Path]:
    """Delete all but the youngest `keep` of the backups that were made for one reason. Answers what was deleted."""
    made = sorted(folder().glob(f"dromikon-*-{why}{SUFFIX}"))
    old = made[: max(0, len(made) - keep)]
    for path in old:
        path.unlink(missing_ok=True)
    return old
