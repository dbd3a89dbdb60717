"""Whether the tables are those of this release, and bringing them there after a backup."""

from pathlib import Path

from django.apps import apps
from django.conf import settings
from django.core.management import call_command
from django.db import connection, transaction
from django.db.migrations.executor import MigrationExecutor
from django.db.migrations.loader import MigrationLoader
from django.db.migrations.recorder import MigrationRecorder

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
    if not MigrationRecorder(connection).applied_migrations():
        make_tables()
        return None
    kept = make_backup(why="before-upgrade")
    call_command("migrate", verbosity=0, interactive=False)
    return kept


def make_tables() -> None:
    """The tables of a new installation, from the models: where all upgrades lead to, in a tenth of their time. Whoever is
    stopped in the middle of it begins anew, and makes what is missing."""
    before = settings.MIGRATION_MODULES
    settings.MIGRATION_MODULES = {app.label: None for app in apps.get_app_configs()}
    try:
        call_command("migrate", verbosity=0, interactive=False, run_syncdb=True)
    finally:
        settings.MIGRATION_MODULES = before
    write_down_all()


def write_down_all() -> None:
    """The tables are those of this release: no upgrade is needed any more."""
    recorder = MigrationRecorder(connection)
    recorder.ensure_schema()
    with transaction.atomic():
        for app, name in MigrationLoader(connection).graph.nodes:
            recorder.record_applied(app, name)
