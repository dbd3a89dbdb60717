"""What steps send to outside: managers of SNMP (snmptrapd), systems with a log-in, folders here and by SFTP (asyncssh)."""

import asyncio
import os
import shutil
import subprocess
import time
from pathlib import Path
from threading import Event, Thread

import asyncssh
import pytest
from starlette.applications import Starlette
from starlette.responses import Response
from starlette.routing import Route

from dromikon import config
from dromikon.core.mibs.module import read
from dromikon.core.mibs.names import names_of
from dromikon.core.snmp import own, telling
from dromikon.daybook.models import Step
from dromikon.intake.inbox import Message
from dromikon.keeping.clips import forget_clips
from dromikon.refusals import Refused
from dromikon.setup import changes
from dromikon.setup.destinations import DestinationDocument, save_destination
from dromikon.setup.registry import SORTS
from dromikon.sites.models import Destination
from dromikon.sources.models import Recorder
from dromikon.standins.picture.frame import Studio
from dromikon.standins.recorder import StandInRecorder
from dromikon.standins.run import RECORDER_TOKEN
from dromikon.standins.world.world import World
from dromikon.wire import sftp as wire_sftp
from tests.web.test_messages import fire, work
from tools.ports import free_port

__all__ = ["fire"]
pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]
MIB = Path("docs/DROMIKON-MIB.txt")


@pytest.fixture
def destination(as_):
    """Set up a destination; answers with its id."""
    return lambda **content: save_destination(as_("ines"), None, DestinationDocument(name="There", **content)).id


# -- SNMP ------------------------------------------------------------------------------------------------------------------

USER = "createUser -e {engine} keeper SHA-256 authphrase AES privphrase\n"
ACCESS = "authCommunity log garden\nauthUser log keeper priv\n"


@pytest.fixture
def manager(tmp_path):
    """net-snmp's trap receiver: its port, and what it has logged."""
    port, log = free_port(), tmp_path / "traps.log"
    (tmp_path / "mibs").mkdir()
    shutil.copy(MIB, tmp_path / "mibs")
    ours = "0x80007ed905"
    settings = tmp_path / "snmptrapd.conf"
    # Traps of version 3 are signed by whoever sends: their engine is known beforehand. Informs by the manager's own.
    from dromikon.intake.trap_senders import OurEngine

    sender = "0x" + OurEngine(part=" that tells").name.hex()
    assert sender.startswith(ours)
    own_user = "createUser keeper SHA-256 authphrase AES privphrase\n"
    settings.write_text(own_user + USER.format(engine=sender) + ACCESS)
    command = [
        "/usr/sbin/snmptrapd", "-f", "-Lf", str(log), "-C", "-c", str(settings), "-m", "+DROMIKON-MIB",
        "-M", f"+{tmp_path / 'mibs'}", "-On", "-F", "%P %v\n", f"udp:127.0.0.1:{port}",
    ]  # fmt: skip
    process = subprocess.Popen(command, env={**os.environ, "SNMP_PERSISTENT_DIR": str(tmp_path / "kept")})

    class Manager:
        def __init__(self):
            self.port = port

        def heard(self, word, within=5.0):
            end = time.monotonic() + within
            while time.monotonic() < end:
                text = log.read_text() if log.exists() else ""
                if word in text:
                    return text
                time.sleep(0.05)
            raise AssertionError(f"{word} was not heard: {log.read_text() if log.exists() else 'nothing'}")

    made = Manager()
    made.heard("NET-SNMP version")
    yield made
    process.terminate()
    process.wait()


V2C = {"sort": "snmp", "host": "127.0.0.1", "version": "v2c", "community": "garden"}
V3 = {
    "sort": "snmp",
    "host": "127.0.0.1",
    "version": "v3",
    "user": "keeper",
    "password": "authphrase",
    "privacy": "privphrase",
}


@pytest.mark.parametrize("version", [V2C, V3], ids=["v2c", "v3"])
@pytest.mark.parametrize("inform", [True, False], ids=["inform", "trap"])
def test_a_manager_that_is_not_ours_hears_it_in_the_words_of_our_mib(fire, destination, manager, version, inform):
    there = destination(**version, port=manager.port, inform=inform)
    step = {"do": "snmp", "manager": {"id": there}, "text": "{class} at {point}, näher", "severity": "high"}
    [one] = fire(step)
    assert one.status == "done", one.answer
    assert one.answer == ("127.0.0.1 confirmed." if inform else "Sent; nobody confirms a trap.")
    text = manager.heard(one.run)
    assert f".{own.HAPPENED}" in text and f".{own.object_id('severity')} = INTEGER: " in text
    assert f'.{own.object_id("point")} = STRING: "Jetty line"' in text or "Jetty line" in text


