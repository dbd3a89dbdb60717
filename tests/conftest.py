"""Fixtures: the demo site without its past, an engine on a fresh inbox, stand-ins on real sockets."""

import asyncio
import json
import subprocess
import threading
import time
from collections.abc import Callable
from pathlib import Path

import pytest
import uvicorn
from django.db import connection, transaction
from django.test import TransactionTestCase

from dromikon import config
from dromikon.backup.upgrade import write_down_all
from dromikon.clock import now_ms
from dromikon.core.proofs import FETCHED
from dromikon.demo import load, quillmere
from dromikon.engine.engine import Engine
from dromikon.installation.models import Setting
from dromikon.intake import inbox
from dromikon.people.access import access
from dromikon.people.models import Membership, Person
from dromikon.serving import TimedProtocol
from dromikon.sites.models import Site
from dromikon.sources.models import Intake, Point
from tests import small_site
from tools.ports import free_port, free_ports

GARDENS, NURSERY = quillmere.GARDENS, quillmere.NURSERY


@pytest.fixture(autouse=True)
def _quick_passwords(settings):
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    settings.AXES_ENABLED = False


@pytest.fixture(scope="session")
def django_db_setup(django_db_setup, django_db_blocker):
    """Tables come from the models, so it is written down that all migrations were made."""
    with django_db_blocker.unblock():
        write_down_all()


#: What the framework itself keeps, as it was made with the tables.
KEPT = {"django_content_type", "auth_permission", "django_migrations"}


def empty_tables(case: TransactionTestCase) -> None:
    """Empty what a test has filled. The framework's own way empties every table and makes its own rows anew: a third of a
    second for each test."""
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("PRAGMA defer_foreign_keys=ON")
        for table in set(connection.introspection.table_names(cursor)) - KEPT:
            if cursor.execute(f'SELECT 1 FROM "{table}" LIMIT 1').fetchone():
                cursor.execute(f'DELETE FROM "{table}"')


TransactionTestCase._fixture_teardown = empty_tables

#: The rows of the small site, by table, once it was set up: that takes a third of a second, putting rows back a tenth of it.
_set_up: dict[str, list[tuple]] = {}


@pytest.fixture
def garden(db) -> Site:
    """A small site with a neighbour, as configured an hour ago, with nothing past and rules that know no hour."""
    if not _set_up:
        load.configure(now_ms() - 3_600_000, small_site.RULES)
        # Every reading is told as it comes, and nobody misses one; nothing is fetched.
        Point.objects.update(unit="", deadband=0, at_least_every=0, stale_after=0)
        Intake.objects.filter(proof__in=FETCHED).update(enabled=False)
        # Everybody is on duty, and nothing leads to the demo's stand-ins.
        Membership.objects.update(duty="", quiet="")
        Setting.objects.filter(name__in=("reach", "gateways", "mail")).delete()
        _set_up.update(_all_rows())
    else:
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("PRAGMA defer_foreign_keys=ON")
            for table, rows in _set_up.items():
                marks = ",".join(["%s"] * len(rows[0]))
                cursor.executemany(f"INSERT INTO {table} VALUES ({marks})", rows)
    return Site.objects.get(id=GARDENS)


def _all_rows() -> dict[str, list[tuple]]:
    found = {}
    with connection.cursor() as cursor:
        for table in connection.introspection.django_table_names(only_existing=True):
            if table not in ("django_content_type", "auth_permission"):
                found[table] = cursor.execute(f"SELECT * FROM {table}").fetchall()
    return {table: rows for table, rows in found.items() if rows}


@pytest.fixture
def as_(garden) -> Callable:
    """`as_("oskar")`: that person's access to the Gardens."""
    return lambda user, site=GARDENS: access(Person.objects.get(username=user), site)


