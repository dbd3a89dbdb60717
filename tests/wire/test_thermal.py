"""How a thermal camera measures and shows heat: read, set, and told in what it measures from then on."""

import json

import numpy as np
import pytest

from dromikon.core.instants import parse
from dromikon.people.models import AuditEntry
from dromikon.sources.models import Device
from dromikon.standins.picture.frame import Studio
from dromikon.standins.run import PASSWORD, USER
from dromikon.standins.world.heat import Measuring
from dromikon.standins.world.world import World
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.soap import DeviceError
from dromikon.wire.onvif.thermal import read_thermal, write_thermal
from tests.conftest import GARDENS

NOON = parse("2026-11-30T12:00:00Z")


async def reached(address):
    device = OnvifDevice(f"{address}/onvif/device_service", USER, PASSWORD)
    await device.measure_clock()
    await device.discover_services()
    return device


async def test_how_heat_is_measured_is_read_and_set(standins):
    device = await reached(standins["flue"])
    before = await read_thermal(device, ["an eye for light", "vs0"])
    assert before.channel == "vs0"
    assert (before.radiometry.emissivity, before.radiometry.reflected) == (0.95, 21.0)
    assert dict(before.palettes)["ember"] == "Ember"
    wanted = before.radiometry.model_copy(update={"emissivity": 0.6, "distance": 3.5, "palette": "ember"})
    await write_thermal(device, ["vs0"], wanted)
    assert (await read_thermal(device, ["vs0"])).radiometry == wanted
    await write_thermal(device, ["vs0"], before.radiometry)
    with pytest.raises(DeviceError, match="colours"):
        await write_thermal(device, ["vs0"], wanted.model_copy(update={"palette": "mauve"}))
    assert (await read_thermal(device, ["vs0"])).radiometry == before.radiometry, "what is refused sets nothing"
    await device.close()


async def test_a_camera_that_sees_light_measures_no_heat(standins):
    device = await reached(standins["gate"])
    with pytest.raises(DeviceError, match="no thermal service"):
        await read_thermal(device, ["vs0"])
    await device.close()


def test_what_is_told_of_the_emissivity_is_what_a_temperature_becomes():
    assert Measuring().reads(80.0) == pytest.approx(80.0)
    assert Measuring(emissivity=0.5).reads(80.0) > 100, "shiny metal that reads so much is hotter than it looks"
    assert Measuring(emissivity=0.5).reads(21.0) == pytest.approx(21.0), "what is as warm as all around reads the same"


def test_a_camera_that_is_set_otherwise_tells_other_temperatures_and_shows_other_colours(tmp_path):
    world = World()
    heat = lambda: [float(dict(r.data)["MaxTemperature"]) for r in world.reports("flue", NOON, NOON + 3_600_000)]
    before, picture = heat(), Studio(world, tmp_path).frame("flue", NOON)
    world.set_measuring("flue", Measuring(emissivity=0.5, palette="ember"), NOON - 1000)
    assert len(before) > 3 and all(after > was + 5 for after, was in zip(heat(), before, strict=True))
    shown = np.asarray(Studio(world, tmp_path).frame("flue", NOON), float)
    assert np.ptp(np.asarray(picture, float)[:400, :, :], axis=2).mean() < 2, "grey"
    assert np.ptp(shown[:400], axis=2).mean() > 30, "in colours"


@pytest.fixture
def flue(garden, standins):
    device = Device.objects.get(pk="cam-flue")
    device.address = f"{standins['flue']}/onvif/device_service"
    device.catalogue = {
        "channels": ["vs0"],
        "events": [
            {"topic": "tns1:VideoAnalytics/Radiometry/BoxTemperatureReading", "state": False, "source": {}, "data": {}}
        ],
    }
    device.save()
    return device


@pytest.mark.django_db(transaction=True)
def test_it_is_set_over_the_api_by_those_who_may(client, flue):
    address = f"/api/v1/devices/cam-flue/heat?site={GARDENS}"
    put = lambda **more: client.put(
        address, json.dumps({"document": {**document, **more}}), content_type="application/json"
    )
    client.login(username="ines", password="quillmere-demo")
    assert b"data-heat-form" in client.get(f"/s/{GARDENS}/sources/device/cam-flue").content
    document = client.get(address).json()["document"]
    assert put(emissivity=0.8).json()["document"]["emissivity"] == 0.8
    assert AuditEntry.objects.filter(verb="set how heat is measured").count() == 1
    refused = put(emissivity=7)
    assert refused.status_code == 422 and refused.json()["problems"][0]["path"] == "emissivity"
    put(emissivity=0.95)
    client.login(username="oskar", password="quillmere-demo")
    assert client.get(address).status_code == 403 and put().status_code == 403
