"""One time axis of several cameras: what lies on it, where the next thing is, and their pictures in step."""

import asyncio

import pytest

from dromikon.archive.models import Bookmark
from dromikon.authoring.readings import MEASURING
from dromikon.clock import now_ms
from dromikon.core.scene.sight import Sight
from dromikon.daybook.models import EventRow
from dromikon.desk.models import Alarm
from dromikon.operating.axis import curves_of, marks_of, next_of, sets_of
from dromikon.operating.outlines import outlines_of
from dromikon.pages.pictures import PACK
from dromikon.pages.stretches import in_order
from dromikon.scene import store
from dromikon.scene.own import read_own, save_own
from dromikon.sources.models import Point, Recorder, Sightline
from tests.conftest import GARDENS, NURSERY
from tests.web.test_pictures import client, gathered, unpack  # noqa: F401

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]
MINUTE = 60_000


@pytest.fixture
def then(bench):
    """Somebody crossed the jetty's line three minutes ago, and a button at the gate was pressed a minute ago."""
    at = now_ms() - 3 * MINUTE
    bench.cross(at=at)
    bench.http(kind="button.pressed", point="gate-help", phase="pulse", fields={}, at=at + 2 * MINUTE)
    bench.run()
    return at


def test_what_the_cameras_look_at_lies_on_their_axis(then, as_):
    Sightline.objects.get_or_create(point_id="gate-help", camera_id="gate")
    found = lambda *cameras: marks_of(as_("ines"), cameras, then - MINUTE, then + 5 * MINUTE)
    jetty = found("jetty")
    assert ("event", "Jetty line") in {(m.sort, m.place) for m in jetty} and "alarm" in {m.sort for m in jetty}
    assert [m.at for m in jetty] == sorted(m.at for m in jetty)
    assert all(m.ref and m.words for m in jetty)
    assert {"Jetty line", "Help point at the gate"} & {m.place for m in found("gate")} != {"Jetty line"}
    both = found("jetty", "gate")
    assert {m.ref for m in jetty} < {m.ref for m in both}
    Alarm.objects.update(groups=["nobody"], groups_text="|nobody|")
    assert "alarm" not in {m.sort for m in marks_of(as_("oskar"), ["jetty"], then - MINUTE, now_ms())}


def test_the_next_thing_is_found_either_way(then, as_):
    ask = lambda at, way, what="event": next_of(as_("ines"), ["jetty"], at, way, what)
    event = ask(then - 10, "on")
    assert abs(event - then) < 2_000 and ask(event, "back") is None and ask(then + MINUTE, "back") == event
    assert ask(0, "on", "alarm") == Alarm.objects.get(point="jetty-line").zero
    Bookmark.objects.create(site_id=GARDENS, camera="jetty", start=5, end=9, zero=7, title="x", made_at=9)
    assert ask(0, "on", "bookmark") == 7


def test_the_next_minute_in_which_anything_was_seen(as_, tmp_path, monkeypatch):
    from dromikon import config

    monkeypatch.setattr(config, "data", lambda: tmp_path)
    seen = lambda at, count: [
        Sight(at + i * 100, ("1",), ("human",), (90.0,), [(0.1, 0.1, 0.2, 0.3)]) for i in range(count)
    ]
    opened = store.connect()
    for start, count in ((0, 3), (5 * MINUTE, 40), (9 * MINUTE, 2)):
        store.keep(opened, "jetty", seen(start, count))
    opened.close()
    assert next_of(as_("ines"), ["jetty"], 0, "on", "seen") == 5 * MINUTE
    assert next_of(as_("ines"), ["jetty"], 9 * MINUTE, "back", "seen") == 5 * MINUTE
    assert next_of(as_("ines"), ["jetty"], 5 * MINUTE + 10, "on", "seen") is None


def test_points_that_several_cameras_look_at_are_sets(as_):
    names = {point: cameras for point, _, cameras in sets_of(as_("ines"))}
    assert names and all(len(cameras) > 1 for cameras in names.values())


def test_over_the_api_the_axis_has_marks_and_what_is_recorded(then, client_in, standins):
    Recorder.objects.update(address=standins["recorder"])
    ask = lambda path: client_in.get(f"/api/v1/archive/{path}&site={GARDENS}")
    span = f"camera=jetty&camera=gate&start={then - MINUTE}&end={then + 5 * MINUTE}"
    recorded = ask(f"recorded?{span}").json()
    assert [c["camera"] for c in recorded] == ["jetty", "gate"] and recorded[0]["stretches"]
    assert {m["sort"] for m in ask(f"axis?{span}").json()} >= {"event", "alarm"}
    assert ask(f"next?camera=jetty&at={then - MINUTE}&what=event").json()["at"]
    assert ask(f"axis?camera=jetty&start=0&end={then}").status_code == 422
    assert ask("axis?camera=yard&start=1&end=9").status_code == 404, f"that is {NURSERY}'s"
    assert ask(f"axis?{'camera=jetty&' * 10}start=1&end=9").status_code == 422


