"""`make demo`: load the site once, then keep web, intake, engine and stand-ins running until Ctrl-C."""

import os
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Iterable
from contextlib import closing
from dataclasses import dataclass, field

from django.core.management import call_command

from dromikon import config, start
from dromikon.demo import load, quillmere
from dromikon.standins.run import ports

PARTS = ("standins", "engine", "intake", "web")
#: Scenery is drawn by one core, and the others are free for whoever looks.
ENVIRONMENT = {"OPENBLAS_NUM_THREADS": "1"}
#: A part that ran shorter than this before it fell is given a pause before its next start, in seconds.
SHORT_LIFE, PAUSE = 5.0, 2.0


@dataclass
class Part:
    """One process and when it was last started."""

    name: str
    process: subprocess.Popen[bytes] | None = None
    started: float = 0.0
    falls: int = field(default=0)

    def start(self) -> None:
        # A session of its own, so that Ctrl-C reaches only the supervisor, which then stops the parts in order.
        command = [sys.executable, "-m", "dromikon", self.name]
        self.process = subprocess.Popen(command, start_new_session=True, env=ENVIRONMENT | os.environ)
        self.started = time.monotonic()

    def stop(self) -> None:
        if self.process and self.process.poll() is None:
            self.process.terminate()

    def fallen(self) -> int | None:
        return self.process.poll() if self.process else None


def run() -> int:
    """Everything under one command. A part that falls is named and started again."""
    where = {"the pages": config.port(), "intake": config.intake_port()}
    where |= {f"the stand-in {name}": port for name, port in ports(config.standins_port()).items()}
    for what, port in where.items():
        start.check_port(config.host() if what in ("the pages", "intake") else "127.0.0.1", port, what)
    call_command("migrate", verbosity=0)
    # The stand-ins all answer on this machine.
    os.environ.setdefault("DROMIKON_OUTGOING", "localhost")
    os.environ.setdefault("DROMIKON_TEXT_GATEWAY", f"http://127.0.0.1:{ports(config.standins_port())['control']}/texts")
    stop = threading.Event()
    for sign in (signal.SIGINT, signal.SIGTERM):
        signal.signal(sign, signal.default_int_handler)
    parts = [Part(name) for name in PARTS]
    try:
        # The stand-ins draw what their cameras see while the past is lived.
        parts[0].start()
        load.load(_say)
        load.set_demo_token(os.environ.get("DROMIKON_DEMO_TOKEN", ""))
        _until_answered(ports(config.standins_port()).values())
        for part in parts[1:]:
            part.start()
        for sign in (signal.SIGINT, signal.SIGTERM):
            signal.signal(sign, lambda *_: stop.set())
        _welcome()
        _until_stopped(parts, stop)
    finally:
        _say("Stopping …")
        for part in reversed(parts):
            part.stop()
        for part in parts:
            _wait_for(part)
    return 0


def _until_stopped(parts: list[Part], stop: threading.Event) -> None:
    while not stop.wait(0.3):
        for part in parts:
            if part.fallen() == start.NO_USE:
                _say(f"!! {part.name} cannot work, for the reason above.")
                stop.set()
            else:
                _look_after(part)


def _until_answered(where: Iterable[int], seconds: float = 10.0) -> None:
    """Wait until the stand-ins listen, so that no session begins with a failure that is none."""
    deadline = time.monotonic() + seconds
    for port in where:
        while time.monotonic() < deadline:
            with closing(socket.socket()) as probe:
                if probe.connect_ex(("127.0.0.1", port)) == 0:
                    break
            time.sleep(0.05)


def _look_after(part: Part) -> None:
    code = part.fallen()
    if code is None:
        return
    part.falls += 1
    _say(f"!! {part.name} fell (exit {code}, time {part.falls}); starting it again.")
    if time.monotonic() - part.started < SHORT_LIFE:
        time.sleep(PAUSE)
    part.start()


def _wait_for(part: Part) -> None:
    if part.process:
        try:
            part.process.wait(6)
        except subprocess.TimeoutExpired:
            part.process.kill()


def _welcome() -> None:
    address = f"http://{config.host()}:{config.port()}"
    control = f"http://127.0.0.1:{ports(config.standins_port())['control']}"
    people = "\n".join(
        f"    {user:<6} {at_gardens.replace('_', ' ')}" for user, _, _, at_gardens, _ in quillmere.PEOPLE
    )
    _say(
        f"\n  Dromikon     {address}\n  Provoke      {control}\n\n  Log in as (password {quillmere.PASSWORD}):\n{people}\n\n"
        "  Ctrl-C stops everything.\n"
    )


def reset_and_say() -> int:
    """`make demo-reset`."""
    load.reset()
    _say(f"Emptied {config.data()}; the next start of the demo loads it afresh.")
    return 0


def _say(text: str) -> None:
    print(text, flush=True)
