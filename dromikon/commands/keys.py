"""`dromikon keys`: the key file, and whether what it sealed can be opened."""

import sys

import click

from dromikon import config, start
from dromikon.commands.ready import same_release, say


@click.command()
def keys() -> None:
    """Where the key lies, whether it is this data folder's, and whether every kept secret opens with it."""
    same_release()
    from dromikon.installation.sealed import sealed_fields
    from dromikon.secrets import SealBroken, unseal

    fits = start.key_fits()
    say(f"key file      {config.key_file()}")
    say(f"data folder   {config.data()}: {'its key' if fits else 'made with another key'}")
    closed = 0
    for model, field in sealed_fields():
        for text in model._default_manager.exclude(**{field: ""}).values_list(field, flat=True):
            try:
                unseal(text)
            except SealBroken:
                closed += 1
    say("secrets       " + (f"{closed} cannot be opened with it" if closed else "all open with it"))
    say("Keep a copy of the key file apart from the backups: without it, no secret in them can be opened.")
    sys.exit(0 if fits and not closed else 1)