@pytest.fixture
def client_in(client):  # noqa: F811
    from django.test import Client

    made = Client()
    made.login(username="ines", password="quillmere-demo")
    return made


async def test_pictures_of_several_cameras_come_in_step(client):  # noqa: F811
    start = now_ms() - 60_000
    address = f"/s/{GARDENS}/stretch?cameras=gate,nothing,jetty&start={start}&end={start + 1000}&rate=4&width=160"
    frames = unpack(await gathered(await client.get(address)))
    moments = [at for _, at in frames]
    assert moments == sorted(moments) and {camera for camera, _ in frames} == {0, 2}
    assert [at for camera, at in frames if camera == 0] == [at for camera, at in frames if camera == 2]
    assert (await client.get(f"/s/{GARDENS}/stretch?cameras=gate&start=5&end=4")).status_code == 400
    assert (await client.get(f"/s/{GARDENS}/stretch?cameras=nothing&start=5&end=9")).status_code == 404


async def test_a_camera_that_hangs_or_has_a_gap_does_not_hold_the_others_up():
    frame = lambda index, at: PACK.pack(index, at, 1) + b"x"

    async def of(index, moments, hangs=False):
        for at in moments:
            yield frame(index, at)
        if hangs:
            await asyncio.sleep(60)

    sources = [of(0, (1, 2, 3, 4)), of(1, (1,), hangs=True), of(2, (3, 5)), of(3, ())]
    found = [PACK.unpack_from(data)[:2] async for data in in_order(sources, patience=0.2)]
    assert [at for _, at in found] == [1, 1, 2, 3, 3, 4, 5] and found[-1] == (2, 5)


def test_what_sensors_read_that_a_camera_looks_at_is_a_curve(bench, as_, client_in):
    at = now_ms() - 10 * MINUTE
    sensor = Point.objects.filter(site=GARDENS, kind__in=MEASURING, retired_at=None).first()
    Sightline.objects.get_or_create(point=sensor, camera_id="orchid")
    for i, value in enumerate((20.0, 21.0, 24.0)):
        EventRow.objects.create(
            seq=900 + i, site=GARDENS, kind="sensor.reading", point=sensor.pk, phase="reading", at=at + i * MINUTE,
            occurred_at=at + i * MINUTE, received_at=at, fields={"value": value},
        )  # fmt: skip
    (curve,) = [c for c in curves_of(as_("ines"), ["orchid"], at - MINUTE, at + 5 * MINUTE) if c.point == sensor.pk]
    assert [value for _, value in curve.readings] == [20.0, 21.0, 24.0] and curve.name == sensor.name
    assert "reading" not in {m.words for m in marks_of(as_("ines"), ["orchid"], at - MINUTE, at + 5 * MINUTE)}
    told = client_in.get(
        f"/api/v1/archive/curves?camera=orchid&start={at - MINUTE}&end={at + 5 * MINUTE}&site={GARDENS}"
    ).json()
    assert (
        curve.point in {c["point"] for c in told}
        and curves_of(as_("ines"), ["orchid"], at + 9 * MINUTE, now_ms()) == []
    )


def test_where_detectors_watch_is_told_of_the_cameras_own_and_ours(as_):
    camera = Point.objects.get(pk="jetty")
    camera.device.catalogue = {
        "detectors": [{"name": "Line", "type": "t", "parameters": {}, "channel": "vs0", "shapes": [{"sort": "line", "item": "x", "points": [(0, 0), (1, 1)]}]}]
    }  # fmt: skip
    camera.device.save()
    Point.objects.filter(pk="jetty-line").update(token="vs0/Line")
    save_own(
        as_("ines"), camera, None,
        read_own({"name": "Deck", "watch": {"detects": "inside", "corners": [[0.5, 0.5], [1, 0.5], [1, 1]]}}),
    )  # fmt: skip
    found = {one["name"]: one for one in outlines_of(as_("ines"), ["jetty"])["jetty"]}
    assert found["Line"]["point"] == "jetty-line" and found["Line"]["shapes"][0]["sort"] == "line"
    assert found["Deck"]["shapes"] == [{"sort": "area", "item": "", "points": [(0, 0), (1, 0), (1, -1)]}]
    assert outlines_of(as_("ines"), ["yard"]) == {}, "that is another site's"
