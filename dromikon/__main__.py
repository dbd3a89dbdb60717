"""`python -m dromikon PART`: web, intake, engine, standins, or demo (all of them, with data)."""

import os
import sys

from dromikon import start

PARTS = ("web", "intake", "engine", "standins", "demo", "demo-reset")


def main(arguments: list[str]) -> int:
    if len(arguments) != 1 or arguments[0] not in PARTS:
        print(f"usage: python -m dromikon {{{'|'.join(PARTS)}}}", file=sys.stderr)
        return 2
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "dromikon.settings")
    part = arguments[0]
    start.prepare()
    if part == "standins":
        from dromikon.standins.run import main as run_standins

        run_standins()
        return 0
    import django

    django.setup()
    if not start.key_fits():
        print(
            f"Dromikon {part}: the key file is another one than this data folder was made with; secrets stay closed.",
            file=sys.stderr,
        )
    if part == "engine":
        from dromikon.engine.main import main as run_engine

        run_engine()
    elif part in ("web", "intake"):
        from dromikon import serve

        serve.web() if part == "web" else serve.intake()
    else:
        demo = start.hold("demo", "demo")
        from dromikon.demo.run import reset_and_say, run

        try:
            return reset_and_say() if part == "demo-reset" else run()
        finally:
            demo.close()
    return 0


if __name__ == "__main__":
    try:
        sys.exit(main(sys.argv[1:]))
    except start.CannotStart as error:
        print(error, file=sys.stderr)
        raise
