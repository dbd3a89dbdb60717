"""What verbs do before they begin."""

from collections.abc import Iterator
from contextlib import contextmanager

import click
import django

from dromikon import logs, start


def with_database(part: str = "") -> None:
    """Make sure of the data folder and set up the models, as a part whose log has a file. Raises CannotStart."""
    start.prepare()
    logs.be(part)
    django.setup()


@contextmanager
def alone() -> Iterator[None]:
    """As the only one that works with this data folder. Raises CannotStart."""
    held = start.hold("installation", "Dromikon")
    try:
        yield
    finally:
        held.close()


def same_release() -> None:
    """The tables must be those of this release. Raises CannotStart when they are of a later one, or not yet upgraded."""
    from dromikon.backup.upgrade import check_release, pending

    with_database()
    check_release()
    if pending():
        raise start.CannotStart("the data folder is of an earlier release. `dromikon migrate` upgrades it.")


def say(text: str) -> None:
    """A line on the console, at once."""
    click.echo(text)
