"""The cameras' own pictures are large, and what their analytics tell of an object is where it is drawn."""

import io
from datetime import timedelta
from types import SimpleNamespace

import numpy as np
import pytest
from PIL import Image

from dromikon.core.boxes import normalised
from dromikon.core.decoding.onvif import decode
from dromikon.standins.onvif.events import Events
from dromikon.standins.picture.frame import Studio
from dromikon.standins.picture.thermal import BODY
from dromikon.standins.world.geometry import Lens
from dromikon.standins.world.reports import Report
from dromikon.standins.world.scenes import CAMERAS
from dromikon.standins.world.watching import looked_at
from dromikon.standins.world.world import World
from dromikon.wire.onvif.notification import parse_notification

DAY = 86_400_000
NOON = 1_780_000_000_000 // DAY * DAY + 12 * 3_600_000


@pytest.fixture(scope="module")
def studio(tmp_path_factory):
    return Studio(World(), tmp_path_factory.mktemp("scenery"))


def test_a_large_picture_shows_the_same_place_twice_as_large(studio):
    small, large = (Image.open(io.BytesIO(studio.jpeg("jetty", NOON, width))) for width in (960, 1920))
    assert (small.size, large.size) == ((960, 540), (1920, 1080))
    shrunk = np.asarray(large.resize(small.size), np.int16)
    assert np.abs(shrunk - np.asarray(small, np.int16)).mean() < 4, "the same scene"


def test_a_picture_is_never_asked_larger_than_it_is(studio):
    assert Image.open(io.BytesIO(studio.jpeg("jetty", NOON, 4000))).size == (1920, 1080)


def somebody_in_the_picture(studio, camera):
    """An actor and an instant at which they stand well within a camera's picture."""
    place, world = CAMERAS[camera], studio.world
    for at in range(NOON, NOON + 8 * 3_600_000, 20_000):
        for actor in world.present(place.scene, at):
            look = looked_at(place, actor, at, world.seed)
            if look and actor.cls == "human" and -0.6 < look.box[0] < 0.6 and look.height > 0.05 and actor.at(at):
                return actor, at, look
    raise AssertionError("nobody all day")


def test_the_box_that_is_told_is_where_somebody_is_drawn(studio):
    place = CAMERAS["gate"]
    actor, at, look = somebody_in_the_picture(studio, "gate")
    box = normalised(*look.box)
    lens: Lens = place.lens
    here = actor.at(at)
    foot = lens.project(here.x, here.y, here.z, 960, 540)
    assert abs((box.left + box.right) / 2 - foot[0] / 960) < 0.02 and abs(box.bottom - foot[1] / 540) < 0.02
    figures = studio.figures(place, at, BODY)
    nearest = min(figures, key=lambda f: abs(f.box[0] / 960 - box.left) + abs(f.box[3] / 540 - box.bottom))
    assert abs(nearest.box[1] / 540 - box.top) < 0.05


def test_the_rectangle_goes_through_a_message_into_the_event(studio):
    source = (("VideoSourceConfigurationToken", "v"), ("Rule", "Line"))
    report = Report(
        NOON, "tns1:RuleEngine/LineDetector/Crossed", source, (("ObjectId", "7"),), box=(0.0, 0.5, 0.5, 0.0)
    )
    events = Events.__new__(Events)
    events.device = SimpleNamespace(offset=timedelta(0), quirk=SimpleNamespace(stamp=lambda at: at.isoformat()))
    spaces = (
        'xmlns:wsnt="http://docs.oasis-open.org/wsn/b-2" xmlns:tt="http://www.onvif.org/ver10/schema" '
        'xmlns:tns1="http://www.onvif.org/ver10/topics"'
    )
    message = events.message(report, "").replace("<wsnt:NotificationMessage>", f"<wsnt:NotificationMessage {spaces}>")
    told = parse_notification(message.encode())
    assert decode(told.topic, "", told.source, told.data).fields == {"object": 7, "box": "0.5 0.25 0.75 0.5"}
