"""Bringing a backup back into an empty data folder. What it held ready to be done is not done late."""

import shutil
import sqlite3
import tempfile
from contextlib import closing
from pathlib import Path
from typing import IO

from dromikon import __version__, config, start
from dromikon.backup.packing import BackupUnusable, Manifest, verify
from dromikon.backup.upgrade import later_ones
from dromikon.clock import now_ms

_SAID = "Not sent: it was due when a backup was made, which has been restored since."
#: Releases of outputs never get old, and pictures are still there to be fetched; everything else is not done late. What was
#: being sent once may have been: nobody knows.
_PUT_DOWN = (
    ("UPDATE daybook_step SET status='unconfirmed', done_at=?, answer=? WHERE status='sending' AND delivery='once_only' "
     "AND NOT release"),
    ("UPDATE daybook_step SET status='expired', done_at=?, answer=? WHERE status IN ('due', 'sending') AND NOT release "
     "AND action NOT IN ('evidence', 'snapshot')"),
)  # fmt: skip


def restore(path: Path, *, other_key: bool = False) -> Manifest:
    """Restore a backup into the data folder, which must have no installation in it. With `other_key`, one whose secrets
    this key cannot open: they have to be given again.

    Raises BackupUnusable; then the folder is as it was.
    """
    folder = config.data()
    if _is_used(config.database_path()):
        raise BackupUnusable(f"{folder} has an installation in it. Restore into an empty folder (DROMIKON_DATA).")
    scratch = Path(tempfile.mkdtemp(prefix=".restoring-", dir=folder))
    try:
        manifest = verify(path, lambda name: _new_file(scratch / name))
        _check(manifest, other_key)
        _check_databases(scratch, manifest)
        _put_down(scratch / "dromikon.sqlite3")
        _move(scratch, folder, manifest)
    except sqlite3.Error as error:
        raise BackupUnusable(f"A database in {path.name} cannot be read: {error}.") from error
    finally:
        shutil.rmtree(scratch, ignore_errors=True)
    start.keep_key_mark()
    return manifest


def _is_used(path: Path) -> bool:
    if not path.exists():
        return False
    with closing(sqlite3.connect(path)) as database:
        return bool(database.execute("SELECT COUNT(*) FROM sqlite_master").fetchone()[0])


def _new_file(place: Path) -> IO[bytes]:
    place.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    return place.open("wb")


def _check(manifest: Manifest, other_key: bool) -> None:
    later = later_ones(manifest.tables)
    if later:
        raise BackupUnusable(f"It is of a later release ({manifest.release}); this one is {__version__}.")
    if manifest.key != start.key_mark() and not other_key:
        raise BackupUnusable(
            f"Its secrets are sealed with another key than {config.key_file()}. Put the key there that belongs to it, or "
            "restore with --other-key and give every password and secret again."
        )


def _check_databases(scratch: Path, manifest: Manifest) -> None:
    for name in ("dromikon.sqlite3", "inbox.sqlite3"):
        if name in manifest.files:
            with closing(sqlite3.connect(scratch / name)) as database:
                said = database.execute("PRAGMA quick_check(1)").fetchone()[0]
            if said != "ok":
                raise BackupUnusable(f"Its {name} is not sound: {said}.")


def _put_down(path: Path) -> None:
    with closing(sqlite3.connect(path)) as database, database:
        for statement in _PUT_DOWN:
            database.execute(statement, [now_ms(), _SAID])
        # Whoever was logged in then logs in again.
        database.execute("DELETE FROM django_session")


def _move(scratch: Path, folder: Path, manifest: Manifest) -> None:
    """The main database comes last: a folder without it is still an empty one."""
    for name in sorted(manifest.files, key=lambda n: (n == "dromikon.sqlite3", n)):
        target = folder / name
        target.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        for beside in ("-wal", "-shm"):
            target.with_name(target.name + beside).unlink(missing_ok=True)
        (scratch / name).replace(target)
