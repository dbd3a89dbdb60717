"""Cameras that turn, doors that are told, sirens that sound: from an event to the device, read back by a client not ours."""

import asyncio
import sys
import time
from urllib.parse import urlsplit

import pytest
from asgiref.sync import sync_to_async
from django.core.exceptions import PermissionDenied
from onvif import ONVIFCamera
from onvif.definition import SERVICES

from dromikon.authoring.services import save, switch
from dromikon.clock import now_ms
from dromikon.core.rules.actions import Delivery
from dromikon.core.sound import to_mu_law, tones
from dromikon.daybook.holders import release_is_needless
from dromikon.daybook.models import RunRow, Step
from dromikon.daybook.services import record_act
from dromikon.engine.deliver import Deliverers
from dromikon.people.models import AuditEntry
from dromikon.refusals import Refused
from dromikon.setup import changes
from dromikon.setup.registry import SORTS
from dromikon.sources.client import asked
from dromikon.sources.models import Device, Point, Sightline
from dromikon.sources.told import told_of
from dromikon.standins.onvif.camera import StandInCamera
from dromikon.standins.onvif.controller import StandInController
from dromikon.standins.onvif.soap import Account
from dromikon.standins.picture.frame import Studio
from dromikon.standins.run import PASSWORD, USER
from dromikon.standins.world.world import World
from dromikon.wire.onvif.learning import learn
from tests.conftest import GARDENS
from tests.small_site import happens
from tools.ports import free_port

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]
CROSSED = happens("scene.line_crossed", points=[{"id": "jetty-line"}])
EXPECTED = {"lake": "cam-lake", "vault": "cam-vault", "doors": "door-controller"}


@pytest.fixture
def place(garden, serve, tmp_path):
    """`place("lake")`: that stand-in in a world of its own, as the site's device; answers with world and address."""
    studio = Studio(World(), tmp_path)

    def put(name):
        port = free_port()
        address, account = f"http://127.0.0.1:{port}", Account(USER, PASSWORD)
        made = StandInController(studio.world, address, account) if name == "doors" else StandInCamera(name, studio, address, account)  # fmt: skip
        serve(made.app(), port)
        Device.objects.filter(id=EXPECTED[name]).update(address=f"{address}/onvif/device_service", minimum_gap=0)
        return studio.world, address

    return put


@pytest.fixture
def act(bench, as_):
    """Have a rule with some steps answer somebody at the jetty, and carry out what is due; answers with its steps."""
    made = []

    def run(*response, ahead=0):
        Step.objects.all().delete()
        record_act(GARDENS, "facts", now_ms())
        document = {"name": "Steps", "cause": CROSSED, "response": list(response)}
        made.append(save(as_("ines"), document, made[-1] if made else None))
        if len(made) == 1:
            switch(as_("ines"), made[0], True)
        bench.run()
        bench.cross()
        bench.run()
        return deliver(ahead)

    def deliver(ahead=0):
        async def work():
            deliverers = Deliverers(lambda: now_ms() + ahead)
            for _ in range(3):
                await deliverers.look()
                await deliverers.settle()
            await deliverers.close()

        asyncio.run(work())
        return list(Step.objects.filter(action__in=("ptz", "door", "signal")).order_by("id"))

    run.deliver = deliver
    return run


def at_device(address, ask):
    """Ask a device by a client that is not ours."""

    async def run():
        parts = urlsplit(address)
        client = ONVIFCamera(parts.hostname, parts.port, USER, PASSWORD, adjust_time=True)
        await client.update_xaddrs()
        try:
            return await ask(client)
        finally:
            await client.close()

    return asyncio.run(run())


def pan_of(address):
    async def ask(client):
        ptz = await client.create_ptz_service()
        return (await ptz.GetStatus({"ProfileToken": "main"})).Position.PanTilt.x

    return at_device(address, ask)


def learned(id):
    """Have the device say what it has, as its session does."""
    device = Device.objects.get(id=id)
    device.catalogue = asyncio.run(asked(device, learn))
    device.catalogue.pop("information")
    device.save()
    for point in device.points.filter(retired_at=None):
        point.told = told_of(point, device.catalogue)
        point.save()
    return device


def test_a_camera_turns_to_a_preset_and_comes_back(place, act):
    world, address = place("lake")
    presets = learned("cam-lake").catalogue["presets"]
    home, other = presets[0], presets[1]
    lake = {"point": {"id": "lake"}}
    before = pan_of(address)
    [went] = act(
        {"do": "ptz", "camera": lake, "preset": other["name"], "then": "back", "held": 1, "back": home["name"]}
    )
    assert (went.status, went.answer) == ("done", "The device confirmed.") and pan_of(address) != before
    Step.objects.create(
        run=went.run, site=went.site, step=0, action="ptz", target="lake", release=True, lane=went.lane,
        delivery=Delivery.RELEASE.value, payload={"preset": home["name"], "held": False}, due=now_ms(), next_try=now_ms(),
    )  # fmt: skip
    act.deliver()
    assert pan_of(address) == before
    assert [e.value for e in world.entries] == [other["token"], home["token"]]


