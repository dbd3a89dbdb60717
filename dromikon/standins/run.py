"""All stand-ins in one process, each on a port of its own from DROMIKON_STANDINS_PORT up."""

import asyncio
import contextlib
import logging
import os
import signal
import socket
from collections.abc import Coroutine, Iterator
from pathlib import Path
from typing import Any

import uvicorn
from starlette.applications import Starlette

from dromikon.core.sound import RATE, from_mu_law, to_wave
from dromikon.standins.agents import StandInAgents
from dromikon.standins.broker import StandInBroker
from dromikon.standins.control import Control
from dromikon.standins.devices import NAMES, device_of, title_of
from dromikon.standins.discovery import listen
from dromikon.standins.faces.service import Recogniser
from dromikon.standins.fieldbus import StandInFieldDevice
from dromikon.standins.gateway import StandInGateway
from dromikon.standins.onvif.soap import Account
from dromikon.standins.picture.frame import Studio
from dromikon.standins.place import Place
from dromikon.standins.recorder import StandInRecorder
from dromikon.standins.services.files import Files
from dromikon.standins.services.mailbox import Mailbox
from dromikon.standins.services.manager import Manager
from dromikon.standins.services.portraits import Portraits
from dromikon.standins.services.posts import Posts
from dromikon.standins.services.received import Received
from dromikon.standins.services.shown import Shown
from dromikon.standins.warm import keep_warm
from dromikon.standins.world.scenes import CAMERAS
from dromikon.standins.world.world import World

USER, PASSWORD = "onlooker", "heron-blue-17"
GATEWAY_TOKEN = "garden-gateway-token"
RECORDER_TOKEN = "recorder-of-the-demo-garden"
RECOGNISER_TOKEN = "recogniser-of-the-demo-garden"


def ports(base: int) -> dict[str, int]:
    """Which port each stand-in answers on; the manager of SNMP besides, by UDP (`manager_port`)."""
    return {
        "control": base,
        "recorder": base + 1,
        "doors": base + 2,
        "mail": base + 3,
        "files": base + 4,
        "faces": base + 6,
        **{camera: base + 11 + i for i, camera in enumerate(CAMERAS)},
        **{f"{camera} stream": base + 41 + i for i, camera in enumerate(CAMERAS)},
    }


def manager_port(base: int) -> int:
    """The port of the manager of SNMP."""
    return base + 5


def build(
    world: World, base: int, data: Path, host: str = "127.0.0.1", apart: bool = False, received: Received | None = None
) -> dict[str, Starlette]:
    """Every stand-in as an application, by name. `apart`: scenery is lit in a process of its own, and ahead of time;
    `received`: what outside services were told."""
    studio = Studio(world, data / "scenery", apart=apart)
    if apart:
        keep_warm(studio)
    where = ports(base)
    account = Account(USER, PASSWORD)
    kept = received or Received()

    def heard(camera: str, sound: bytes) -> None:
        samples = from_mu_law(sound)
        title = f"{len(samples) / RATE:.1f} s of sound"
        kept.take("speaker", CAMERAS[camera].title.capitalize(), title, sound=to_wave(samples))

    devices = {
        name: device_of(name, studio, f"http://{host}:{where[name]}", account, where.get(f"{name} stream", 0), heard)
        for name in NAMES
    }

    shown = Shown(world, kept, Files(data / "sftp"), lambda camera, at: studio.jpeg(camera, at, 640))

    def tell() -> None:
        for device in devices.values():
            device.provoked.set()

    return {
        "control": Control(
            world, tell, studio.drawn.is_set, [*Posts(kept).routes(), *shown.routes(), *Portraits().routes()]
        ).app(),
        "faces": Recogniser(RECOGNISER_TOKEN).app(),
        "recorder": _with_studio(StandInRecorder(studio, RECORDER_TOKEN).app(), studio),
        **{name: device.app() for name, device in devices.items()},
    }


def _with_studio(app: Starlette, studio: Studio) -> Starlette:
    """The application that ends the studio with itself."""
    app.state.stop = studio.close
    return app


class _Quiet(uvicorn.Server):
    """One of several servers in a process: signals are the process's business."""

    @contextlib.contextmanager
    def capture_signals(self) -> Iterator[None]:
        yield

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        stop = getattr(getattr(self.config.app, "state", None), "stop", None)
        if stop is not None:
            stop()
        # Pictures that are being drawn for somebody are cut off at the end; that is no news.
        logging.getLogger("uvicorn.error").setLevel(logging.CRITICAL)
        await super().shutdown(sockets)


async def serve(
    base: int, data: Path, host: str = "127.0.0.1", intake: str = "", mqtt: int = 0, modbus: int = 0, snmp: int = 0
) -> None:
    """All of them; with the address of an `intake` the gateway sends there, with ports the broker and the field device
    serve, and agents send their informs to the one for `snmp`."""
    where = ports(base)
    world, received = World(journal=data / "provocations.jsonl"), Received()
    servers = [
        _Quiet(
            uvicorn.Config(
                app, host=host, port=where[name], log_level="warning", access_log=False, timeout_graceful_shutdown=1
            )
        )
        for name, app in build(world, base, data, host, apart=True, received=received).items()
    ]
    names = {name: (title_of(name), f"http://{host}:{where[name]}/onvif/device_service") for name in NAMES}
    discoverable = await listen(names)
    sends: list[Coroutine[Any, Any, None]] = (
        [StandInGateway(world, intake, GATEWAY_TOKEN, Place(data / "gateway.json")).run()] if intake else []
    )
    sends += [
        Mailbox(received).run(where["mail"], host),
        Files(data / "sftp").run(where["files"], host),
        Manager(received).run(manager_port(base), host),
    ]
    if mqtt:
        sends.append(StandInBroker(world, mqtt, host).run())
    if snmp:
        sends.append(StandInAgents(world, snmp, Place(data / "agents.json"), host).run())
    if modbus:
        sends.append(StandInFieldDevice(world, modbus, host).run())
    beside = [asyncio.create_task(s) for s in sends]

    def end() -> None:
        for server in servers:
            server.should_exit = True

    for sign in (signal.SIGTERM, signal.SIGINT):
        asyncio.get_running_loop().add_signal_handler(sign, end)
    await asyncio.gather(*(server.serve() for server in servers))
    for task in beside:
        task.cancel()
    await asyncio.gather(*beside, return_exceptions=True)
    if discoverable is not None:
        discoverable.close()


def main() -> None:
    # Real devices have processors of their own; on a shared machine they must not hold up the product.
    os.nice(10)
    base = int(os.environ.get("DROMIKON_STANDINS_PORT", "8100"))
    data = Path(os.environ.get("DROMIKON_DATA", "var")) / "standins"
    intake = f"http://127.0.0.1:{os.environ.get('DROMIKON_INTAKE_PORT', '8010')}/in/garden-gateway"
    mqtt, modbus, snmp = (int(os.environ.get(f"DROMIKON_{name}_PORT", "0")) for name in ("MQTT", "MODBUS", "SNMP"))
    asyncio.run(serve(base, data, intake=intake, mqtt=mqtt, modbus=modbus, snmp=snmp))
