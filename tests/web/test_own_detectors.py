"""Detectors of our own: set up, watching a camera that is there, told to rules, and tried over what was kept."""

import asyncio
import json
from contextlib import closing
from datetime import timedelta

import pytest
from asgiref.sync import sync_to_async
from django.core.exceptions import PermissionDenied

from dromikon import config
from dromikon.authoring.known import senders
from dromikon.clock import now_ms
from dromikon.core.devices.frames import SceneFrame
from dromikon.core.scene.sight import Sight
from dromikon.core.scene.watching import DETECTORS
from dromikon.daybook.models import EventRow
from dromikon.facts import facts_of
from dromikon.intake.inbox import InboxWriter, Message
from dromikon.keeping.classes import CLASSES
from dromikon.keeping.models import Hold
from dromikon.people.models import AuditEntry
from dromikon.refusals import Refused
from dromikon.scene import searching, store
from dromikon.scene.eyes import Eyes, body_of, by_our_time, states_at_rest, wanted_cameras
from dromikon.scene.gathering import Gathering
from dromikon.scene.own import own_of, read_own, retire_own, save_own
from dromikon.sources.models import Device, Point, Unclaimed
from dromikon.sources.offers import kinds_of
from tests.conftest import GARDENS

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]
WHOLE = [(0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)]
INSIDE = {"name": "Anybody", "watch": {"detects": "inside", "corners": WHOLE, "sure": 0}}
SEARCH = f"/api/v1/cameras/jetty/scene/search?site={GARDENS}"


@pytest.fixture
def folder(tmp_path, monkeypatch):
    monkeypatch.setattr(config, "data", lambda: tmp_path)
    return tmp_path


@pytest.fixture
def jetty(garden):
    # Those of the site would tell things, too.
    Point.objects.exclude(watch=None).delete()
    return Point.objects.select_related("device").get(pk="jetty")


def sight(at, *feet):
    """People who stand at some places."""
    boxes = [(x - 0.05, y - 0.2, x + 0.05, y) for x, y in feet]
    count = len(feet)
    return Sight(at, tuple(map(str, range(count))), ("human",) * count, (90.0,) * count, [tuple(map(float, box)) for box in boxes])  # fmt: skip


def walked(start, seconds=10):
    """Somebody from left to right; then nobody."""
    steps = [sight(start + k * 100, (0.1 + 0.8 * k / (seconds * 10), 0.6)) for k in range(seconds * 10)]
    return [*steps, *(sight(start + (seconds * 10 + k) * 100) for k in range(40))]


# -- what is kept -------------------------------------------------------------------------------------------------------


def test_minutes_are_kept_joined_found_again_and_forgotten(folder):
    start = 1_795_176_000_000
    with closing(store.connect()) as kept:
        store.keep(kept, "jetty", walked(start))
        store.keep(kept, "jetty", walked(start + 20_000))
        store.keep(kept, "jetty", walked(start + 3 * 60_000))
        store.keep(kept, "gate", walked(start))
        ats = [s.at for s in store.sights(kept, "jetty", start, start + 60_000)]
        assert len(ats) == 280 and ats == sorted(ats), "after a restart in the middle of a minute both parts are there"
        assert store.kept_between(kept, "jetty", start, start + 600_000) == [start, start + 180_000]
        kept.execute("UPDATE chunk SET data = x'00' WHERE camera = 'jetty' AND start = ?", (start,))
        assert len(list(store.sights(kept, "jetty", start, start + 600_000))) == 140, "what is broken is left out"
    assert store.amount() == (3, start)
    assert sum(store.forget_before(start + 120_000)) == 2 and store.amount() == (1, start + 180_000)


def test_what_is_held_is_not_forgotten(folder, jetty):
    start = 1_795_176_000_000
    with closing(store.connect()) as kept:
        for camera, at in (("jetty", start), ("jetty", start + 600_000), ("gate", start), ("yard", start)):
            store.keep(kept, camera, walked(at))
    Hold.objects.create(site=jetty.site, start=start + 5_000, end=start + 6_000, reason="asked for", made_at=start)
    [scenes] = [kept for kept in CLASSES if kept.name == "scenes"]
    assert sum(scenes.forget(start + 10**9)) == 2, "the later minute, and that of a site without a hold"
    with closing(store.connect()) as kept:
        assert [store.kept_between(kept, c, start, start + 10**9) for c in ("jetty", "gate", "yard")] == [
            [start],
            [start],
            [],
        ]


def test_a_moment_that_is_far_from_ours_is_when_it_came():
    offset = timedelta(hours=1)
    seen = lambda at: by_our_time(SceneFrame(at, ()), offset, 10**12).at
    assert seen(10**12 + 3_600_000 - 700) == 10**12 - 700, "the device's clock goes an hour fast"
    assert seen(10**12 - 700) == seen(10**12 + 86_400_000) == 10**12, "it was set since"


