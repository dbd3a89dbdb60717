"""A device that changes is told of, with the rules that it touches; what falls silent and what nobody hears is found."""

import json

import pytest
from asgiref.sync import sync_to_async

from dromikon.authoring.points import how_points_stand
from dromikon.clock import now_ms
from dromikon.daybook.models import EventRow, TallyRow
from dromikon.daybook.tally import DAY, day_of, tallies
from dromikon.intake import inbox
from dromikon.intake.sessions import Running, Sessions, wanted_devices
from dromikon.keeping.classes import forget_tallies
from dromikon.people.models import AuditEntry, Person
from dromikon.refusals import Refused
from dromikon.sources.models import CatalogueChange, Device, Point, SessionLog
from dromikon.sources.services import ask_again, note_changes
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.session import DeviceSession
from tests.conftest import GARDENS
from tests.wire.test_onvif_session import Notes

pytestmark = pytest.mark.django_db

CROSSED = {
    "topic": "tns1:RuleEngine/LineDetector/Crossed",
    "state": False,
    "source": {},
    "data": {"ObjectId": "integer"},
}
LINE = {"name": "Jetty line", "type": "tt:LineDetector", "parameters": {}, "waits": 0.0, "channel": "vsc0"}


def says(**content):
    told = {
        "information": {"manufacturer": "M", "model": "X", "firmware": "1", "serial": "7"},
        "channels": ["vs0"],
        **content,
    }
    return inbox.Message(now_ms(), "catalogue", "cam-jetty", "{}", json.dumps(told).encode())


@pytest.fixture
def jetty(bench, as_):
    """The jetty camera once it has said what it has, and how it says something else."""

    def tell(**content):
        bench.put(says(**content))
        bench.run()
        return Device.objects.get(pk="cam-jetty")

    tell(events=[CROSSED], detectors=[LINE], inputs=["1"])
    return tell


def test_what_a_device_says_first_is_no_change(jetty):
    assert CatalogueChange.objects.count() == 0 and EventRow.objects.filter(kind="device.changed").count() == 0
    assert Device.objects.get(pk="cam-jetty").catalogue_at


def test_an_event_that_is_gone_is_told_with_the_rules_that_listen_to_it(jetty, client, as_):
    jetty(events=[], detectors=[LINE], inputs=["1", "2"])
    told = {(c.part, c.how, c.name) for c in CatalogueChange.objects.all()}
    assert told == {("events", "gone", CROSSED["topic"]), ("inputs", "new", "2")}
    event = EventRow.objects.get(kind="device.changed")
    assert (event.point, event.fields) == ("jetty", {"new": "input 2", "gone": f"event {CROSSED['topic']}"})
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/sources/device/cam-jetty").content.decode()
    assert "What has changed on it" in page and "Somebody on the closed jetty" in page.split("Its points")[0]
    assert "1 device changed" in client.get(f"/s/{GARDENS}/sources").content.decode()


def test_a_point_whose_detector_is_no_longer_on_the_device_says_so(jetty, client, as_):
    client.force_login(as_("ines").person)
    row = lambda: client.get(f"/s/{GARDENS}/sources").content.decode().split("Jetty line")[1].split("</tr>")[0]
    assert "not on the device" not in row()
    jetty(refused={"detectors": "busy"})
    assert "not on the device" not in row(), "what is not told is not gone"
    jetty(detectors=[])
    assert "not on the device" in row()


def test_what_changes_to_and_fro_is_told_once_as_it_is_now(jetty):
    for _ in range(3):
        jetty(events=[CROSSED], detectors=[LINE], inputs=[])
        jetty(events=[CROSSED], detectors=[LINE], inputs=["1"])
    assert [(c.how, c.name) for c in CatalogueChange.objects.all()] == [("new", "1")]


def test_what_it_would_not_tell_this_time_stays(jetty):
    device = jetty(refused={"events": "busy", "detectors": "busy"})
    assert device.catalogue["events"] == [CROSSED] and device.catalogue["detectors"] == [LINE]
    assert [c.part for c in CatalogueChange.objects.all()] == [], "inputs that are not told are not gone either"


def test_a_change_is_noted_by_who_may_and_stands_in_the_audit_trail(jetty, as_, client):
    device = jetty(events=[CROSSED], detectors=[LINE], inputs=[])
    with pytest.raises(Exception, match="may not do this"):
        note_changes(as_("oskar"), device)
    client.force_login(as_("ines").person)
    assert client.post(f"/api/v1/devices/cam-jetty/changes/note?site={GARDENS}").status_code == 204
    assert CatalogueChange.objects.filter(noted_at=None).count() == 0
    assert AuditEntry.objects.last().verb == "noted changes"


