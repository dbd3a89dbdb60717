"""The stand-in door controller against a client that is not ours, and against ours."""

import asyncio
from urllib.parse import urlsplit

import pytest
from onvif import ONVIFCamera
from onvif.definition import SERVICES
from onvif.exceptions import ONVIFError
from zeep.exceptions import Fault

from dromikon.core.decoding.onvif import decode
from dromikon.standins.onvif.controller import StandInController
from dromikon.standins.onvif.soap import Account
from dromikon.standins.run import PASSWORD, USER
from dromikon.standins.world.world import World
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.doors import command_door
from dromikon.wire.onvif.learning import learn
from dromikon.wire.onvif.notification import parse_notification
from dromikon.wire.onvif.session import DeviceSession
from dromikon.wire.onvif.soap import DeviceError
from tests.wire.test_onvif_session import Notes, until
from tools.ports import free_port


@pytest.fixture
def controller(serve):
    """A controller in a world of its own: the world and the address."""
    world, port = World(), free_port()
    device = StandInController(world, f"http://127.0.0.1:{port}", Account(USER, PASSWORD))
    return world, serve(device.app(), port)


def ours(address):
    return OnvifDevice(f"{address}/onvif/device_service", USER, PASSWORD)


async def test_a_client_that_is_not_ours_reads_its_doors_and_opens_one(controller, monkeypatch):
    for name, binding in (("doorcontrol", "DoorControlBinding"), ("accesscontrol", "PACSBinding")):
        space = f"http://www.onvif.org/ver10/{name}/wsdl"
        monkeypatch.setitem(SERVICES, name, {"ns": space, "wsdl": f"{name}.wsdl", "binding": binding})
    world, address = controller
    parts = urlsplit(address)
    client = ONVIFCamera(parts.hostname, parts.port, USER, PASSWORD, adjust_time=True)
    await client.update_xaddrs()
    doors = await client.create_onvif_service("doorcontrol")
    first = await doors.GetDoorInfoList({"Limit": 5})
    assert [d.token for d in first.DoorInfo] == ["vault"] and first.NextStartReference == "1"
    assert first.DoorInfo[0].Capabilities.Access is True
    state = await doors.GetDoorState({"Token": "palm"})
    assert state.DoorMode in ("Locked", "Unlocked") and state.DoorPhysicalState in ("Open", "Closed")
    await doors.AccessDoor({"Token": "vault"})
    assert [(e.name, e.value) for e in world.entries] == [("door/vault", "release")]
    with pytest.raises((ONVIFError, Fault), match="no such door"):
        await doors.LockDoor({"Token": "attic"})
    readers = await (await client.create_onvif_service("accesscontrol")).GetAccessPointInfoList({})
    assert readers.AccessPointInfo[0].Entity == "vault"
    await client.close()


async def test_ours_learns_all_pages_and_which_reader_leads_where(controller):
    _, address = controller
    device = ours(address)
    await device.discover_services()
    known = await learn(device)
    await device.close()
    assert [(d["token"], d["access"]) for d in known["doors"]] == [
        ("vault", ["reader-vault"]),
        ("palm", ["reader-palm"]),
        ("turnstile", ["reader-turnstile"]),
    ]
    assert {"release", "hold_open"} <= set(known["doors"][0]["can"])
    assert "channels" not in known and "channels" in known["refused"], "it has no media service"
    assert "tns1:AccessControl/Denied/Credential" in {e["topic"] for e in known["events"]}


async def test_a_door_that_is_released_unlocks_and_locks_again(controller):
    _, address = controller
    notes, device = Notes(), ours(address)
    task = asyncio.create_task(DeviceSession(ours(address), notes).run())
    await until(lambda: notes.healths and len(notes.messages) >= 6)
    await device.measure_clock()
    await device.discover_services()
    await command_door(device, "vault", "release")
    with pytest.raises(DeviceError, match="no such door"):
        await command_door(device, "attic", "lock")
    await device.close()
    said = lambda: [
        n for n in map(parse_notification, notes.messages) if n.operation == "Changed" and "Lock" in n.topic
    ]
    await until(lambda: len(said()) >= 2, 15)
    task.cancel()
    unlocked, locked = said()[:2]
    assert (unlocked.data["State"], locked.data["State"]) == ("Unlocked", "Locked")
    assert 4_900 < locked.device_at - unlocked.device_at < 5_100


async def test_a_forced_door_and_somebody_who_is_let_in_are_told_in_the_standards_words(controller):
    world, _ = controller
    at = 1_795_000_000_000
    world.provoke("force-vault", at)
    world.provoke("enter-vault", at + 120_000)
    told = [decode(r.topic, "", dict(r.source), dict(r.data)) for r in world.door_reports(at, at + 180_000)]
    vault = [(d.kind, d.phase.value) for d in told if d.token in ("door/vault", "access/reader-vault")]
    assert vault[:2] == [("door.forced", "pulse"), ("door.open", "begin")]
    granted = next(d for d in told if d.kind == "access.granted" and d.fields.get("person") == "Clio Fenwright")
    assert granted.fields["card"] == "Q-1043"
    assert ("door.locked", "end") in vault