def test_a_camera_goes_where_it_sees_the_point_and_says_what_it_does_not_know(place, act):
    world, _ = place("lake")
    token = learned("cam-lake").catalogue["presets"][1]["token"]
    Sightline.objects.filter(point="jetty-line").delete()
    Sightline.objects.create(point_id="jetty-line", camera_id="lake", preset=token)
    sight = {"do": "ptz", "to": "sight"}
    gone = {"do": "ptz", "camera": {"point": {"id": "lake"}}, "preset": "Moon"}
    steps = act(sight, {"do": "ptz", "camera": {"point": {"id": "lake"}}, "to": "home"})
    assert [s.status for s in steps] == ["done", "done"] and [e.value for e in world.entries][0] == token
    Point.objects.filter(id="lake").update(told={})
    [failed] = act(gone)
    assert failed.status == "failed" and "knows no position “Moon”; it knows" in failed.answer


def test_doors_are_opened_held_open_and_locked(place, act, monkeypatch):
    space = "http://www.onvif.org/ver10/doorcontrol/wsdl"
    monkeypatch.setitem(
        SERVICES, "doorcontrol", {"ns": space, "wsdl": "doorcontrol.wsdl", "binding": "DoorControlBinding"}
    )
    world, address = place("doors")
    vault = {"point": {"id": "vault-door"}}

    async def mode(client):
        return (await (await client.create_onvif_service("doorcontrol")).GetDoorState({"Token": "vault"})).DoorMode

    [held] = act({"do": "door", "target": vault, "set": "unlock", "stay": True})
    assert held.status == "done" and at_device(address, mode) == "Unlocked"
    [locked] = act({"do": "door", "target": vault, "set": "lock"})
    assert (locked.delivery, locked.status) == ("release", "done") and at_device(address, mode) == "Locked"
    act({"do": "door", "target": vault})
    act({"do": "door", "target": vault, "set": "hold_open", "held": 30})
    assert [e.value for e in world.entries] == ["unlock", "lock", "release", "hold_open"]


def test_light_and_sound_of_a_siren_go_on_and_off_each_for_itself(place, act, bench):
    world, _ = place("vault")
    device = learned("cam-vault")
    assert device.catalogue["relay_times"] == {"siren-light": 300.0, "siren-sound": 45.0}
    steps = act({"do": "signal", "target": {"point": {"id": "vault-siren"}}, "signal": "Hint"})
    assert [(s.payload["output"], s.status) for s in steps] == [("siren-light", "done"), ("siren-sound", "done")]
    bench.engine.clock = lambda: now_ms() + 5_000
    bench.run()
    act.deliver(5_000)
    switched = [(e.name.rpartition("/")[2], e.value) for e in world.entries]
    assert switched == [("siren-light", "on"), ("siren-sound", "on"), ("siren-sound", "off")], (
        "2 s of sound, 8 s of light"
    )
    bench.engine.clock = lambda: now_ms() + 9_000
    bench.run()
    act.deliver(9_000)
    assert [(e.name.rpartition("/")[2], e.value) for e in world.entries][3:] == [("siren-light", "off")]


async def test_a_device_that_is_away_is_tried_again_before_anything_was_sent(garden):
    await Device.objects.filter(id="door-controller").aupdate(
        address=f"http://127.0.0.1:{free_port()}/onvif/device_service"
    )
    now = now_ms()
    one = await Step.objects.acreate(
        run="1.x", site=garden.id, step=0, action="door", target="vault-door", lane="device:door-controller", due=now,
        next_try=now, expires=now + 10_000, delivery=Delivery.ONCE_ONLY.value, payload={"verb": "release", "held": False},
    )  # fmt: skip
    deliverers = Deliverers(now_ms)
    await deliverers.look()
    await deliverers.settle()
    await deliverers.close()
    row = await sync_to_async(Step.objects.get)(pk=one.pk)
    assert (row.status, row.attempts) == ("due", 1) and row.next_try > now


SPEAKS = """#!{python}
import io, sys, wave
text = sys.stdin.read()
with wave.open(sys.stdout.buffer, "wb") as file:
    file.setnchannels(1)
    file.setsampwidth(2)
    file.setframerate(16000)
    file.writeframes(b"\\x10\\x20" * 160 * len(text))
"""


