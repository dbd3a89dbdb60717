"""Signed webhooks that are accepted durably, against a bare Django view and a bare Starlette route that answer 204; each in a process
of its own, sent the same messages by the same sender."""

import asyncio
import base64
import contextlib
import multiprocessing
import os
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from datetime import UTC, datetime
from multiprocessing.synchronize import Event as ProcessEvent
from pathlib import Path

import aiohttp
import uvicorn
from standardwebhooks import Webhook

from bench.report import Result
from tools.ports import free_ports

SENT, CONNECTIONS, ROUNDS = 2_000, 32, 3
SECRET = "whsec_" + base64.b64encode(b"a secret for measuring").decode()
BODY = '{"kind": "input.active", "point": "leak", "phase": "begin", "fields": {"text": "' + "x" * 300 + '"}}'
Signed = tuple[str, dict[str, str]]


def measure() -> Iterator[Result]:
    with tempfile.TemporaryDirectory() as folder:
        ports = free_ports(3)
        rates = {
            name: _rate_of(serve, port, folder, path, expected)
            for (name, serve, path, expected), port in zip(_SERVERS, ports, strict=True)
        }
    ours = rates["ours"]
    said = f"(here {ours:,.0f} a second)"
    yield Result(
        f"signed webhooks accepted, against a bare Django view {said}",
        ours / rates["django"],
        2.0,
        "times",
        at_most=False,
    )
    yield Result(
        f"signed webhooks accepted, against a bare Starlette route {said}",
        ours / rates["starlette"],
        0.3,
        "times",
        at_most=False,
    )


def _rate_of(
    serve: Callable[[int, str, ProcessEvent], None], port: int, folder: str, path: str, expected: int
) -> float:
    """Answers a second, the best of some rounds: whatever else the machine does only takes away."""
    context = multiprocessing.get_context("spawn")
    ready = context.Event()
    process = context.Process(target=serve, args=(port, folder, ready), daemon=True)
    process.start()
    try:
        if not ready.wait(60):
            raise RuntimeError("a server did not start")
        address = f"http://127.0.0.1:{port}{path}"
        return max(asyncio.run(_send(address, list(_signed(n)), expected)) for n in range(ROUNDS))
    finally:
        process.terminate()
        process.join(10)


def _signed(round: int) -> Iterator[Signed]:
    """Messages with a signature each, made before anything is measured."""
    hook, now = Webhook(SECRET), datetime.now(UTC)
    for number in range(SENT):
        id = f"msg_{round}_{number}"
        heads = {
            "webhook-id": id,
            "webhook-timestamp": str(int(now.timestamp())),
            "webhook-signature": hook.sign(id, now, BODY),
        }
        yield id, {**heads, "Content-Type": "application/json"}


async def _send(address: str, messages: Sequence[Signed], expected: int) -> float:
    """Send all of them over some connections at a time; answers a second."""
    left = iter(messages)

    async def sender(session: aiohttp.ClientSession) -> None:
        for _, heads in left:
            async with session.post(address, data=BODY, headers=heads) as answer:
                await answer.read()
                if answer.status != expected:
                    raise RuntimeError(f"answered {answer.status}")

    async with aiohttp.ClientSession(connector=aiohttp.TCPConnector(limit=CONNECTIONS)) as session:
        await _until_heard(session, address)
        began = time.perf_counter()
        await asyncio.gather(*(sender(session) for _ in range(CONNECTIONS)))
        return len(messages) / (time.perf_counter() - began)


async def _until_heard(session: aiohttp.ClientSession, address: str) -> None:
    for _ in range(400):
        with contextlib.suppress(aiohttp.ClientError):
            async with session.get(address) as answer:
                await answer.read()
                return
        await asyncio.sleep(0.05)


def _ours(port: int, folder: str, ready: ProcessEvent) -> None:
    os.environ |= {
        "DROMIKON_DATA": folder,
        "DROMIKON_KEY_FILE": f"{folder}/key",
        "DJANGO_SETTINGS_MODULE": "dromikon.settings",
    }
    import django

    django.setup()
    from django.core.management import call_command

    from dromikon import config
    from dromikon.intake.app import build
    from dromikon.intake.inbox import InboxWriter
    from dromikon.secrets import seal
    from dromikon.serving import TimedProtocol
    from dromikon.sites.models import Customer, Site
    from dromikon.sources.models import Intake

    Path(folder).mkdir(parents=True, exist_ok=True)
    call_command("migrate", verbosity=0)
    site = Site.objects.create(id="s", name="S", customer=Customer.objects.create(id="c", name="C"))
    Intake.objects.create(
        id="hook", site=site, name="Hook", proof="standard", secret_sealed=seal(SECRET), rate=1_000_000
    )
    ready.set()
    app = build(InboxWriter(config.inbox_path()), sessions=False)
    uvicorn.run(app, host="127.0.0.1", port=port, http=TimedProtocol, log_level="error", access_log=False)


def _django(port: int, folder: str, ready: ProcessEvent) -> None:
    from django.conf import settings
    from django.http import HttpRequest, HttpResponse
    from django.urls import path

    def view(request: HttpRequest) -> HttpResponse:
        request.body  # noqa: B018
        return HttpResponse(status=204)

    settings.configure(ROOT_URLCONF=(path("hook", view),), ALLOWED_HOSTS=["*"], SECRET_KEY="bench", MIDDLEWARE=[])
    import django
    from django.core.asgi import get_asgi_application

    django.setup()
    ready.set()
    uvicorn.run(get_asgi_application(), host="127.0.0.1", port=port, log_level="error", access_log=False)


def _starlette(port: int, folder: str, ready: ProcessEvent) -> None:
    from starlette.applications import Starlette
    from starlette.requests import Request
    from starlette.responses import Response
    from starlette.routing import Route

    async def view(request: Request) -> Response:
        await request.body()
        return Response(status_code=204)

    ready.set()
    app = Starlette(routes=[Route("/hook", view, methods=["GET", "POST"])])
    uvicorn.run(app, host="127.0.0.1", port=port, log_level="error", access_log=False)


_SERVERS: tuple[tuple[str, Callable[[int, str, ProcessEvent], None], str, int], ...] = (
    ("ours", _ours, "/in/hook", 202), ("django", _django, "/hook", 204), ("starlette", _starlette, "/hook", 204),
)  # fmt: skip
