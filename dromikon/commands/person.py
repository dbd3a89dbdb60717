"""`dromikon person`: what an administrator does about persons when no page helps."""

import sys

import click

from dromikon.commands.ready import same_release, say


@click.group()
def person() -> None:
    """Create a person, or give one a new password."""
    same_release()


def _password(ctx: click.Context, param: click.Parameter, value: str | None) -> str:
    return value or str(click.prompt("Password", hide_input=True, confirmation_prompt=True))


@person.command()
@click.argument("username")
@click.option("--name", required=True, help="First and last name.")
@click.option("--administrator", is_flag=True, help="May set up the whole installation.")
@click.option("--password", callback=_password, help="Asked for when not given.")
def create(username: str, name: str, administrator: bool, password: str) -> None:
    """Make a person who can log in as USERNAME. Their sites are given on the page *People*."""
    from django.db import transaction

    from dromikon.people.access import Everywhere
    from dromikon.people.services import set_password
    from dromikon.refusals import Refused
    from dromikon.setup.people import Everybody, save_person

    first, _, last = name.partition(" ")
    content = {"username": username, "first_name": first, "last_name": last, "administers": administrator}
    try:
        with transaction.atomic():
            made, _ = save_person(Everywhere(None), None, Everybody().read(content))
            set_password(None, made, password)
    except Refused as refused:
        _give_up([f"{p.path}: {p.message}" for p in refused.problems])
    say(f"{username} can log in.")


@person.command()
@click.argument("username")
@click.option("--password", callback=_password, help="Asked for when not given.")
def password(username: str, password: str) -> None:
    """Give USERNAME a new password. Who is logged in as them is logged out, and a lock is lifted."""
    from dromikon.people.models import Person
    from dromikon.people.services import set_password
    from dromikon.refusals import Refused

    found = Person.objects.filter(username=username).first()
    if found is None:
        _give_up([f"There is nobody called {username}."])
        return
    try:
        set_password(None, found, password)
    except Refused as refused:
        _give_up([p.message for p in refused.problems])
    say(f"{username} has a new password.")


def _give_up(said: list[str]) -> None:
    for line in said:
        click.echo(line, err=True)
    sys.exit(1)