def test_an_inform_that_nobody_confirms_is_tried_again_and_a_wrong_passphrase_is_told(fire, destination, manager):
    nobody = destination(**V2C, port=free_port())
    wrong = destination(**{**V3, "password": "other-phrase"}, port=manager.port)
    steps = fire(
        {"do": "snmp", "manager": {"id": nobody}, "text": "x"}, {"do": "snmp", "manager": {"id": wrong}, "text": "x"}
    )
    assert steps[0].status == "due" and ("did not confirm" in steps[0].answer or "reached" in steps[0].answer)
    assert steps[1].status in ("due", "failed") and "127.0.0.1" in steps[1].answer


def test_variables_of_the_trap_that_came_are_carried_along(bench, as_, destination, manager):
    from dromikon.engine.effects.snmp import _carried

    variable = telling.text("1.3.6.1.4.1.32473.1.7.0", "freezer ajar")
    came = telling.of_version_2c("c", telling.pdu(telling.TRAP, 7, 1.0, "1.3.6.1.4.1.32473.1.0.1", [variable]))
    bench.put(Message(1, "snmp", "supplies", "{}", came))
    assert telling.variables_of(came) == [variable] and telling.variables_of(b"junk") == []
    there = destination(**V2C, port=manager.port)
    from dromikon.daybook.models import EventRow, RunRow
    from dromikon.intake import inbox

    stored = inbox.after(bench.inbox, 0, 10)[-1].id
    now = 1
    EventRow.objects.create(
        seq=1, site="quillmere-gardens", kind="sensor.reading", point="freezer-temp", phase="reading", at=now,
        occurred_at=now, received_at=now, inbox=stored,
    )  # fmt: skip
    RunRow.objects.create(
        ref="1.r", site="quillmere-gardens", rule="r", rule_name="R", revision=1, event=1, point="", at=1, zero=1
    )
    one = Step(run="1.r", site="quillmere-gardens", step=0, action="snmp", target=f"destination:{there}")
    assert _carried(one) == [variable]


def test_our_mib_is_one_that_modules_are_read_by():
    names = names_of(d for module in read(MIB.read_text()) for d in module.definitions)
    for name in own.OBJECTS:
        assert names.of(own.object_id(name)) == (f"dromikon{name.capitalize()}", "0")
    assert names.of(own.HAPPENED) == ("dromikonHappenedNotification", "") and not names.lost
    assert [names.says(own.object_id("severity"), n + 1) for n in range(5)] == list(own.SEVERITIES)


def test_a_test_is_sent_to_a_destination_and_its_secret_never_shown(as_, destination, manager, garden):
    there = destination(**V2C, port=manager.port)
    sort, ines = SORTS["destinations"], as_("ines")
    row = sort.row(ines, there)
    assert "garden" not in row.document.model_dump_json()
    changes.do(sort, ines, there, "test")
    [one] = work()
    assert one.status == "done" and f".{own.TEST}" in manager.heard("1.3.6.1.4.1.32473.54.0.2")
    moved = {**row.document.model_dump(mode="json"), "host": "192.0.2.9"}
    with pytest.raises(Refused, match="community"):
        changes.save(sort, ines, there, moved, row.version)


# -- HTTP ------------------------------------------------------------------------------------------------------------------


@pytest.fixture
def system(serve):
    """A system that wants a log-in; what it was sent."""
    got = []

    async def take(request):
        got.append((request.method, request.url.path, dict(request.headers), (await request.body()).decode()))
        wants = request.url.path.split("/")[1]
        sent = request.headers.get("authorization", "")
        if wants == "digest" and not sent.startswith("Digest"):
            return Response(
                status_code=401,
                headers={"www-authenticate": 'Digest realm="r", nonce="n1", qop="auth", algorithm=SHA-256'},
            )
        return Response(
            "ok: switched" if wants != "moved" else "",
            status_code=200 if wants != "moved" else 307,
            headers={"location": "http://127.0.0.1:9/"},
        )

    address = serve(Starlette(routes=[Route("/{rest:path}", take, methods=["GET", "POST", "PUT", "PATCH", "DELETE"])]))
    return got, address


