"""`dromikon start`: a real installation under one supervisor."""

import sys

import click

from dromikon import config, start
from dromikon.commands.ready import alone, say, with_database

PARTS = ("engine", "keeper", "scene", "intake", "web")


@click.command(name="start")
def start_() -> None:
    """Pages, intake, engine and keeper, until Ctrl-C or SIGTERM."""
    with_database()
    with alone():
        sys.exit(_run())


def _run() -> int:
    from dromikon.backup.packing import BackupUnusable
    from dromikon.backup.upgrade import upgrade
    from dromikon.supervisor import Part, look_after, stop_all, told_to_stop

    start.check_port(config.host(), config.port(), "the pages")
    start.check_port(config.host(), config.intake_port(), "intake")
    try:
        kept = upgrade()
    except BackupUnusable as error:
        raise start.CannotStart(f"an upgrade needs a backup first. {error}") from error
    if kept:
        say(f"The tables were brought to this release; before that, a backup was made: {kept}")
    if not start.key_fits():
        say(f"!! {config.key_file()} is another key than this data folder's; secrets stay closed.")
    _welcome()
    parts = [Part(name) for name in PARTS]
    with told_to_stop() as stop:
        try:
            for part in parts:
                part.start()
            return look_after(parts, stop, say)
        finally:
            say("Stopping …")
            stop_all(parts)


def _welcome() -> None:
    from dromikon.setup.beginning import code_for_beginning

    say(f"Dromikon is at http://{config.host()}:{config.port()}, its data in {config.data()}. Ctrl-C stops it.")
    code = code_for_beginning()
    if code:
        say(f"\n  Nobody can log in yet. Open the page and begin with this code: {code}\n")
