"""The demo: the same supervisor, with the simulated site, its devices and its data."""

import sys

import click

from dromikon import start
from dromikon.commands.ready import with_database


@click.command()
def demo() -> None:
    """Everything, with a made-up site and its past week."""
    with_database()
    held = start.hold("installation", "Dromikon")
    from dromikon.demo.run import run

    try:
        sys.exit(run())
    finally:
        held.close()


@click.command()
def demo_reset() -> None:
    """Forget the demo's data; its next start loads it afresh."""
    with_database()
    held = start.hold("installation", "Dromikon")
    from dromikon.demo.run import reset_and_say

    try:
        sys.exit(reset_and_say())
    finally:
        held.close()


@click.command(hidden=True)
def standins() -> None:
    """The demo's devices alone."""
    start.prepare()
    from dromikon.standins.run import main

    main()
