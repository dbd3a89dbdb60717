"""Devices as a table, and how far back recordings go."""

import pytest

from dromikon.keeping.recordings import look_at_recordings
from dromikon.sources.models import Device, Point, Recorder
from dromikon.standins.run import PASSWORD, USER
from tests.conftest import GARDENS

pytestmark = [pytest.mark.django_db, pytest.mark.timeless]


@pytest.fixture
def page(client, as_):
    client.force_login(as_("ines").person)
    return client


def take(page, *lines):
    answer = page.put(f"/api/v1/devices/table?site={GARDENS}", "\r\n".join(lines), "text/csv")
    return answer.status_code, answer.json()


def test_forty_devices_are_taken_in_one_go_and_faulty_lines_are_named(page):
    lines = [
        f"Camera {i},http://192.0.2.{i}/onvif/device_service,look,secret-{i},Boathouse and Lake,yes"
        for i in range(1, 41)
    ]
    lines[4] = "Camera 5,nowhere,look,,,"
    lines[7] = "Camera 8,http://192.0.2.8/onvif/device_service,look,,Attic,"
    lines[9] = lines[8].replace("Camera 9", "Again")
    status, taken = take(page, "name,address,user,password,area,enabled", *lines)
    assert (status, taken["added"]) == (200, 37)
    assert {p["path"]: p["message"].split(":")[0] for p in taken["problems"]} == {
        "6": "address",
        "9": "area",
        "11": "address",
    }
    made = Device.objects.get(name="Camera 3")
    assert (made.password, made.area_id) == ("secret-3", "boathouse")


def test_what_comes_out_goes_in_again_and_passwords_do_not_come_out(page):
    table = page.get(f"/api/v1/devices/table?site={GARDENS}").content.decode()
    assert "heron-blue-17" not in table and "Jetty camera" in table
    status, taken = take(page, *table.splitlines())
    assert (status, taken["added"], taken["changed"], taken["same"]) == (
        200,
        0,
        0,
        Device.objects.filter(site=GARDENS).count(),
    )
    changed = table.replace("Jetty camera", "Camera by the jetty")
    assert take(page, *changed.splitlines())[1]["changed"] == 1
    jetty = Device.objects.get(pk="cam-jetty")
    assert (jetty.name, jetty.password) == ("Camera by the jetty", "heron-blue-17"), (
        "an empty password keeps the one there is"
    )


@pytest.mark.django_db(transaction=True)
def test_a_device_that_is_here_already_is_not_added_by_another_address(page, standins):
    says = {"manufacturer": "Stand-in Optics", "serial": "QG-CAM-0417"}
    Device.objects.filter(pk="cam-jetty").update(address="http://192.0.2.77/onvif/device_service", information=says)
    gate = standins["gate"].replace("127.0.0.1", "localhost")
    status, taken = take(
        page,
        "name,address,user,password",
        f"Again,{standins['jetty']}/onvif/device_service,{USER},{PASSWORD}",
        f"Another,{gate}/onvif/device_service,{USER},{PASSWORD}",
    )
    assert (status, taken["added"]) == (200, 1)
    assert taken["problems"] == [{"path": "2", "message": "address: This is Jetty camera, which is here already."}], (
        "known by its serial number"
    )
    assert Device.objects.get(name="Another").information["serial"] == "QG-CAM-0102"


@pytest.mark.parametrize("head", ["name", "name,address,colour", ""])
def test_what_is_no_such_table_is_refused_as_a_whole(page, head):
    assert take(page, head, "a,b,c")[0] == 422


def test_who_may_not_edit_sources_gets_no_table(client, as_):
    client.force_login(as_("oskar").person)
    assert client.get(f"/api/v1/devices/table?site={GARDENS}").status_code == 403
    assert take(client, "name,address")[0] == 403


@pytest.mark.django_db(transaction=True)
def test_recorders_are_asked_how_far_back_they_go(garden, standins):
    Recorder.objects.update(address=standins["recorder"])
    assert look_at_recordings() == f"{Point.objects.filter(kind='camera').count()} cameras."
    jetty = Point.objects.get(pk="jetty")
    assert jetty.recorded == "continuous" and jetty.recorded_at - jetty.recorded_since > 29 * 86_400_000
    Recorder.objects.update(address="http://127.0.0.1:9")
    with pytest.raises(RuntimeError, match="did not say"):
        look_at_recordings()
    assert Point.objects.get(pk="jetty").recorded == "continuous", "what was known stays"


def test_an_input_that_is_usually_on_is_at_rest_while_it_is_on(bench, page, as_):
    from dromikon.authoring.points import how_points_stand
    from dromikon.clock import now_ms

    Point.objects.filter(pk="leak").update(usually_on=True)
    stands = lambda: how_points_stand(as_("ines").site, Point.objects.filter(pk="leak"), now_ms())["leak"]
    bench.http(kind="input.active", point="leak", phase="begin")
    bench.run()
    assert (stands().present.now, stands().present.on) == ("at rest", False)
    bench.http(kind="input.active", point="leak", phase="end")
    bench.run()
    assert (stands().present.now, stands().present.on) == ("is not on", True)