def test_one_that_is_asked_again_is_asked_by_its_session(as_, client):
    before = {w.id: w for w in wanted_devices()}["cam-jetty"]
    ask_again(as_("ines"), Device.objects.get(pk="cam-jetty"))
    after = {w.id: w for w in wanted_devices()}["cam-jetty"]
    assert after.asked_at and before.asked_at is None and after.digest == before.digest, "its session is not begun anew"
    Device.objects.filter(pk="cam-jetty").update(enabled=False)
    with pytest.raises(Refused):
        ask_again(as_("ines"), Device.objects.get(pk="cam-jetty"))


class TestTallies:
    def test_counts_are_by_day_and_say_when_last(self, bench):
        at = now_ms() - DAY
        for _ in range(3):
            bench.cross(at=at)
        bench.cross()
        bench.run()
        tally = tallies(GARDENS)["jetty-line", "scene.line_crossed"]
        today = day_of(now_ms())
        assert tally.days == {today - 1: 3, today: 1} and tally.recent(today)[-2:] == [3, 1]

    def test_old_days_go_and_the_last_one_stays(self, garden):
        today = day_of(now_ms())
        for point, days in (("jetty-line", (100, 90, 2)), ("gate-line", (300, 200))):
            for ago in days:
                TallyRow.objects.create(
                    site=GARDENS, point=point, kind="scene.line_crossed", day=today - ago, count=1, last_at=1
                )
        assert sum(forget_tallies()) == 3
        left = set(TallyRow.objects.values_list("point", "day"))
        assert left == {("jetty-line", today - 2), ("gate-line", today - 200)}


def test_a_point_says_how_it_is_what_it_sends_and_who_listens(bench, as_):
    bench.http(kind="sensor.reading", point="wind", phase="reading", fields={"value": 4.25, "unit": "m/s"})
    bench.cross()
    bench.run()
    site = as_("ines").site
    found = how_points_stand(site, Point.objects.filter(site=site, retired_at=None).select_related("device"), now_ms())
    line = found["jetty-line"]
    assert {"jetty-closed", "jetty-geese"} <= line.rules and line.sends[0].count == 1 and not line.sends[0].unheard
    assert found["wind"].present.now == "4.2 m/s"
    assert [s.kind.name for s in found["storm-light"].sends] == ["output.active"], "its device has told nothing yet"
    assert found["gate-help"].sends[0].last_at == 0


def test_what_comes_and_no_rule_hears_is_marked_and_so_is_what_fell_silent(bench, client, as_):
    today = day_of(now_ms())
    for day in range(today - 12, today - 3):
        TallyRow.objects.create(site=GARDENS, point="palm-door", kind="door.open", day=day, count=6, last_at=day * DAY)
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/sources").content.decode()
    row = page.split("Palm house door")[1].split("</tr>")[0]
    assert "silent" in row and "no rule" in row and "1 point fallen silent" in page


@pytest.mark.django_db(transaction=True)
async def test_what_is_said_is_written_down_only_while_somebody_watches(garden):
    watch = sync_to_async(lambda until: Device.objects.filter(pk="cam-jetty").update(watched_until=until))
    logs = sync_to_async(lambda: list(SessionLog.objects.values_list("device", "exchanges")))
    sessions = Sessions(inbox=None)
    session = DeviceSession(OnvifDevice("http://192.0.2.1/", "", ""), Notes())

    async def look():
        (wanted,) = [w for w in await sync_to_async(wanted_devices)() if w.id == "cam-jetty"]
        sessions._running.setdefault("cam-jetty", Running(wanted, session, None)).wanted = wanted
        await sessions._write_down()
        return await logs()

    session.device.soap.exchanges.note(1, "PullMessages", b"<a/>", 200, b"<b/>", 3)
    assert await look() == [], "nobody watches"
    await watch(now_ms() + 60_000)
    ((device, exchanges),) = await look()
    assert (device, [e["operation"] for e in exchanges]) == ("cam-jetty", ["PullMessages"])
    await watch(now_ms() - 1)
    sessions._running.clear()
    await sessions._write_down()
    assert await logs() == [], "it ends with the watching, also where the session is gone"


def test_the_session_is_for_those_who_edit_sources(client, as_):
    address = f"/s/{GARDENS}/sources/device/cam-jetty"
    SessionLog.objects.create(
        device_id="cam-jetty", at=1,
        exchanges=[{"at": 1, "operation": "GetServices", "asked": "<a/>", "status": 200, "answered": "<b/>", "took": 3, "failed": ""}],
    )  # fmt: skip
    client.force_login(as_("ines").person)
    assert "&lt;b/&gt;" in client.get(f"{address}/exchanges").content.decode()
    assert client.get(f"{address}/session").status_code == 200
    assert client.post(f"/api/v1/devices/cam-jetty/watch?site={GARDENS}").status_code == 204
    assert Device.objects.get(pk="cam-jetty").watched_until > now_ms()
    client.force_login(Person.objects.get(username="oskar"))
    assert client.get(f"{address}/exchanges").status_code == 403
    assert client.post(f"/api/v1/devices/cam-jetty/watch?site={GARDENS}").status_code == 403
