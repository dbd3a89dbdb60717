"""Sources: devices are added and changed, points made of what a device offers, and what it can send is told truly."""

import json
import re
from pathlib import Path

import pytest

from dromikon.clock import now_ms
from dromikon.daybook.models import ActRow, EventRow
from dromikon.daybook.tally import tallies
from dromikon.intake import inbox
from dromikon.people.models import AuditEntry, Person
from dromikon.refusals import Refused
from dromikon.sources.models import Device, Point, Recorder, Unclaimed
from dromikon.sources.offers import kinds_of, offered_points
from dromikon.sources.services import adopt_point, save_device
from tests.conftest import GARDENS

pytestmark = pytest.mark.django_db

CATALOGUE = {
    "channels": ["vs0", "vs1"],
    "events": [{"topic": "tns1:RuleEngine/LineDetector/Crossed", "state": False, "source": {}, "data": {}}],
    "detectors": [
        {"name": "Jetty line", "type": "tt:LineDetector", "parameters": {}, "waits": 0.0, "channel": "vsc0"},
        {"name": "Boats", "type": "tt:LoiteringDetector", "parameters": {}, "waits": 12.0, "channel": "view 7"},
    ],
    "inputs": ["1"],
    "relays": ["storm-light", "spare"],
}


def test_a_device_is_added_with_its_secret_sealed_and_rules_hear_of_it(as_):
    before = ActRow.objects.filter(type="facts").count()
    made = save_device(
        as_("ines"),
        None,
        name=" New ",
        address="http://192.0.2.9/onvif/device_service",
        user="u",
        password="p",
        area="boathouse",
    )
    assert (made.name, made.password, made.area_id, made.state) == ("New", "p", "boathouse", "unknown")
    assert ActRow.objects.filter(type="facts").count() == before + 1
    entry = AuditEntry.objects.last()
    assert entry.verb == "added device" and "p" not in entry.detail.values()


def test_a_change_without_a_password_keeps_the_one_that_is_kept(as_):
    device = Device.objects.get(id="cam-gate")
    save_device(as_("ines"), device, name="Gate", address=device.address, user="other", password=None, enabled=False)
    device.refresh_from_db()
    assert (device.user, device.password, device.enabled, device.area_id) == (
        "other",
        "heron-blue-17",
        False,
        "visitor-gate",
    )


@pytest.mark.parametrize(
    ("name", "address", "paths"),
    [
        ("", "http://192.0.2.1/", {"name"}),
        ("a", "ftp://x/", {"address"}),
        ("a", "http://user:secret@x/", {"address"}),
        ("", "nonsense", {"name", "address"}),
    ],
)
def test_what_cannot_be_a_device_is_refused_at_its_place(as_, name, address, paths):
    count = Device.objects.count()
    with pytest.raises(Refused) as refused:
        save_device(as_("ines"), None, name=name, address=address, user="", password=None)
    assert {p.path for p in refused.value.problems} == paths and Device.objects.count() == count


def test_what_a_device_offers_is_made_a_point_once(as_):
    device = Device.objects.get(id="cam-jetty")
    device.catalogue = CATALOGUE
    device.save()
    assert {o["token"] for o in offered_points(device)} == {"vs1", "view 7/Boats", "input/1", "relay/spare"}
    point = adopt_point(as_("ines"), device, "detector", "view 7/Boats", "Boats by the reeds", 12.0)
    assert (point.channel_id, point.waits, point.area_id) == ("jetty", 12.0, "boathouse")
    assert adopt_point(as_("ines"), device, "detector", "view 7/Boats", "again").pk == point.pk
    assert {o["token"] for o in offered_points(device)} == {"vs1", "input/1", "relay/spare"}


def test_a_detector_can_send_what_its_type_reports_and_no_more(garden):
    Device.objects.filter(id="cam-jetty").update(catalogue=CATALOGUE)
    names = lambda point: [k.name for k in kinds_of(Point.objects.select_related("device").get(id=point))]
    assert names("jetty-line") == ["scene.line_crossed"]
    assert names("jetty") == ["device.lost", "device.clock_wrong", "device.changed"], "no motion topic, no motion"
    assert {"scene.line_crossed", "scene.loitering"} < set(names("gate-line")), "what has told nothing yet may be any"
    assert names("gate-help") == ["button.pressed", "button.on"]


