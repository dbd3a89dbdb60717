"""`python -m dromikon PART`: web, intake, engine, standins, or demo (all of them, with data)."""

import os
import sys

PARTS = ("web", "intake", "engine", "standins", "demo", "demo-reset")


def main(arguments: list[str]) -> int:
    if len(arguments) != 1 or arguments[0] not in PARTS:
        print(f"usage: python -m dromikon {{{'|'.join(PARTS)}}}", file=sys.stderr)
        return 2
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "dromikon.settings")
    part = arguments[0]
    if part == "standins":
        from dromikon.standins.run import main as run_standins

        run_standins()
        return 0
    import django

    django.setup()
    if part == "engine":
        from dromikon.engine.main import main as run_engine

        run_engine()
    elif part in ("web", "intake"):
        from dromikon import serve

        serve.web() if part == "web" else serve.intake()
    else:
        from dromikon.demo.run import reset_and_say, run

        return reset_and_say() if part == "demo-reset" else run()
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
