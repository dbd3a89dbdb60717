"""Traps at a thousand a second for twenty seconds: how many are kept, and how long an inform waits for its answer meanwhile."""

import asyncio
import multiprocessing
import os
import socket
import tempfile
import time
from collections.abc import Iterator
from multiprocessing.synchronize import Event as ProcessEvent
from pathlib import Path

from pyasn1.codec.ber import encoder
from pysnmp.proto import api

from bench.report import Result, percentile
from dromikon.intake.inbox import after, connect
from tools.ports import free_port

RATE, SECONDS, INFORMS = 1_000, 20, 100
COMMUNITY = "quillmere"
LINK_DOWN, TRAP, UPTIME = (1, 3, 6, 1, 6, 3, 1, 1, 5, 3), (1, 3, 6, 1, 6, 3, 1, 1, 4, 1, 0), (1, 3, 6, 1, 2, 1, 1, 3, 0)


def measure() -> Iterator[Result]:
    with tempfile.TemporaryDirectory() as folder:
        port = free_port()
        context = multiprocessing.get_context("spawn")
        ready = context.Event()
        process = context.Process(target=_serve, args=(port, folder, ready), daemon=True)
        process.start()
        try:
            if not ready.wait(60):
                raise RuntimeError("the listener did not start")
            time.sleep(0.5)
            waits = _send(port)
            kept = _kept(Path(folder) / "inbox.sqlite3", RATE * SECONDS + INFORMS)
        finally:
            process.terminate()
            process.join(10)
    yield Result(
        f"traps kept of {RATE * SECONDS + INFORMS:,} at {RATE:,}/s",
        kept / (RATE * SECONDS + INFORMS),
        1.0,
        at_most=False,
    )
    yield Result("inform to its answer meanwhile, median", percentile(waits, 0.5) * 1000, 20.0, "ms")
    yield Result("inform to its answer meanwhile, 99th", percentile(waits, 0.99) * 1000, 200.0, "ms")


def _send(port: int) -> list[float]:
    """Traps at their rate, and now and then an inform, whose answer is waited for before the next trap."""
    trap, waits = _datagram(inform=False), []
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as sender:
        sender.connect(("127.0.0.1", port))
        sender.settimeout(5)
        began, every = time.perf_counter(), RATE * SECONDS // INFORMS
        for number in range(RATE * SECONDS):
            sender.send(trap)
            if number % every == 0:
                asked = time.perf_counter()
                sender.send(_datagram(inform=True))
                sender.recv(4_096)
                waits.append(time.perf_counter() - asked)
            ahead = began + number / RATE - time.perf_counter()
            if ahead > 0:
                time.sleep(ahead)
    return waits


def _kept(inbox: Path, wanted: int) -> int:
    """How many are in the inbox, once no more come."""
    for _ in range(100):
        count = len(after(connect(inbox), 0, wanted + 1))
        if count >= wanted:
            break
        time.sleep(0.1)
    return count


def _datagram(inform: bool) -> bytes:
    part = api.PROTOCOL_MODULES[api.SNMP_VERSION_2C]
    pdu = part.InformRequestPDU() if inform else part.SNMPv2TrapPDU()
    part.apiPDU.set_defaults(pdu)
    told = [(UPTIME, part.TimeTicks(4711)), (TRAP, part.ObjectIdentifier(LINK_DOWN))]
    part.apiPDU.set_varbinds(pdu, told)
    message = part.Message()
    part.apiMessage.set_defaults(message)
    part.apiMessage.set_community(message, COMMUNITY)
    part.apiMessage.set_pdu(message, pdu)
    return bytes(encoder.encode(message))


def _serve(port: int, folder: str, ready: ProcessEvent) -> None:
    os.environ |= {
        "DROMIKON_DATA": folder,
        "DROMIKON_KEY_FILE": f"{folder}/key",
        "DJANGO_SETTINGS_MODULE": "dromikon.settings",
    }
    import django

    django.setup()
    from django.core.management import call_command

    from dromikon import config
    from dromikon.intake.counting import Counts
    from dromikon.intake.inbox import InboxWriter
    from dromikon.intake.traps import Traps
    from dromikon.secrets import digest_of_token
    from dromikon.sites.models import Customer, Site
    from dromikon.sources.models import Intake

    call_command("migrate", verbosity=0)
    site = Site.objects.create(id="s", name="S", customer=Customer.objects.create(id="c", name="C"))
    digest = digest_of_token(COMMUNITY)
    Intake.objects.create(id="traps", site=site, name="Traps", proof="community", token_digest=digest, rate=100_000)
    ready.set()
    asyncio.run(Traps(InboxWriter(config.inbox_path()), Counts(), port, "127.0.0.1").run())
