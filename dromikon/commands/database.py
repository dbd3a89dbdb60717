"""`dromikon migrate`: bring the tables to this release by hand."""

import click

from dromikon import start
from dromikon.commands.ready import alone, say, with_database


@click.command()
def migrate() -> None:
    """Bring the data folder to this release; what there was is kept as a backup first."""
    with_database()
    from dromikon.backup.packing import BackupUnusable
    from dromikon.backup.upgrade import pending, upgrade

    try:
        with alone():
            had_to = pending()
            kept = upgrade()
    except BackupUnusable as error:
        raise start.CannotStart(f"an upgrade needs a backup first. {error}") from error
    say(f"Before the upgrade, a backup was made: {kept}" if kept else "")
    say("The tables are of this release now." if had_to else "The tables are of this release already.")