class Bench:
    """An engine with an inbox of its own that messages are put into by hand."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / "inbox.sqlite3"
        self.inbox = inbox.connect(self.path)
        self.engine = Engine()
        self.engine.load()

    def put(self, *messages: inbox.Message) -> int:
        return inbox.append(self.inbox, messages)

    def http(self, intake: str = "garden-gateway", at: int | None = None, **content) -> int:
        return self.put(inbox.Message(at or now_ms(), "http", intake, "{}", json.dumps(content).encode()))

    def cross(self, point: str = "jetty-line", at: int | None = None, **fields) -> int:
        known = {"class": "human", "confidence": 90.0, "direction": "in", **fields}
        return self.http(kind="scene.line_crossed", point=point, phase="pulse", fields=known, at=at)

    def run(self) -> None:
        while self.engine.turn():
            pass


@pytest.fixture
def bench(garden, tmp_path, monkeypatch) -> Bench:
    monkeypatch.setattr(config, "inbox_path", lambda: tmp_path / "inbox.sqlite3")
    made = Bench(tmp_path)
    made.run()
    yield made
    made.engine.close()
    made.inbox.close()


class Served:
    """ASGI applications served from a thread."""

    def __init__(self, apps: dict[int, object], **more: object) -> None:
        self.servers = [
            uvicorn.Server(
                uvicorn.Config(
                    app,
                    host="127.0.0.1",
                    port=port,
                    http=TimedProtocol,
                    log_level="error",
                    timeout_graceful_shutdown=0,
                    **more,
                )
            )
            for port, app in apps.items()
        ]
        self.thread = threading.Thread(target=self._run, daemon=True)
        self.thread.start()
        deadline = time.monotonic() + 10
        while not all(s.started for s in self.servers):
            assert self.thread.is_alive() and time.monotonic() < deadline, "a server did not start"
            time.sleep(0.02)

    def _run(self) -> None:
        async def together() -> None:
            for server in self.servers:
                server.install_signal_handlers = lambda: None  # type: ignore[method-assign]
            await asyncio.gather(*(server._serve() for server in self.servers))

        asyncio.run(together())

    def stop(self) -> None:
        for server in self.servers:
            server.should_exit = server.force_exit = True
        self.thread.join(5)


@pytest.fixture
def serve():
    """Serve an application; answers with its address."""
    running = []

    def start(app, port: int = 0) -> str:
        port = port or free_port()
        running.append(Served({port: app}))
        return f"http://127.0.0.1:{port}"

    yield start
    for served in running:
        served.stop()


def certificate(folder, name):
    """A self-signed certificate and its key."""
    cert, key = folder / f"{name}.pem", folder / f"{name}.key"
    made = f"openssl req -x509 -newkey rsa:2048 -nodes -keyout {key} -out {cert} -days 2 -subj /CN={name}"
    subprocess.run(made.split(), check=True, capture_output=True)
    return cert, key


@pytest.fixture
def secured(tmp_path):
    """A stand-in camera by HTTPS: its address and its certificate."""
    cert, key = certificate(tmp_path, "camera")
    from dromikon.standins.onvif.camera import StandInCamera
    from dromikon.standins.onvif.soap import Account
    from dromikon.standins.picture.frame import Studio
    from dromikon.standins.run import PASSWORD, USER
    from dromikon.standins.world.world import World

    port = free_port()
    address = f"https://127.0.0.1:{port}"
    camera = StandInCamera("gate", Studio(World(), tmp_path), address, Account(USER, PASSWORD))
    served = Served({port: camera.app()}, ssl_certfile=str(cert), ssl_keyfile=str(key))
    yield f"{address}/onvif/device_service", cert.read_text()
    served.stop()


@pytest.fixture(scope="session")
def standins(tmp_path_factory):
    """All stand-ins on sockets: name -> address."""
    from dromikon.standins.run import build, ports
    from dromikon.standins.world.world import World

    base = free_ports(max(ports(0).values()) + 1)[0]
    where = ports(base)
    served = Served(
        {where[name]: app for name, app in build(World(), base, tmp_path_factory.mktemp("standins")).items()}
    )
    yield {name: f"http://127.0.0.1:{port}" for name, port in where.items()}
    served.stop()
