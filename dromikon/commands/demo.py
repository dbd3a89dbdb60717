"""The demo: the same supervisor, with the simulated site, its devices and its data."""

import sys

import click

from dromikon import start
from dromikon.commands.ready import alone, with_database


@click.command()
def demo() -> None:
    """Everything, with a made-up site and its past week."""
    with_database()
    from dromikon.demo.run import run

    with alone():
        sys.exit(run())


@click.command()
def demo_reset() -> None:
    """Forget the demo's data; its next start loads it afresh."""
    with_database()
    from dromikon.demo.run import reset_and_say

    with alone():
        sys.exit(reset_and_say())


@click.command(hidden=True)
def standins() -> None:
    """The demo's devices alone."""
    start.prepare()
    from dromikon.standins.run import main

    main()