def test_of_quiet_hours_little_is_kept():
    gathering, kept = Gathering(), []
    for sight_ in walked(0):
        kept += gathering.take(sight_)
    for at in range(14_000, 3_600_000, 200):
        kept += gathering.take(sight(at))
    kept += gathering.rest()
    assert [s.at for s in kept if len(s)] == list(range(0, 10_000, 100)), "all in which something is"
    assert 100 + 180 <= len(kept) <= 100 + 30 + 181, "one each 20 s of the rest"


# -- setting up ---------------------------------------------------------------------------------------------------------


def test_a_detector_is_a_point_below_its_camera_that_rules_may_name(jetty, as_):
    ines = as_("ines")
    point = save_own(ines, jetty, None, read_own(INSIDE))
    assert (point.kind, point.channel_id, point.device_id, point.area_id) == ("detector", "jetty", None, jetty.area_id)
    assert [k.name for k in kinds_of(point)] == ["scene.inside"], "a rule is offered what it tells"
    facts = facts_of(ines.site)
    assert facts.point_by_id[point.id].name == "Anybody" and facts.cameras_of(point.id) == ("jetty",)
    lingers = {"name": "Anybody", "watch": {"detects": "lingering", "corners": WHOLE, "seconds": 12}}
    changed = save_own(ines, jetty, point.id, read_own(lingers))
    assert (changed.id, changed.waits) == (point.id, 12.0), "so that a pre-roll can be checked against it"
    with pytest.raises(Refused, match="that name"):
        save_own(ines, jetty, None, read_own({**INSIDE, "name": "anybody"}))
    with pytest.raises(PermissionDenied):
        save_own(as_("oskar"), jetty, None, read_own({**INSIDE, "name": "Other"}))
    retire_own(ines, jetty, point.id)
    assert not own_of(jetty).exists()
    verbs = AuditEntry.objects.filter(subject=f"point:{point.id}").order_by("id").values_list("verb", flat=True)
    assert list(verbs) == ["made detector", "changed detector", "retired detector"]


@pytest.mark.parametrize(
    ("watch", "path"),
    [
        ({"detects": "inside", "corners": [(0, 0), (1, 1), (1, 0), (0, 1)]}, "corners"), ({"detects": "ghost", "corners": WHOLE}, "watch"),
        ({"detects": "lingering", "corners": WHOLE, "seconds": -1}, "seconds"), ({"detects": "inside", "corners": WHOLE, "strange": 1}, "strange"),
    ],
)  # fmt: skip
def test_what_cannot_be_watched_is_refused_at_its_place(garden, watch, path):
    with pytest.raises(Refused) as refused:
        read_own({"name": "x", "watch": watch})
    assert path in refused.value.problems[0].path


# -- watching -----------------------------------------------------------------------------------------------------------


def test_a_detector_is_known_to_send_what_it_watches_and_nothing_else(jetty, as_):
    mine = save_own(as_("ines"), jetty, None, read_own(INSIDE))
    assert senders(GARDENS, set())[mine.id] == {DETECTORS["inside"].tells}, "no rule about plates is offered it"


async def test_a_camera_is_watched_and_what_is_detected_comes_in(folder, standins, as_, jetty, bench):
    """Whoever is cast into the scene is seen by the stand-in, told as objects, detected here, and is an event."""
    address = f"{standins['jetty']}/onvif/device_service"
    await Device.objects.filter(pk="cam-jetty").aupdate(address=address, catalogue={"scenes": ["vs0"]})
    point = await sync_to_async(lambda: save_own(as_("ines"), jetty, None, read_own(INSIDE)))()
    assert [(w.camera, [p for p, _ in w.detectors]) for w in await sync_to_async(wanted_cameras)()] == [("jetty", [point.id])]  # fmt: skip
    inbox = InboxWriter(bench.path)
    task = asyncio.create_task(Eyes(inbox).run())
    try:
        async with asyncio.timeout(30):
            while not await sync_to_async(_told)(bench, point.id):
                await asyncio.sleep(0.2)
    finally:
        task.cancel()
        await asyncio.wait([task])
        inbox.close()
    with closing(store.connect()) as kept:
        assert list(store.sights(kept, "jetty", now_ms() - 120_000, now_ms() + 1)), "and what it saw is kept"


def _told(bench, point):
    bench.run()
    return EventRow.objects.filter(point=point).exists()


def test_how_things_stand_when_watching_begins_starts_nothing_but_ends_what_held(jetty, as_, bench):
    point = save_own(as_("ines"), jetty, None, read_own(INSIDE))
    bench.run()
    at = now_ms()
    [wanted] = [w for w in _wanted(jetty) if w.camera == "jetty"]
    [rest] = states_at_rest(wanted, [point.id], at)
    assert states_at_rest(wanted, [], at) == [], "those that go on are not told of"
    tell = lambda body, meta="{}": bench.put(Message(now_ms(), "scene", "cam-jetty", meta, body))
    tell(body_of(rest), '{"first": true}')
    begins = json.dumps({"kind": "scene.inside", "point": point.id, "phase": "begin", "fields": {"class": "human", "box": "0.1 0.2 0.3 0.4"}}).encode()  # fmt: skip
    tell(begins)
    tell(body_of(rest), '{"first": true}')
    bench.run()
    found = EventRow.objects.filter(point=point.id).order_by("seq").values_list("phase", "initial", "late")
    assert list(found) == [("end", True, False), ("begin", False, False), ("end", False, True)]
    tell(b"nonsense")
    tell(body_of(rest).replace(point.id.encode(), b"nobody"))
    bench.run()
    assert Unclaimed.objects.count() == 2