@pytest.mark.parametrize(
    ("scheme", "more", "begins"),
    [
        ("basic", {"user": "dro"}, "Basic ZHJvOnMzY3JldA=="),
        ("bearer", {}, "Bearer s3cret"),
        ("digest", {"user": "dro"}, 'Digest username="dro"'),
    ],
)
def test_a_call_carries_the_log_in_that_its_destination_keeps(fire, destination, system, scheme, more, begins):
    got, address = system
    there = destination(sort="login", url=f"{address}/{scheme}", scheme=scheme, password="s3cret", **more)
    step = {
        "do": "http", "method": "PATCH", "url": f"{address}/{scheme}/lamp/{{point}}", "login": {"id": there},
        "headers": [{"name": "X-Kind", "value": "{kind}"}], "body": '{"who": "{class}", "say": "a\\"b"}',
        "expected": [200], "contains": "switched",
    }  # fmt: skip
    [one] = fire(step)
    assert one.status == "done", one.answer
    method, path, headers, body = got[-1]
    assert (method, path) == ("PATCH", f"/{scheme}/lamp/Jetty line") and headers["authorization"].startswith(begins)
    assert (
        headers["x-kind"] == "Line crossed"
        and '"who": "human"' in body
        and headers["content-type"] == "application/json"
    )
    assert "s3cret" not in str(one.payload)


def test_a_log_in_goes_nowhere_else_and_an_unexpected_answer_is_a_failure(fire, destination, system):
    got, address = system
    there = destination(sort="login", url=f"{address}/basic", scheme="basic", user="dro", password="s3cret")
    steps = fire(
        {"do": "http", "url": f"{address}/elsewhere", "login": {"id": there}, "method": "GET"},
        {"do": "http", "url": f"{address}/basic/../elsewhere", "login": {"id": there}, "method": "GET"},
        {"do": "http", "url": f"{address}/x", "method": "GET", "contains": "done"},
        {"do": "http", "url": f"{address}/x", "method": "GET", "expected": [204]},
        {"do": "http", "url": f"{address}/moved", "method": "GET"},
    )
    assert [s.status for s in steps] == ["failed"] * 5
    assert "is for" in steps[0].answer and "does not contain" in steps[2].answer and "204 was wanted" in steps[3].answer
    assert not any("authorization" in headers for _, _, headers, _ in got)
    assert "307" in steps[4].answer and len(got) == 3, "no redirect is followed"


def test_a_value_cannot_begin_another_part_of_a_call(fire, system):
    got, address = system
    step = {"do": "http", "url": f"{address}/a?x={{rule}}", "method": "POST", "content": "xml", "body": "<r>{rule}</r>"}
    [one] = fire(step, name='T&y=1"><z/>')
    assert got[-1][3] == "<r>T&amp;y=1&quot;&gt;&lt;z/&gt;</r>" and "y=1" in one.payload["url"].replace("%3D", "=")
    assert "&y" not in one.payload["url"]


# -- clips -----------------------------------------------------------------------------------------------------------------


@pytest.fixture
def recorder(serve, tmp_path, garden):
    made = StandInRecorder(Studio(World(), tmp_path), RECORDER_TOKEN)
    Recorder.objects.update(address=serve(made.app()))


def clip(there):
    return {"do": "clip", "where": {"id": there}, "before": 2, "beyond": 1, "cameras": {"point": {"id": "jetty"}}}


def test_a_clip_is_kept_here_whole_and_once(fire, destination, recorder, monkeypatch, tmp_path):
    monkeypatch.setenv("DROMIKON_CLIPS", str(tmp_path / "clips"))
    [one] = fire(clip(destination(sort="folder", folder="police/2026")), ahead=5_000, name="a/../b: c")
    assert one.status == "done", one.answer
    [file] = (tmp_path / "clips" / "police" / "2026").iterdir()
    assert file.suffix == ".webm" and file.read_bytes()[:4] == b"\x1aE\xdf\xa3" and file.stat().st_size > 1000
    Step.objects.filter(pk=one.pk).update(status="due", next_try=1)
    assert "is there already" in work(6_000)[0].answer


def test_a_full_disk_keeps_no_half_a_clip_and_tries_again(fire, destination, recorder, monkeypatch, tmp_path):
    monkeypatch.setenv("DROMIKON_CLIPS", str(tmp_path / "clips"))
    from dromikon.engine.effects import clip as effect

    def full(file):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(effect, "_settle", full)
    [one] = fire(clip(destination(sort="folder", folder="x")), ahead=5_000)
    assert (one.status, one.answer) == ("due", "The disk is full.") and list((tmp_path / "clips" / "x").iterdir()) == []
    monkeypatch.undo()
    monkeypatch.setattr(config, "clips", lambda: tmp_path / "clips")


