"""One temperature at one place of a thermal picture, asked of a camera as the standard allows; and places that are measured for good."""

import json

import numpy as np
import pytest

from dromikon.core.devices.settings import NotSettable, checked_shapes, first_shapes
from dromikon.people.models import AuditEntry
from dromikon.sources.models import Device
from dromikon.standins.onvif.radiometry import EVERY, readings
from dromikon.standins.picture.thermal import covered
from dromikon.standins.world.detectors import Region
from dromikon.wire.onvif.analytics import delete_detector, detector_types, detectors, write_detector
from dromikon.wire.onvif.measuring import measure, spots
from dromikon.wire.onvif.soap import DeviceError
from tests.conftest import GARDENS
from tests.wire.test_thermal import flue, reached  # noqa: F401

#: The middle of the boiler's flue, and a wall, as the camera sees them.
FLUE, WALL = (-0.35, 0.5), (-0.85, 0.5)


async def test_a_place_is_measured_and_nothing_stays_at_the_camera(standins):
    device = await reached(standins["flue"])
    profiles = await device.profiles()
    before = await detectors(device, profiles)
    described = spots(await detector_types(device, profiles))
    hot, cold = await measure(device, described, FLUE), await measure(device, described, WALL)
    assert 15 < cold < 30 and hot > cold + 8, "the flue is warm whatever the burner does"
    assert await detectors(device, await device.profiles()) == before
    with pytest.raises(DeviceError, match="outside"):
        await measure(device, described, (1.4, 0.0))
    assert await detectors(device, await device.profiles()) == before
    await device.close()


async def test_spots_and_lines_are_set_like_areas_and_come_back_as_they_were_drawn(standins):
    device = await reached(standins["flue"])
    profiles = await device.profiles()
    types = {d["name"]: d for d in await detector_types(device, profiles)}
    profile = next(p for p in profiles if p.analytics)
    for type, points in (("so:MeasuredSpot", [(0.1, -0.2)]), ("so:MeasuredLine", [(-0.5, 0.1), (0.5, 0.3)])):
        (shape,) = first_shapes(types[type])
        wanted = {
            "name": f"a {type}", "type": type, "parameters": {}, "waits": 0.0, "channel": profile.video,
            "analytics": profile.analytics, "shapes": [{**shape, "points": points}],
        }  # fmt: skip
        await write_detector(device, wanted, new=True)
        (found,) = [d for d in await detectors(device, profiles) if d["name"] == wanted["name"]]
        assert found["shapes"] == wanted["shapes"]
        await delete_detector(device, wanted)
    await device.close()


def test_a_spot_has_one_place():
    with pytest.raises(NotSettable, match="1"):
        checked_shapes([{"sort": "spot", "item": "Spot", "points": [(0, 0), (0.5, 0)]}])


def test_what_is_measured_is_what_lies_under_the_drawing():
    field = np.full((540, 960), 20.0)
    field[:, 480:] = 60.0
    area = Region("both", ((-0.5, -0.5), (0.5, -0.5), (0.5, 0.5), (-0.5, 0.5)), "heat")
    line = Region("left", ((-0.9, 0.9), (-0.1, -0.9)), "heat along a line")
    spot = Region("right", ((0.5, 0.0),), "heat at a spot")
    assert covered(spot, (960, 540)).sum() == 9
    told = list(readings((area, line, spot), lambda at: field, lambda celsius: celsius, EVERY + 1, 3 * EVERY))
    assert [r.at for r in told] == [2 * EVERY] * 3, "at its own moments only"
    values = {dict(r.data)["ItemID"]: {n: float(v) - 273.15 for n, v in r.data if n != "ItemID"} for r in told}
    assert values["both"]["MaxTemperature"] == pytest.approx(60) and values["both"]["MinTemperature"] == pytest.approx(
        20
    )
    assert values["both"]["AverageTemperature"] == pytest.approx(40, abs=0.2)
    assert values["left"]["MaxTemperature"] == pytest.approx(20) and values["right"] == {
        "SpotTemperature": pytest.approx(60)
    }


@pytest.mark.django_db(transaction=True)
def test_it_is_measured_over_the_api_by_those_who_may(client, flue):  # noqa: F811
    ask = lambda x, y: client.post(
        f"/api/v1/devices/cam-flue/measure?site={GARDENS}",
        json.dumps({"x": x, "y": y}),
        content_type="application/json",
    )
    client.login(username="ines", password="quillmere-demo")
    assert ask(*FLUE).json()["problems"][0]["message"] == "The camera measures no single places."
    described = {
        "name": "so:MeasuredSpot", "topics": ["tns1:VideoAnalytics/Radiometry/SpotTemperatureReading"],
        "parameters": [{"name": "Spot", "type": "Vector"}], "limit": 8,
    }  # fmt: skip
    Device.objects.filter(pk="cam-flue").update(
        catalogue={**flue.catalogue, "detector_types": [described]}, state="online"
    )
    assert b"data-measure" in client.get(f"/s/{GARDENS}/sources/device/cam-flue/detectors").content
    assert ask(*FLUE).json()["celsius"] > 28 and AuditEntry.objects.filter(verb="measured a place").count() == 1
    assert ask(2, 0).status_code == 422
    client.login(username="oskar", password="quillmere-demo")
    assert ask(*FLUE).status_code == 403
