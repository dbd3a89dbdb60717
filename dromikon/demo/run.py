"""`make demo`: load the site once, then keep web, intake, engine and stand-ins running until Ctrl-C."""

import contextlib
import os
import signal
import socket
import time
from collections.abc import Iterable
from contextlib import closing
from http.client import HTTPConnection

from django.db import OperationalError

from dromikon import config, start
from dromikon.backup.upgrade import upgrade
from dromikon.demo import load, quillmere
from dromikon.records.follow import follow
from dromikon.sites.models import Customer
from dromikon.standins.run import ports
from dromikon.supervisor import Part, look_after, stop_all, told_to_stop

PARTS = ("standins", "engine", "keeper", "scene", "intake", "web")


def run() -> int:
    """Everything under one command. A part that falls is named and started again."""
    for what, (host, port) in _where().items():
        start.check_port(host, port, what)
    upgrade()
    _check_whose()
    # The stand-ins all answer on this machine.
    os.environ.setdefault("DROMIKON_OUTGOING", "localhost")
    os.environ.setdefault("DROMIKON_SNMP_PORT", "1162")
    os.environ.setdefault("DROMIKON_MQTT_PORT", str(config.demo_mqtt_port()))
    os.environ.setdefault("DROMIKON_MODBUS_PORT", str(config.demo_modbus_port()))
    parts = [Part(name) for name in PARTS]
    for sign in (signal.SIGINT, signal.SIGTERM):
        signal.signal(sign, signal.default_int_handler)
    try:
        # The stand-ins draw what their cameras see while the past is lived.
        parts[0].start()
        load.load(_say)
        follow()
        load.set_demo_token(os.environ.get("DROMIKON_DEMO_TOKEN", ""))
        _until_answered(ports(config.standins_port()).values())
        _until_drawn(ports(config.standins_port())["control"])
        with told_to_stop() as stop:
            for part in parts[1:]:
                part.start()
            _welcome()
            return look_after(parts, stop, _say)
    finally:
        _say("Stopping …")
        stop_all(parts)


def _where() -> dict[str, tuple[str, int]]:
    """Every port that the demo listens on: what for, and the address with the port."""
    own = {"the pages": (config.host(), config.port()), "intake": (config.host(), config.intake_port())}
    answering = {
        **ports(config.standins_port()),
        "broker": config.demo_mqtt_port(),
        "field device": config.demo_modbus_port(),
    }
    there = {f"the stand-in {name}": ("127.0.0.1", port) for name, port in answering.items()}
    return own | there


def _check_whose() -> None:
    """The demo is loaded into a data folder of its own. Raises CannotStart."""
    others = Customer.objects.exclude(id=quillmere.CUSTOMER).values_list("name", flat=True).first()
    if others is not None:
        raise start.CannotStart(
            f"{config.data()} belongs to a real installation ({others}). Name another folder for the demo (DROMIKON_DATA)."
        )


def _until_answered(where: Iterable[int], seconds: float = 10.0) -> None:
    """Wait until the stand-ins listen, so that no session begins with a failure that is none."""
    deadline = time.monotonic() + seconds
    for port in where:
        while time.monotonic() < deadline:
            with closing(socket.socket()) as probe:
                if probe.connect_ex(("127.0.0.1", port)) == 0:
                    break
            time.sleep(0.05)


def _until_drawn(port: int, seconds: float = 40.0) -> None:
    """Wait until every camera has a picture, so that the first page is not without."""
    deadline, said = time.monotonic() + seconds, False
    while time.monotonic() < deadline:
        with contextlib.suppress(OSError), closing(HTTPConnection("127.0.0.1", port, timeout=5)) as asking:
            asking.request("GET", "/drawn")
            if asking.getresponse().status == 204:
                return
        if not said:
            _say("The cameras' scenery is being drawn …")
            said = True
        time.sleep(0.3)


def _welcome() -> None:
    address = f"http://{config.host()}:{config.port()}"
    control = f"http://127.0.0.1:{ports(config.standins_port())['control']}"
    people = "\n".join(
        f"    {user:<6} {at_gardens.replace('_', ' ')}" for user, _, _, at_gardens, _ in quillmere.PEOPLE
    )
    _say(
        f"\n  Dromikon     {address}\n  Provoke      {control}\n  Received     {control}/received\n\n  Log in as (password {quillmere.PASSWORD}):\n{people}\n\n"
        "  Ctrl-C stops everything.\n"
    )


def reset_and_say() -> int:
    """`make demo-reset`. A real installation is not the demo's to forget. Raises CannotStart."""
    # A folder that was never migrated has nobody's data.
    with contextlib.suppress(OperationalError):
        _check_whose()
    load.reset()
    _say(f"Emptied {config.data()}; the next start of the demo loads it afresh.")
    return 0


def _say(text: str) -> None:
    print(text, flush=True)