def test_old_clips_go_from_a_folder_that_has_a_limit_and_from_no_other(destination, monkeypatch, tmp_path):
    monkeypatch.setenv("DROMIKON_CLIPS", str(tmp_path))
    destination(sort="folder", folder="short", days=30)
    destination(sort="folder", folder="long")
    for folder in ("short", "short/inner", "long"):
        (tmp_path / folder).mkdir(exist_ok=True)
        for name, age in (("old.webm", 40), ("new.webm", 20), ("other.doc", 40)):
            file = tmp_path / folder / name
            file.write_text("x")
            os.utime(file, (time.time() - age * 86_400,) * 2)
    assert forget_clips() == "1 clips went" and not (tmp_path / "short" / "old.webm").exists()
    assert sum(f.is_file() for f in tmp_path.rglob("*")) == 8


@pytest.mark.parametrize("folder", ["../out", "a/../../b", "~/x"])
def test_a_folder_outside_is_refused(destination, folder):
    with pytest.raises(ValueError, match="without"):
        destination(sort="folder", folder=folder)


class Checks(asyncssh.SSHServer):
    def password_auth_supported(self):
        return True

    def validate_password(self, username, password):
        return (username, password) == ("keeper", "moss")


@pytest.fixture
def sftp(tmp_path):
    """A server of SFTP in a thread: its port, key and folder, and the loop that it runs in."""
    folder, key, port = tmp_path / "far", asyncssh.generate_private_key("ssh-ed25519"), free_port()
    folder.mkdir()
    loop, ready, servers = asyncio.new_event_loop(), Event(), []

    async def run():
        servers.append(
            await asyncssh.listen(
                "127.0.0.1", port, server_factory=Checks, server_host_keys=[key],
                sftp_factory=lambda chan: asyncssh.SFTPServer(chan, chroot=str(folder).encode()),
            )
        )  # fmt: skip
        ready.set()
        await servers[0].wait_closed()

    thread = Thread(target=lambda: loop.run_until_complete(run()), daemon=True)
    thread.start()
    assert ready.wait(5)
    yield port, key.export_public_key().decode().strip(), folder, loop
    loop.call_soon_threadsafe(servers[0].close)
    thread.join(5)


def test_a_clip_goes_to_a_server_whose_key_is_known_and_to_no_other(fire, destination, recorder, sftp):
    port, key, folder, _ = sftp
    settings = {"sort": "sftp", "host": "127.0.0.1", "port": port, "user": "keeper", "folder": "clips/garden"}
    good = destination(**settings, password="moss", host_key=key)
    other = asyncssh.generate_private_key("ssh-ed25519").export_public_key().decode().strip()
    strange = destination(**settings, password="moss", host_key=other)
    wrong = destination(**settings, password="weeds", host_key=key)
    steps = fire(clip(good), clip(strange), clip(wrong), ahead=5_000)
    assert steps[0].status == "done", steps[0].answer
    [file] = (folder / "clips" / "garden").iterdir()
    assert file.read_bytes()[:4] == b"\x1aE\xdf\xa3"
    assert steps[1].status == "failed" and "another key" in steps[1].answer
    assert steps[2].status == "failed" and "refuses keeper" in steps[2].answer
    assert Destination.objects.filter(secrets_sealed__contains="moss").count() == 0


async def test_who_is_told_to_stop_in_the_middle_of_a_file_stops_at_once(sftp):
    port, key, folder, loop = sftp
    begun = asyncio.Event()

    async def slowly():
        yield b"x" * 1000
        begun.set()
        await asyncio.sleep(60)
        yield b"y"

    server = wire_sftp.Server("127.0.0.1", port, "keeper", "moss", key)
    task = asyncio.create_task(wire_sftp.keep(server, "a/b.webm", slowly()))
    await asyncio.wait_for(begun.wait(), 10)
    # The server answers no more, as one does that is being switched off.
    still = Event()
    loop.call_soon_threadsafe(still.wait, 10)
    task.cancel()
    done, _ = await asyncio.wait({task}, timeout=2)
    still.set()
    assert done and task.cancelled() and not (folder / "a" / "b.webm").exists()
