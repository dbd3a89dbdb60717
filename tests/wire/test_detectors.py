"""Detectors of a camera, read and set by our client over a socket, and what they then report."""

import asyncio
from contextlib import asynccontextmanager

import pytest

from dromikon.standins.onvif.camera import StandInCamera
from dromikon.standins.onvif.soap import Account
from dromikon.standins.picture.frame import Studio
from dromikon.standins.run import PASSWORD, USER
from dromikon.standins.world.world import World
from dromikon.wire.onvif import analytics
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.soap import DeviceError


@pytest.fixture
def yard(serve, tmp_path):
    """The yard camera in a world of its own: the world and the address."""
    world = World(journal=tmp_path / "journal.jsonl")
    camera = StandInCamera("yard", Studio(world, tmp_path), "http://127.0.0.1", Account(USER, PASSWORD))
    return world, serve(camera.app())


@asynccontextmanager
async def talking(address):
    client = OnvifDevice(f"{address}/onvif/device_service", USER, PASSWORD)
    await client.measure_clock()
    await client.discover_services()
    yield client
    await client.close()


async def known(client):
    return {d["name"]: d for d in await analytics.detectors(client, await client.profiles())}


async def test_a_detector_is_changed_and_reports_as_it_is_set(yard):
    world, address = yard
    async with talking(address) as client:
        bay = (await known(client))["Loading bay"]
        assert (bay["waits"], bay["parameters"]["ClassFilter"], bay["shapes"][0]["sort"]) == (10.0, "Human", "area")
        changed = {**bay, "parameters": {**bay["parameters"], "TimeThreshold": "PT30S", "ConfidenceLevel": "0.5"}}
        await analytics.write_detector(client, changed)
        now = (await known(client))["Loading bay"]
        assert now["waits"] == 30.0
        for (x, y), (u, v) in zip(now["shapes"][0]["points"], bay["shapes"][0]["points"], strict=True):
            assert abs(x - u) < 0.002 and abs(y - v) < 0.002, "its place on the ground is the same"
    again = World(journal=world._journal)
    at = world.entries[-1].at
    assert [d.threshold for d in again.detectors("yard", at) if d.name == "Loading bay"] == [30]
    assert [d.threshold for d in again.detectors("yard", at - 1) if d.name == "Loading bay"] == [10], "the past stays"


async def test_one_is_made_where_people_walk_and_taken_away_again(yard):
    world, address = yard
    async with talking(address) as client:
        line = (await known(client))["Yard gate line"]
        await analytics.write_detector(client, {**line, "name": "Second line"}, new=True)
        with pytest.raises(DeviceError, match="rule of that name"):
            await analytics.write_detector(client, {**line, "name": "Second line"}, new=True)
        entry = world.provoke("linger", world.entries[-1].at + 1)
        told = world.reports("yard", entry.at, entry.at + 120_000)
        assert {dict(r.source)["Rule"] for r in told if "Line" in r.topic} == {"Yard gate line", "Second line"}
        await analytics.delete_detector(client, {**line, "name": "Second line"})
        assert set(await known(client)) == {"Yard gate line", "Loading bay"}


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"parameters": {"TimeThreshold": "PT9000S"}}, "1 to 600"),
        ({"parameters": {"TimeThreshold": "PT10S", "ClassFilter": "Trolley"}}, "no class Trolley"),
        ({"shapes": [{"sort": "area", "item": "Field", "points": [(0, 0.9), (0.5, 0.9), (0.5, 0.8)]}]}, "horizon"),
        ({"type": "tt:Nonsense"}, "no such type"),
    ],
)
async def test_what_the_device_does_not_take_it_says(yard, change, says):
    _, address = yard
    async with talking(address) as client:
        bay = (await known(client))["Loading bay"]
        with pytest.raises(DeviceError, match=says):
            await analytics.write_detector(client, {**bay, **change})


async def test_only_one_direction_is_told_when_only_one_is_wanted(yard):
    world, address = yard
    async with talking(address) as client:
        line = (await known(client))["Yard gate line"]
        await analytics.write_detector(client, {**line, "parameters": {**line["parameters"], "Direction": "Left"}})
    entry = world.provoke("delivery", world.entries[-1].at + 1)
    await asyncio.sleep(0)
    told = [r for r in world.reports("yard", entry.at, entry.at + 900_000) if "Line" in r.topic]
    assert {dict(r.data)["Direction"] for r in told} == {"Left"}
