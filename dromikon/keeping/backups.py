"""Backups as planned: so often, and so many kept."""

from typing import Annotated, ClassVar

from pydantic import Field

from dromikon.backup.make import forget_backups, make_backup
from dromikon.core.rules.controls import Flag, Number, When
from dromikon.core.words import N_
from dromikon.installation.settings import Document, setting

HOUR = 3_600_000
#: The reason by which backups as planned are told from others.
PLANNED = "planned"


class BackupPlan(Document):
    """How often a backup is made, and how many are kept."""

    kept_as: ClassVar[str] = "backups"

    on: Annotated[bool, Flag(N_("Make backups"))] = True
    every_hours: Annotated[
        int, Field(ge=1, le=24 * 31), Number(N_("Every"), unit=N_("hours"), when=When("on", (True,)))
    ] = 24
    keep: Annotated[int, Field(ge=1, le=400), Number(N_("Keep the last"), when=When("on", (True,)))] = 7


def backup_every() -> int | None:
    """Ms between two backups; None when none are made."""
    plan = setting(BackupPlan)
    return plan.every_hours * HOUR if plan.on else None


def back_up() -> str:
    """Make one, and forget those beyond what is kept. Raises BackupUnusable."""
    made = make_backup(why=PLANNED)
    forgotten = forget_backups(setting(BackupPlan).keep, PLANNED)
    size = made.stat().st_size / 1e6
    return f"{made.name}, {size:.1f} MB" + (f"; {len(forgotten)} older ones deleted" if forgotten else "")
