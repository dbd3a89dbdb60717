"""`dromikon backup` and `dromikon restore`."""

import sys
import time
from pathlib import Path

import click

from dromikon.commands.ready import alone, same_release, say, with_database

#: Exit codes besides 0: the backup cannot be made or used.
UNUSABLE = 1


@click.command()
@click.argument("file", required=False, type=click.Path(path_type=Path, dir_okay=False))
def backup(file: Path | None) -> None:
    """Make a backup into FILE while everything runs, and verify it. Without FILE, into the backups folder."""
    same_release()
    from dromikon.backup.make import make_backup
    from dromikon.backup.packing import BackupUnusable

    try:
        made = make_backup(file, "by-hand")
    except BackupUnusable as error:
        click.echo(error, err=True)
        sys.exit(UNUSABLE)
    say(f"{made} ({made.stat().st_size / 1e6:.1f} MB), verified.")


@click.command()
@click.argument("file", type=click.Path(path_type=Path, dir_okay=False))
@click.option("--other-key", is_flag=True, help="Although the key is another one: secrets have to be given again.")
@click.option("--verify", "only_verify", is_flag=True, help="Only say whether it is whole.")
def restore(file: Path, other_key: bool, only_verify: bool) -> None:
    """Bring the backup FILE back into an empty data folder."""
    with_database()
    from dromikon.backup.packing import BackupUnusable, verify
    from dromikon.backup.restore import restore as bring_back

    try:
        with alone():
            manifest = verify(file) if only_verify else bring_back(file, other_key=other_key)
    except BackupUnusable as error:
        click.echo(error, err=True)
        sys.exit(UNUSABLE)
    made = time.strftime("%Y-%m-%d %H:%M:%S UTC", time.gmtime(manifest.made_at / 1000))
    say(
        f"A backup of {made} by release {manifest.release}, {len(manifest.files)} files, "
        + ("whole." if only_verify else "restored.")
    )
    if not only_verify:
        say("Nothing that was ready to be sent then is sent now. `dromikon start` goes on from there.")
