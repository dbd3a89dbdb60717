"""Where messages may go out to, as administrators set it on the page, beside what the environment allows."""

import json
import re
import sqlite3
import time
from contextlib import closing
from ipaddress import ip_network
from typing import Annotated, ClassVar

from django.db import connection
from pydantic import Field, field_validator

from dromikon.core.rules.controls import WordList
from dromikon.core.words import N_
from dromikon.installation.settings import Document

#: For so long an answer of the database is taken for true, in seconds.
REMEMBER = 2.0
_HOST = re.compile(r"[a-z0-9]([a-z0-9.-]{0,250}[a-z0-9])?")


class Outgoing(Document):
    """Hosts that may be called."""

    kept_as: ClassVar[str] = "outgoing"

    allowed: Annotated[
        tuple[str, ...],
        Field(max_length=500),
        WordList(N_("Hosts that may be called"), hint=N_("names, addresses and networks, with commas")),
    ] = ()

    @field_validator("allowed")
    @classmethod
    def _hosts(cls, hosts: tuple[str, ...]) -> tuple[str, ...]:
        for host in hosts:
            if not _is_network(host) and not _HOST.fullmatch(host):
                raise ValueError(f"{host} is no name, address or network, such as gateway.example or 10.20.0.0/16.")
        return hosts


def _is_network(text: str) -> bool:
    try:
        ip_network(text.strip("[]"), strict=False)
    except ValueError:
        return False
    return True


_last: tuple[float, str] = (0.0, "")


def allowed_on_the_page() -> str:
    """The hosts that administrators allow, with commas. It is asked for each connection, also inside event loops, where
    the ORM cannot be asked: so one small read of its own, remembered for a moment."""
    global _last
    if time.monotonic() - _last[0] > REMEMBER:
        _last = time.monotonic(), _read()
    return _last[1]


def forget_what_is_allowed() -> None:
    """Ask the database at once the next time."""
    global _last
    _last = 0.0, ""


def _read() -> str:
    path = connection.settings_dict["NAME"]
    try:
        with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True, timeout=1)) as database:
            row = database.execute("SELECT value FROM installation_setting WHERE name='outgoing'").fetchone()
    except sqlite3.Error:
        return _last[1]
    return ",".join(json.loads(row[0]).get("allowed", ())) if row else ""
