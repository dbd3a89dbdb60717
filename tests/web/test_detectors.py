"""Detectors are set from their page: on the device first, and what is shown is what the device has."""

import pytest

from dromikon.people.models import AuditEntry
from dromikon.sources.models import Device
from dromikon.standins.onvif.camera import StandInCamera
from dromikon.standins.onvif.soap import Account
from dromikon.standins.picture.frame import Studio
from dromikon.standins.run import PASSWORD, USER
from dromikon.standins.world.world import World
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.learning import learn
from tests.conftest import NURSERY

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]
BAY = "vsc0/Loading bay"


@pytest.fixture
def yard(serve, tmp_path, client, as_):
    """The yard camera as it has said what it has, and a page of somebody who may set it."""
    camera = StandInCamera("yard", Studio(World(), tmp_path), "http://127.0.0.1", Account(USER, PASSWORD))
    address = f"{serve(camera.app())}/onvif/device_service"

    async def told():
        device = OnvifDevice(address, USER, PASSWORD)
        await device.discover_services()
        found = await learn(device)
        await device.close()
        return found

    import asyncio

    Device.objects.filter(pk="cam-yard").update(address=address, catalogue=asyncio.run(told()))
    client.force_login(as_("ines", NURSERY).person)
    return client


def at(path="detectors"):
    return f"/api/v1/devices/cam-yard/{path}?site={NURSERY}"


def settings(**more):
    return {"TimeThreshold": "25", "ClassFilter": "Human", "ConfidenceLevel": "40", **more}


def shapes():
    detectors = Device.objects.get(pk="cam-yard").catalogue["detectors"]
    return next(d["shapes"] for d in detectors if d["name"] == "Loading bay")


def test_it_is_set_on_the_device_and_read_back(yard):
    answer = yard.put(at(), {"token": BAY, "settings": settings(), "shapes": shapes()}, "application/json")
    assert answer.status_code == 200 and answer.json()["settings"]["TimeThreshold"] == "PT25S"
    device = Device.objects.get(pk="cam-yard")
    kept = next(d for d in device.catalogue["detectors"] if d["name"] == "Loading bay")
    assert kept["waits"] == 25.0 and device.asked_at, "and its session learns the rest"
    assert AuditEntry.objects.last().verb == "set detector"


def test_what_cannot_be_is_told_at_its_place_and_what_the_device_refuses_in_its_words(yard):
    put = lambda **content: yard.put(
        at(), {"token": BAY, "settings": {}, "shapes": shapes(), **content}, "application/json"
    )
    refused = lambda answer: (answer.status_code, answer.json()["problems"][0])
    status, problem = refused(put(settings={"TimeThreshold": "soon"}))
    assert (status, problem["path"]) == (422, "settings.TimeThreshold")
    assert refused(put(settings={"Colour": "red"}))[1]["path"] == "settings.Colour"
    assert refused(put(shapes=[]))[1]["path"] == "shapes"
    status, problem = refused(put(settings={"TimeThreshold": "9000"}))
    assert (status, problem["path"]) == (422, "") and "1 to 600" in problem["message"]
    assert refused(put(token="vsc0/Nothing"))[0] == 422


def test_one_is_made_and_taken_off_again(yard):
    made = yard.post(at(), {"type": "tt:LineDetector", "name": "By the shed"}, "application/json")
    assert made.status_code == 200 and made.json()["token"] == "vsc0/By the shed"
    twice = yard.post(at(), {"type": "tt:LineDetector", "name": "By the shed"}, "application/json")
    assert twice.status_code == 422 and twice.json()["problems"][0]["path"] == "name"
    page = yard.get(f"/s/{NURSERY}/sources/device/cam-yard/detectors").content.decode()
    assert "By the shed" in page and "no point yet" in page
    assert yard.delete(f"{at()}&token=vsc0/By the shed").status_code == 204
    assert [d["name"] for d in Device.objects.get(pk="cam-yard").catalogue["detectors"]] == [
        "Yard gate line",
        "Loading bay",
    ]


def test_who_may_not_set_them_sees_them(yard, as_):
    yard.force_login(as_("oskar", NURSERY).person)
    page = yard.get(f"/s/{NURSERY}/sources/device/cam-yard/detectors").content.decode()
    assert "Loading bay" in page and "Set on the device" not in page and 'name="TimeThreshold"' in page
    assert yard.put(at(), {"token": BAY, "settings": {}, "shapes": []}, "application/json").status_code == 403


def test_a_device_that_does_not_answer_is_told(yard):
    Device.objects.filter(pk="cam-yard").update(address="http://127.0.0.1:9/onvif/device_service")
    answer = yard.put(at(), {"token": BAY, "settings": settings(), "shapes": shapes()}, "application/json")
    assert answer.status_code == 422 and "cannot be reached" in answer.json()["problems"][0]["message"]
