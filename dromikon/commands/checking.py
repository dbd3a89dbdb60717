"""`dromikon check`: whether an installation is sound."""

import sqlite3
import sys
from collections.abc import Callable, Iterator
from contextlib import closing

import click

from dromikon import config, start
from dromikon.commands.ready import same_release, say

#: Answers what is wrong; nothing when all is well.
Check = Callable[[], Iterator[str]]


def _databases() -> Iterator[str]:
    for path in (config.database_path(), config.inbox_path()):
        if path.exists():
            with closing(sqlite3.connect(path, timeout=10)) as database:
                said = database.execute("PRAGMA quick_check(3)").fetchall()
            if said != [("ok",)]:
                yield f"{path.name} is not sound: {said[0][0]}. Restore a backup."


def _key() -> Iterator[str]:
    if not start.key_fits():
        yield f"{config.key_file()} is not the key of this data folder."


def _trail() -> Iterator[str]:
    from dromikon.people.audit import first_break

    broken = first_break()
    if broken is not None:
        yield f"The audit trail was changed at entry {broken}."


def _settings() -> Iterator[str]:
    from django.core.checks import run_checks

    for message in run_checks():
        if message.is_serious():
            yield f"{message.msg} ({message.id})"


CHECKS: dict[str, Check] = {"databases": _databases, "key": _key, "audit trail": _trail, "settings": _settings}


@click.command()
def check() -> None:
    """Whether databases, key and audit trail are sound. It may take a while, and stops nothing."""
    same_release()
    troubles = 0
    for name, find in CHECKS.items():
        found = list(find())
        troubles += len(found)
        say(f"{name:<12}  {'ok' if not found else ' '.join(found)}")
    sys.exit(1 if troubles else 0)