def test_last_seen_is_by_point_and_kind(bench):
    at = now_ms() - 60_000
    bench.cross(at=at)
    bench.cross(at=at + 5_000)
    bench.run()
    found = tallies(GARDENS)
    assert {sent: t.last_at for sent, t in found.items()} == {("jetty-line", "scene.line_crossed"): at + 5_000}
    assert sum(found["jetty-line", "scene.line_crossed"].days.values()) == 2


@pytest.fixture
def page(client, garden):
    client.force_login(Person.objects.get(username="ines"))
    return client


def test_the_page_says_what_ails_a_device_and_what_to_do(page):
    Device.objects.filter(id="cam-gate").update(
        state="lost", reason="refused", message="The device refuses the user name or password."
    )
    Device.objects.filter(id="cam-jetty").update(state="online", clock_offset_ms=-4200)
    text = page.get(f"/s/{GARDENS}/sources").content.decode()
    assert "Check user name and password" in text and "1 clock wrong" in text
    assert "off by -4.2 s" in page.get(f"/s/{GARDENS}/sources/device/cam-jetty").content.decode()


def test_unclaimed_messages_stand_with_their_reason_and_harmless(bench, page):
    bench.put(inbox.Message(now_ms(), "http", "garden-gateway", "{}", b"<script>alert(1)</script>"))
    bench.cross(point="no-such-point")
    bench.run()
    text = page.get(f"/s/{GARDENS}/sources").content.decode()
    assert Unclaimed.objects.count() == 2
    assert "no point “no-such-point”" in text and "<script>alert" not in text and "&lt;script&gt;" in text


def test_adopting_over_the_page(page):
    Device.objects.filter(id="cam-jetty").update(catalogue=CATALOGUE)
    post = lambda token: page.post(
        f"/api/v1/devices/cam-jetty/points?site={GARDENS}",
        json.dumps({"token": token}),
        content_type="application/json",
    )
    assert post("vs1").status_code == 201
    assert post("vs1").status_code == 404 and post("gone").status_code == 404
    assert Point.objects.filter(device="cam-jetty", token="vs1", kind="camera").count() == 1


def test_an_adopted_camera_is_joined_to_the_recorder_that_records_it(as_, standins):
    Recorder.objects.update(address=standins["recorder"])
    device = Device.objects.create(id="new", site=as_("ines").site, name="New", address="http://192.0.2.9/")
    from dromikon.standins.world.scenes import CAMERAS

    name, place = next(iter(CAMERAS.items()))
    device.information = {"serial": place.serial}
    device.save()
    point = adopt_point(as_("ines"), device, "camera", "vs0", "Another")
    assert (point.recorder.site_id, point.recorder_channel) == (GARDENS, name)
    unknown = Device.objects.create(
        id="none", site=as_("ines").site, name="None", address="http://192.0.2.8/", information={"serial": "?"}
    )
    assert adopt_point(as_("ines"), unknown, "camera", "vs0", "Unrecorded").recorder is None
    Recorder.objects.update(address="http://127.0.0.1:9")
    assert adopt_point(as_("ines"), device, "camera", "vs1", "Cannot be asked").recorder is None


@pytest.mark.parametrize("address", ["http://[::1/", "http://10.9.8.7/onvif", "http://127.0.0.1.:99999/"])
def test_an_address_that_may_not_be_called_is_no_devices(as_, address):
    with pytest.raises(Refused) as refused:
        save_device(as_("ines"), None, name="x", address=address, user="", password=None)
    assert [p.path for p in refused.value.problems] == ["address"]


def test_the_example_of_the_documentation_works_as_told(bench):
    text = Path("docs/api.md").read_text(encoding="utf-8")
    example = json.loads(re.search(r"```json\n(\{\"kind\".*?\})\n```", text).group(1))
    bench.put(inbox.Message(now_ms(), "http", "garden-gateway", "{}", json.dumps(example).encode()))
    bench.run()
    assert not Unclaimed.objects.exists() and EventRow.objects.get().kind == example["kind"]
