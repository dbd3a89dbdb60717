"""How cameras hang, what follows from it on plan and page, and what holds for all detectors of a camera."""

import pytest

from dromikon import config
from dromikon.clock import now_ms
from dromikon.core.rules.form import forms_of
from dromikon.core.scene.seeing import Seeing
from dromikon.people.models import AuditEntry
from dromikon.refusals import Refused
from dromikon.scene import store
from dromikon.scene.camera import optics_of, save_mounting, save_seeing, seeing_of
from dromikon.scene.eyes import wanted_cameras
from dromikon.scene.own import read_own, save_own
from dromikon.scene.searching import search
from dromikon.scene.siting import doubt, suffices
from dromikon.sources.models import Point
from tests.conftest import GARDENS
from tests.web.test_own_detectors import INSIDE, walked

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]
HUNG = {"high": 5.2, "tilt": 15, "sensor": 5.4, "focal": 3.6, "across": 1920, "down": 1080}
LEFT = [(0.0, 0.0), (0.5, 0.0), (0.5, 1.0), (0.0, 1.0)]
BASE = "/api/v1/cameras/jetty"


@pytest.fixture
def jetty(garden):
    return Point.objects.select_related("device").get(pk="jetty")


@pytest.fixture
def ines(client, garden):
    client.login(username="ines", password="quillmere-demo")
    return client


def put(client, what, document):
    return client.put(f"{BASE}/{what}?site={GARDENS}", {"document": document}, content_type="application/json")


def test_how_a_camera_hangs_is_kept_and_the_plan_follows(jetty, as_):
    save_mounting(as_("ines"), jetty, HUNG)
    jetty.refresh_from_db()
    assert optics_of(jetty).view == pytest.approx(jetty.view, abs=0.1)
    assert 40 < jetty.reach < 60, "as far as a person can be detected"
    assert AuditEntry.objects.filter(verb="measured camera").exists()


def test_what_a_picture_suffices_for_is_told_without_saving(ines, jetty):
    before = jetty.mounting
    answer = ines.post(
        f"{BASE}/siting?site={GARDENS}", {"document": HUNG, "x": 0.5, "y": 0.8}, content_type="application/json"
    ).json()
    assert [b["purpose"] for b in answer["bands"]] == ["recognise", "observe", "detect", "monitor"]
    assert answer["person"]["away"] < 20 and answer["person"]["box"][3] == 0.8
    jetty.refresh_from_db()
    assert jetty.mounting == before


@pytest.mark.parametrize(
    ("change", "path"),
    [({"high": 0}, "high"), ({"tilt": 120}, "tilt"), ({"focal": None}, "focal"), ({"hue": 1}, "hue")],
)
def test_what_cannot_hang_so_is_refused_at_its_place(ines, jetty, change, path):
    answer = put(ines, "mounting", {**HUNG, **change})
    assert answer.status_code == 422
    assert [p["path"] for p in answer.json()["problems"]] == [path]


def test_a_detector_that_is_asked_for_too_much_is_doubted(jetty, as_):
    save_mounting(as_("ines"), jetty, HUNG)
    near = [(0.3, 0.7), (0.7, 0.7), (0.5, 0.9)]
    fits = save_own(as_("ines"), jetty, None, read_own({"name": "near", "watch": {**INSIDE["watch"], "corners": near}}))
    far = save_own(as_("ines"), jetty, None, read_own({**INSIDE, "name": "far"}))
    assert doubt(jetty, fits) == ""
    assert "horizon" in doubt(jetty, far)
    assert any(words.startswith("far: ") for words in suffices(jetty, optics_of(jetty).mounting)["concerns"])


def test_sizes_in_metres_want_to_know_how_the_camera_hangs(jetty, as_):
    Point.objects.filter(pk="jetty").update(mounting=None)
    jetty.refresh_from_db()
    tall = {"name": "tall", "watch": {**INSIDE["watch"], "shortest": 1.4}}
    with pytest.raises(Refused, match="how the camera hangs"):
        save_own(as_("ines"), jetty, None, read_own(tall))
    save_mounting(as_("ines"), jetty, HUNG)
    assert save_own(as_("ines"), jetty, None, read_own(tall)).watch["shortest"] == 1.4


def test_masks_and_life_hold_for_watching_and_for_the_past(jetty, as_, tmp_path, monkeypatch):
    monkeypatch.setattr(config, "data", lambda: tmp_path)
    start = now_ms() // 60_000 * 60_000 - 120_000
    with store.connect() as kept:
        store.keep(kept, "jetty", walked(start))
    watch = read_own({**INSIDE, "watch": {**INSIDE["watch"], "corners": LEFT}}).watch
    assert search(jetty, watch, start, start + 60_000).count == 1
    save_seeing(as_("ines"), jetty, {"masks": [LEFT], "life": 5})
    assert search(jetty, watch, start, start + 60_000).count == 0, "who stands in a mask counts for nothing"
    jetty.device.catalogue = {"scenes": [jetty.token]}
    jetty.device.save()
    assert next(w for w in wanted_cameras() if w.camera == "jetty").seeing == seeing_of(jetty)


@pytest.mark.parametrize(
    ("document", "said"),
    [
        ({"masks": [[(0, 0), (1, 1), (1, 0), (0, 1)]]}, "crosses itself"),
        ({"masks": [LEFT] * 21}, "at most 20"),
        ({"life": 0}, ""),
    ],
)
def test_masks_that_cannot_be_are_refused(ines, jetty, document, said):
    answer = put(ines, "seeing", document)
    assert answer.status_code == 422
    assert said in answer.json()["problems"][0]["message"]


def test_what_a_later_release_wrote_otherwise_is_as_if_it_were_not_there(jetty):
    Point.objects.filter(pk="jetty").update(seeing={"depth": 3}, mounting={"drone": True})
    jetty.refresh_from_db()
    assert seeing_of(jetty) == Seeing()
    assert optics_of(jetty) is None


def test_pages_show_it_and_only_who_sets_up_may_change_it(client, jetty, as_):
    save_mounting(as_("ines"), jetty, HUNG)
    client.login(username="vera", password="quillmere-demo")
    assert client.get(f"/s/{GARDENS}/sources/siting/jetty").status_code == 200
    assert put(client, "mounting", HUNG).status_code == 403
    client.login(username="ines", password="quillmere-demo")
    assert b"How it hangs" in client.get(f"/s/{GARDENS}/sources/siting/jetty").content
    assert client.get(f"/s/{GARDENS}/sources/siting/nobody").status_code == 404
    assert b'"purpose": "detect"' in client.get(f"/s/{GARDENS}/sources/plan").content


def test_every_field_has_its_place_in_the_form():
    assert [f["name"] for f in forms_of(Seeing)["parts"][forms_of(Seeing)["root"]]["fields"]] == ["life", "shape"]
