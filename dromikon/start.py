"""What every process does before it begins: files are for their owner alone, and what cannot work is one clear line."""

import errno
import fcntl
import hashlib
import hmac
import os
import socket
import sqlite3
from contextlib import closing
from pathlib import Path
from typing import IO

from dromikon import config

#: The exit code of what cannot start and need not be started again (EX_CONFIG of sysexits.h).
NO_USE = 78
_KEY_CHECK = "key.check"


class CannotStart(SystemExit):
    """It cannot work like this; the message is the one line that is shown. Starting again does not help."""

    def __init__(self, message: str) -> None:
        super().__init__(NO_USE)
        self.message = f"Dromikon cannot start: {message}"

    def __str__(self) -> str:
        return self.message


def prepare() -> None:
    """Make sure of the data folder. Raises CannotStart."""
    os.umask(0o077)
    try:
        folder = config.data()
        close_to_others(folder)
        probe = folder / f".probe-{os.getpid()}"
        probe.write_text("")
        probe.unlink()
    except OSError as error:
        raise CannotStart(f"the data folder cannot be written ({error.filename or ''}: {error.strerror}).") from error
    for path in (config.database_path(), config.inbox_path()):
        _check_database(path)


def close_to_others(folder: Path) -> None:
    """What an earlier release left readable by others is closed: folders 0700, files 0600. Once the folder itself is
    closed nobody gets at what is in it, so that its many pictures are not looked through at each start."""
    if not folder.stat().st_mode & 0o077:
        return
    for path in (*folder.rglob("*"), folder):
        wanted = 0o700 if path.is_dir() else 0o600
        try:
            if not path.is_symlink() and path.stat().st_mode & 0o077:
                path.chmod(wanted)
        except FileNotFoundError:
            # A socket or a journal that went just now.
            continue


def _check_database(path: Path) -> None:
    if not path.exists():
        return
    try:
        with closing(sqlite3.connect(path, timeout=5)) as connection:
            connection.execute("SELECT COUNT(*) FROM sqlite_master").fetchone()
    except sqlite3.DatabaseError as error:
        if "locked" not in str(error):
            raise CannotStart(f"the database {path} cannot be read ({error}). Bring back a backup of it.") from error


def check_port(host: str, port: int, what: str) -> None:
    """Whether a port is free to listen on. Raises CannotStart."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    with closing(socket.socket(family, socket.SOCK_STREAM)) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            said = "is in use" if error.errno == errno.EADDRINUSE else f"cannot be used ({error.strerror})"
            raise CannotStart(f"port {port} for {what} {said}. Is it running already?") from error


def hold(name: str, what: str) -> IO[str]:
    """Hold a lock of the data folder for as long as the answer lives. Raises CannotStart when another one does."""
    handle = (config.data() / f"{name}.lock").open("w")
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError as error:
        handle.close()
        raise CannotStart(f"another {what} is at work in {config.data()}.") from error
    return handle


def key_mark() -> str:
    """By what a key is known again, without giving it away."""
    return hmac.new(config.key(), b"dromikon/this-data-folder", hashlib.sha256).hexdigest()


def key_fits() -> bool:
    """Whether the key is the one with which this data folder's secrets are sealed. The first key that comes is it."""
    path = config.data() / _KEY_CHECK
    try:
        return hmac.compare_digest(path.read_text().strip(), key_mark())
    except FileNotFoundError:
        keep_key_mark()
        return True


def keep_key_mark() -> None:
    """From now on this data folder belongs to the key that is in use."""
    path = config.data() / _KEY_CHECK
    path.write_text(key_mark())
    path.chmod(0o600)
