"""The command `dromikon`; `python -m dromikon` is the same."""

import os
import sys

from dromikon.start import CannotStart


def main() -> None:
    """Do what the command line says. What cannot work is one line, and exit code 78."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "dromikon.settings")
    from dromikon.commands import dromikon

    try:
        dromikon(prog_name="dromikon")
    except CannotStart as error:
        print(error, file=sys.stderr)
        sys.exit(error.code)


if __name__ == "__main__":
    main()
