"""A camera that was moved since its detectors were drawn is told of; fog and a recorder that is away are not taken for it."""

import asyncio

import numpy as np
import pytest
from django.db.models import F
from PIL import Image

from dromikon.core.scene.fitting import TALL, WIDE
from dromikon.scene import standing
from dromikon.scene.own import read_own, save_own
from dromikon.scene.standing import HOLDS, Standings, note, said
from dromikon.sources.models import DrawnOn, Point
from dromikon.wire.pictures import PicturesUnavailable
from tests.conftest import GARDENS
from tests.core.test_fitting import scene
from tests.web.test_own_detectors import INSIDE

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]
FOG = np.full((TALL, WIDE), 128.0)


@pytest.fixture
def drawn(garden, as_):
    Point.objects.exclude(watch=None).delete()
    camera = Point.objects.select_related("device", "recorder").get(pk="jetty")
    point = save_own(as_("ines"), camera, None, read_own(INSIDE))
    note(camera, scene(1))

    def look(picture):
        note(camera, picture)
        point.refresh_from_db()
        return said(point)

    look.camera, look.point = camera, point
    return look


def test_a_moved_camera_is_told_of_until_it_is_turned_back(drawn):
    assert drawn(scene(1) * 0.5) == ""
    assert "8 % to the right" in drawn(np.roll(scene(1), round(0.08 * WIDE), axis=1))
    assert drawn(scene(1)) == ""


def test_only_a_second_strange_picture_says_that_it_looks_elsewhere(drawn):
    assert drawn(FOG) == ""
    assert drawn(scene(1)) == "", "the fog has lifted"
    assert [drawn(scene(5)) for _ in range(2)] == ["", "The camera looks elsewhere than when this was drawn."]


def test_what_is_drawn_anew_is_looked_at_afresh(drawn, as_, client):
    drawn(np.roll(scene(1), 20, axis=1))
    client.login(username="ines", password="quillmere-demo")
    page = f"/s/{GARDENS}/sources/scene/jetty"
    assert b"was moved since" in client.get(page).content
    save_own(as_("ines"), drawn.camera, drawn.point.id, read_own(INSIDE))
    assert b"was moved since" not in client.get(page).content
    note(drawn.camera, np.roll(scene(1), 20, axis=1))
    assert b"was moved since" not in client.get(page).content


class Source:
    """A recorder that has a picture, or none."""

    def __init__(self, tmp_path):
        self.asked, self.picture_of, self.file = [], scene(2), tmp_path / "p.jpg"

    async def picture(self, channel, at, width):
        self.asked.append(channel)
        if self.picture_of is None:
            raise PicturesUnavailable("away")
        Image.fromarray(self.picture_of.astype(np.uint8)).save(self.file)
        return self.file.read_bytes()


def test_cameras_are_looked_at_when_something_is_due_and_not_more_often(drawn, monkeypatch, tmp_path):
    source, looking = Source(tmp_path), Standings()
    monkeypatch.setattr(standing, "source_of", lambda _: source)
    look = lambda: [asyncio.run(looking._look(camera)) for camera in looking._due()]
    assert look() == [], "it was looked at when it was drawn"
    DrawnOn.objects.all().delete()
    source.picture_of = None
    assert len(look()) == 1 and look() == [], "a recorder that is away is not asked at once again"
    source.picture_of, looking = scene(2), Standings()
    assert len(look()) == 1 and look() == []
    DrawnOn.objects.update(checked_at=F("checked_at") - HOLDS - 1)
    assert len(look()) == 1 and source.asked == ["jetty"] * 3
