"""Settings from the environment, and where things lie."""

import os
import secrets
import shlex
import sqlite3
from contextlib import closing
from functools import lru_cache
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent


def _data_by_default() -> Path:
    """Beside the sources where they are worked on; else where programs of a user keep their data."""
    if (ROOT / "pyproject.toml").is_file():
        return ROOT / "var"
    return Path(os.environ.get("XDG_DATA_HOME", str(Path.home() / ".local" / "share"))) / "dromikon"


def data() -> Path:
    """The data folder (DROMIKON_DATA). A new one is its owner's alone."""
    folder = Path(os.environ.get("DROMIKON_DATA") or _data_by_default())
    if not folder.is_dir():
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    return folder


def trusted_proxies() -> str:
    """Addresses of reverse proxies whose word about the caller's address is taken (DROMIKON_TRUSTED_PROXIES, separated by
    commas); nobody's unless told."""
    return os.environ.get("DROMIKON_TRUSTED_PROXIES", "")


def port() -> int:
    return int(os.environ.get("DROMIKON_PORT", "8000"))


def intake_port() -> int:
    return int(os.environ.get("DROMIKON_INTAKE_PORT", "8010"))


def snmp_port() -> int:
    """Where traps are listened for; 0: nowhere."""
    return int(os.environ.get("DROMIKON_SNMP_PORT", "0"))


def demo_mqtt_port() -> int:
    """Where the demo's broker answers (DROMIKON_MQTT_PORT)."""
    return int(os.environ.get("DROMIKON_MQTT_PORT", "1883"))


def demo_modbus_port() -> int:
    """Where the demo's field device answers (DROMIKON_MODBUS_PORT)."""
    return int(os.environ.get("DROMIKON_MODBUS_PORT", "1502"))


def standins_port() -> int:
    return int(os.environ.get("DROMIKON_STANDINS_PORT", "8100"))


def calls_at_once() -> int:
    """How many calls one host is sent at a time (DROMIKON_CALLS_AT_ONCE)."""
    return max(1, int(os.environ.get("DROMIKON_CALLS_AT_ONCE", "8")))


def clips() -> Path:
    """The folder below which clips may be kept (DROMIKON_CLIPS); beside the data by default."""
    return Path(os.environ.get("DROMIKON_CLIPS") or data() / "clips")


def speech() -> list[str]:
    """The program that speaks texts: it reads one on standard input and writes a WAV file (DROMIKON_SPEECH)."""
    return shlex.split(os.environ.get("DROMIKON_SPEECH") or "espeak-ng --stdout --stdin")


def gateway(way: str) -> str:
    """Where messages are posted when no page says otherwise (DROMIKON_TEXT_GATEWAY, _PUSH_, _CALL_, _CHAT_); empty for nowhere."""
    return os.environ.get(f"DROMIKON_{way.upper()}_GATEWAY", "")


def metrics() -> list[str]:
    """Addresses and networks that may read /metrics without a token (DROMIKON_METRICS)."""
    return [entry.strip() for entry in os.environ.get("DROMIKON_METRICS", "").split(",") if entry.strip()]


def scripts() -> Path | None:
    """The folder of scripts that rules may run (DROMIKON_SCRIPTS); none unless an administrator names one."""
    folder = os.environ.get("DROMIKON_SCRIPTS", "")
    return Path(folder) if folder else None


def locales() -> list[Path]:
    """A folder of further languages (DROMIKON_LOCALES)."""
    folder = os.environ.get("DROMIKON_LOCALES", "")
    return [Path(folder)] if folder else []


def host() -> str:
    """The address to listen on: loopback unless told otherwise."""
    return os.environ.get("DROMIKON_HOST", "127.0.0.1")


def database_path() -> Path:
    return data() / "dromikon.sqlite3"


def database() -> Path:
    """The main database file. A new one is made so that it can give room back later; that must come before its tables
    and needs the write lock, so it is not done at each connection."""
    path = database_path()
    if not path.exists():
        with closing(sqlite3.connect(path)) as connection:
            connection.execute("PRAGMA auto_vacuum=INCREMENTAL")
            connection.execute("VACUUM")
    return path


def inbox_path() -> Path:
    return data() / "inbox.sqlite3"


def key_file() -> Path:
    """Where the key lies (DROMIKON_KEY_FILE): outside the data folder."""
    default = Path(os.environ.get("XDG_CONFIG_HOME", str(Path.home() / ".config"))) / "dromikon" / "secret.key"
    return Path(os.environ.get("DROMIKON_KEY_FILE") or default)


@lru_cache(maxsize=1)
def key() -> bytes:
    """The secret all other secrets are derived from; its file is readable by its owner alone, and made on first use."""
    file = key_file()
    try:
        file.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        handle = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    except FileExistsError:
        return bytes.fromhex(file.read_text().strip())
    with os.fdopen(handle, "w") as opened:
        made = secrets.token_bytes(32)
        opened.write(made.hex())
    return made
