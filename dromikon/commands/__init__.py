"""The verbs of the command line, a module each group. A verb's module is read only when its verb is asked for."""

from importlib import import_module

import click

from dromikon import __version__

#: verb: the module that has it.
VERBS = {
    "start": "running",
    "demo": "demo",
    "demo-reset": "demo",
    "web": "parts",
    "intake": "parts",
    "engine": "parts",
    "keeper": "parts",
    "scene": "parts",
    "standins": "demo",
    "person": "person",
    "migrate": "database",
    "check": "checking",
    "backup": "backing",
    "restore": "backing",
    "keys": "keys",
}


class Verbs(click.Group):
    """A group whose verbs are looked up in `VERBS`."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(VERBS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        if cmd_name not in VERBS:
            return None
        module = import_module(f"dromikon.commands.{VERBS[cmd_name]}")
        found = [v for v in vars(module).values() if isinstance(v, click.Command) and v.name == cmd_name]
        return found[0]


@click.group(cls=Verbs, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, message="Dromikon %(version)s")
def dromikon() -> None:
    """The central event-to-action rules of a video system.

    Settings come from the environment; see docs/administration.md.
    """
