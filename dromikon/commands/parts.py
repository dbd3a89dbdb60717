"""The parts by themselves, for those who look after processes with tools of their own."""

import click

from dromikon import start
from dromikon.commands.ready import with_database


def _warn_of_key(part: str) -> None:
    if not start.key_fits():
        click.echo(
            f"Dromikon {part}: the key file is another one than this data folder was made with; secrets stay closed.",
            err=True,
        )


@click.command(hidden=True)
def web() -> None:
    """Pages and API alone."""
    with_database("web")
    _warn_of_key("web")
    from dromikon import serve

    serve.web()


@click.command(hidden=True)
def intake() -> None:
    """Listeners and device sessions alone."""
    with_database("intake")
    _warn_of_key("intake")
    from dromikon import serve

    serve.intake()


@click.command(hidden=True)
def engine() -> None:
    """Deciding and delivering alone."""
    with_database("engine")
    _warn_of_key("engine")
    from dromikon.engine.main import main

    main()


@click.command(hidden=True)
def scene() -> None:
    """Watching cameras alone."""
    with_database("scene")
    _warn_of_key("scene")
    from dromikon.scene.main import main

    main()


@click.command(hidden=True)
def keeper() -> None:
    """Backups and forgetting alone."""
    with_database("keeper")
    from dromikon.keeping.main import main

    main()