def _wanted(jetty):
    Device.objects.filter(pk="cam-jetty").update(catalogue={"scenes": ["vs0"]})
    return wanted_cameras()


# -- the past -----------------------------------------------------------------------------------------------------------


@pytest.fixture
def ines(client, as_, folder):
    client.force_login(as_("ines").person)
    return client


def post(client, address, content):
    return client.post(address, json.dumps(content), content_type="application/json")


def test_a_detector_is_tried_over_the_past_varied_and_parted_by_marks(ines, jetty, monkeypatch):
    end = now_ms() // 60_000 * 60_000
    slow, quick = end - 1_800_000, end - 600_000
    with closing(store.connect()) as kept:
        for start, seconds in ((slow, 40), (quick, 10)):
            store.keep(kept, "jetty", walked(start, seconds))
    middle = [(0.3, 0.3), (0.7, 0.3), (0.7, 0.9), (0.3, 0.9)]
    watch = {"detects": "lingering", "corners": middle, "seconds": 2, "sure": 50}
    asked = {"document": {"name": "x", "watch": watch}, "start": end - 2 * 3_600_000, "end": end, "vary": "seconds"}
    found = post(ines, SEARCH, asked).json()
    assert (found["count"], found["by_hour"], found["minutes_kept"]) == (2, [0, 2], 2)
    counts = {row["value"]: row["count"] for row in found["varied"]}
    assert counts[2] == 2 and counts[10] == 1 and counts[30] == 0
    first, second = (hit["at"] for hit in found["hits"])
    marked = post(ines, SEARCH, {**asked, "marks": [{"at": first, "should": True}, {"at": second, "should": False}]})
    best = marked.json()["better"][0]
    assert (best["setting"], best["kept"], best["dropped"], best["count"]) == ("seconds", 1, 1, 1)
    monkeypatch.setattr(searching, "MOST_PICTURES", 100)
    assert post(ines, SEARCH, asked).status_code == 422, "more than is looked through at once"
    nothing = post(ines, SEARCH, {**asked, "start": 0, "end": 3_600_000}).json()
    assert (nothing["count"], nothing["minutes_kept"]) == (0, 0)


def test_where_objects_went_is_told_as_paths_and_cells(ines, jetty):
    end = now_ms() // 60_000 * 60_000
    with closing(store.connect()) as kept:
        store.keep(kept, "jetty", walked(end - 120_000))
    found = ines.get(f"/api/v1/cameras/jetty/scene/paths?site={GARDENS}&start={end - 3_600_000}&end={end}").json()
    assert len(found["paths"]) == 1 and found["paths"][0]["class"] == "human" and sum(map(sum, found["stood"])) == 100


def test_what_was_seen_is_told_picture_by_picture(ines, jetty):
    end = now_ms() // 60_000 * 60_000
    with closing(store.connect()) as kept:
        store.keep(kept, "jetty", walked(end - 120_000))
    address = f"/api/v1/cameras/jetty/scene/seen?site={GARDENS}&start={end - 120_000}&end="
    seen = ines.get(f"{address}{end - 60_000}").json()["seen"]
    [thing] = seen[0]["things"]
    assert (seen[0]["at"], thing["class"]) == (end - 120_000, "human")
    assert thing["box"] == pytest.approx([0.05, 0.4, 0.15, 0.6], abs=2e-4)
    assert seen[-1]["things"] == [] and ines.get(f"{address}{end + 600_000}").status_code == 422


@pytest.mark.parametrize(
    ("changes", "status"),
    [({"end": 0}, 422), ({"vary": "colour"}, 422), ({"document": {"name": "x"}}, 422), ({"start": 1, "end": 40 * 86_400_000}, 422),
     ({"marks": [{"at": 1, "should": True}] * 51}, 422)],
)  # fmt: skip
def test_a_search_that_cannot_be_is_refused(ines, jetty, changes, status):
    asked = {"document": INSIDE, "start": 0, "end": 3_600_000}
    assert post(ines, SEARCH, {**asked, **changes}).status_code == status


def test_only_who_sets_up_draws_and_searches(client, as_, folder, jetty):
    client.force_login(as_("oskar").person)
    own = f"/api/v1/cameras/jetty/detectors?site={GARDENS}"
    assert post(client, own, {"document": INSIDE}).status_code == 403
    assert post(client, SEARCH, {"document": INSIDE, "start": 0, "end": 1000}).status_code == 403
    client.force_login(as_("ines").person)
    nobody = own.replace("detectors?", "detectors/nobody?")
    assert client.put(nobody, json.dumps({"document": INSIDE}), content_type="application/json").status_code == 404
    assert client.delete(nobody).status_code == 404
    assert client.get(f"/s/{GARDENS}/sources/scene/jetty").status_code == 200
    assert client.get(f"/s/{GARDENS}/sources/scene/nothing").status_code == 404