def test_a_signal_and_spoken_words_are_heard_at_the_place(garden, serve, act, tmp_path, monkeypatch):
    heard, port, stream = [], free_port(), free_port()
    address, account = f"http://127.0.0.1:{port}", Account(USER, PASSWORD)
    station = StandInCamera(
        "jetty", Studio(World(), tmp_path), address, account, stream_port=stream, heard=lambda _, s: heard.append(s)
    )
    serve(station.app(), port)
    Device.objects.filter(id="cam-jetty").update(address=f"{address}/onvif/device_service", minimum_gap=0)
    speaker = {"do": "announce", "target": {"point": {"id": "jetty-speaker"}}}

    def announce(**more):
        act({**speaker, **more})
        return Step.objects.get(action="announce")

    one = announce(sound="chime")
    assert (one.status, one.answer) == ("done", "The device confirmed.")
    program = tmp_path / "speaks"
    program.write_text(SPEAKS.format(python=sys.executable))
    program.chmod(0o755)
    monkeypatch.setenv("DROMIKON_SPEECH", str(program))
    assert announce(text="{class} at {point}").status == "done"
    time.sleep(0.2)
    assert [len(s) for s in heard] == [len(to_mu_law(tones("chime"))), 80 * len("human at Jetty line")]
    monkeypatch.setenv("DROMIKON_SPEECH", "/nowhere/speech")
    failed = announce(text="x {class}")
    assert failed.status == "failed" and "/nowhere/speech is not installed" in failed.answer


# -- tests by hand ---------------------------------------------------------------------------------------------------------


def test_a_test_of_a_siren_sounds_for_three_seconds_and_is_written_down(place, act, as_):
    world, _ = place("vault")
    learned("cam-vault")
    [row] = [r for r in SORTS["points"].rows(as_("ines")) if r.id == "vault-siren"]
    assert row.verbs == ("sound",)
    said = changes.do(SORTS["points"], as_("ines"), "vault-siren", "sound").said
    assert "Deliveries" in said
    with pytest.raises(Refused, match="Another test holds it now"):
        changes.do(SORTS["points"], as_("ines"), "vault-siren", "sound")
    act.deliver(3_000)
    switched = [(e.name.rpartition("/")[2], e.value) for e in world.entries]
    assert sorted(switched[:2]) == [("siren-light", "on"), ("siren-sound", "on")]
    assert sorted(switched[2:]) == [("siren-light", "off"), ("siren-sound", "off")]
    on, off = Step.objects.filter(part=0).order_by("release")
    assert off.due - on.due == 3_000 and off.expires is None
    entry = AuditEntry.objects.get(verb="tested")
    assert (entry.subject, entry.detail["command"]) == ("point:vault-siren", "sound")


def test_a_test_lets_go_of_nothing_that_a_rule_holds_or_has_left_on(garden, as_):
    def told(run, **more):
        now = now_ms()
        return Step.objects.create(
            run=run, site=GARDENS, step=0, action="relay", target="storm-light", lane="device:x", due=now, next_try=now,
            status=Step.Status.DONE, done_at=now, delivery=Delivery.ONCE_ONLY.value, **more,
        )  # fmt: skip

    def tried():
        return changes.do(SORTS["points"], as_("ines"), "storm-light", "switch")

    RunRow.objects.create(
        ref="1.held",
        site=GARDENS,
        rule="r",
        rule_name="Storm light",
        revision=1,
        event=1,
        point="",
        at=1,
        zero=1,
        late=False,
    )
    held = told("1.held", payload={"state": "on", "held": True})
    with pytest.raises(Refused, match="“Storm light” holds it now"):
        tried()
    told("1.held", payload={"state": "off"}, release=True)
    tried()
    Step.objects.filter(run__startswith="test-").delete()
    left = told("2.left", payload={"state": "on", "held": False})
    with pytest.raises(Refused, match="Run 2.left has left it on"):
        tried()
    told("3.off", payload={"state": "off", "held": False})
    tried()
    on, off = Step.objects.filter(run__startswith="test-").order_by("release")
    assert (off.due - on.due, on.expires - on.due, off.expires) == (3_000, 5_000, None)
    assert release_is_needless(off) == ""
    left = told("4.left", payload={"state": "on", "held": False})
    assert release_is_needless(off) == f"Run {left.run} has left it on since."
    held = told("5.held", payload={"state": "on", "held": True})
    assert release_is_needless(off) == f"Run {held.run} still holds it."


def test_a_door_is_tried_once_a_camera_turns_home_and_an_operator_may_neither(place, act, as_):
    world, _ = place("doors")
    with pytest.raises(PermissionDenied):
        changes.do(SORTS["points"], as_("oskar"), "vault-door", "open")
    changes.do(SORTS["points"], as_("ines"), "vault-door", "open")
    act.deliver()
    act.deliver(60_000)
    assert [e.value for e in world.entries] == ["release"]
    world, address = place("lake")
    home = learned("cam-lake").catalogue["presets"][0]
    act(
        {
            "do": "ptz",
            "camera": {"point": {"id": "lake"}},
            "preset": learned("cam-lake").catalogue["presets"][1]["name"],
        }
    )
    changes.do(SORTS["points"], as_("ines"), "lake", "home")
    act.deliver()
    assert [e.value for e in world.entries][-1] == home["token"]


def test_what_belongs_to_no_device_or_is_late_is_not_tried(garden, as_):
    Point.objects.filter(id="storm-light").update(device=None)
    with pytest.raises(Refused, match="cannot be done to it now"):
        changes.do(SORTS["points"], as_("ines"), "storm-light", "switch")
