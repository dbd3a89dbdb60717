"""Whether the tables are those of this release, and bringing them there after a backup."""

from pathlib import Path

from django.apps import apps
from django.core.management import call_command
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.db.migrations.loader import MigrationLoader

from dromikon import config
from dromikon.backup.make import make_backup
from dromikon.start import CannotStart


def known_upgrades() -> set[str]:
    """Every upgrade that this release knows, as `app.name`."""
    loader = MigrationLoader(None, ignore_no_migrations=True)
    return {f"{app}.{name}" for app, name in loader.disk_migrations} | _replaced(loader)


def _replaced(loader: MigrationLoader) -> set[str]:
    return {f"{app}.{name}" for made in loader.disk_migrations.values() for app, name in made.replaces}


def later_ones(been_through: list[str]) -> list[str]:
    """Those of some upgrades that only a later release can know. What is of an app that is gone does not count."""
    ours = {config.label for config in apps.get_app_configs()}
    known = known_upgrades()
    return [name for name in been_through if name not in known and name.split(".")[0] in ours]


def check_release() -> None:
    """Raise CannotStart when the data folder is of a later release."""
    applied = MigrationLoader(connection, ignore_no_migrations=True).applied_migrations
    later = later_ones([f"{app}.{name}" for app, name in applied])
    if later:
        raise CannotStart(f"the data folder {config.data()} is of a later release ({later[0]}). Install that one.")


def pending() -> bool:
    """Whether the tables are not those of this release yet."""
    executor = MigrationExecutor(connection)
    return bool(executor.migration_plan(executor.loader.graph.leaf_nodes()))


def upgrade() -> Path | None:
    """Bring the tables to this release. What there was is kept as a backup first, which is answered; None when there was
    nothing to keep, or nothing to do. Raises CannotStart, BackupUnusable."""
    check_release()
    if not pending():
        return None
    kept = make_backup(why="before-upgrade") if connection.introspection.table_names() else None
    call_command("migrate", verbosity=0, interactive=False)
    return kept
