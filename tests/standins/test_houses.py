"""The houses from inside: what cameras read, count and measure is what is in their pictures."""

from datetime import timedelta

import numpy as np
import pytest

from dromikon.core.instants import parse
from dromikon.standins.picture.frame import HEIGHT, WIDTH, Studio
from dromikon.standins.world.calendar import instant, local_day
from dromikon.standins.world.detectors import Region
from dromikon.standins.world.instruments import HEAT, PLATE, of_cameras
from dromikon.standins.world.scenes import CAMERAS
from dromikon.standins.world.world import World

HOUR = 3_600_000
NOON = parse("2026-11-25T12:00:00Z")
BEGINS = instant(local_day(NOON), 0)


@pytest.fixture(scope="module")
def scenery(tmp_path_factory):
    return tmp_path_factory.mktemp("scenery")


@pytest.fixture
def world():
    return World()


def drawn(world, scenery, camera, at):
    return np.asarray(Studio(world, scenery).frame(camera, at)).astype(int)


def colourful(picture):
    return (picture.max(-1) - picture.min(-1)).mean()


def region(camera, name):
    """Rows and columns of a region in the picture."""
    seen = next(d for d in CAMERAS[camera].detectors if d.name == name).seen
    xs, ys = [(x + 1) / 2 * WIDTH for x, _ in seen], [(1 - y) / 2 * HEIGHT for _, y in seen]
    return slice(int(min(ys)) + 6, int(max(ys)) - 6), slice(int(min(xs)) + 6, int(max(xs)) - 6)


def test_plates_are_told_by_their_camera_and_by_nobody_else(world):
    read = [s for s in world.signals(BEGINS, BEGINS + 24 * HOUR) if s.kind == "plate.read"]
    told = [r for r in world.reports("service", BEGINS, BEGINS + 24 * HOUR) if r.topic == PLATE]
    assert read and [(r.at, dict(r.data)["PlateNumber"]) for r in told] == [(s.at, s.fields["plate"]) for s in read]
    assert all(of_cameras(s) for s in read)


def test_a_hot_flue_is_told_in_kelvins_and_shines_where_it_is_measured(world, scenery):
    told = [r for r in world.reports("flue", BEGINS, BEGINS + 24 * HOUR) if r.topic == HEAT]
    flue = {r.at: float(dict(r.data)["MaxTemperature"]) for r in told if dict(r.data)["ItemID"] == "Boiler flue"}
    cold, hot = min(flue, key=flue.get), max(flue, key=flue.get)
    assert 300 < flue[cold] < 325 and flue[hot] > 340
    rows, columns = region("flue", "Boiler flue")
    light = [drawn(world, scenery, "flue", at + 2_000)[rows, columns].mean() for at in (cold, hot)]
    assert light[1] > light[0] + 60


def test_a_region_is_moved_and_still_tells_and_a_new_one_knows_nothing(world):
    old = next(d for d in CAMERAS["flue"].detectors if d.name == "Boiler flue")
    world.set_detector("flue", Region(old.name, ((0, 0), (1, 0), (1, 1)), "heat", old.point), BEGINS)
    world.set_detector("flue", Region("Door", ((0, 0), (1, 0), (1, 1)), "heat"), BEGINS)
    told = {dict(r.data)["ItemID"] for r in world.reports("flue", BEGINS, BEGINS + 2 * HOUR)}
    assert told == {"Boiler flue", "Circulation pump"}


def test_a_room_is_lit_while_somebody_is_in_it(world, scenery):
    nobody = BEGINS + 3 * HOUR
    somebody = next(
        at for at in range(BEGINS + 7 * HOUR, BEGINS + 10 * HOUR, 20_000) if any(world.present("boiler_house", at))
    )
    assert (
        colourful(drawn(world, scenery, "boiler", nobody))
        < 3
        < 12
        < colourful(drawn(world, scenery, "boiler", somebody))
    )


def test_water_that_is_spilt_is_seen_while_the_sensor_tells_of_it(world, scenery):
    spilt = NOON + 600_000
    world.provoke("spill", spilt)
    begins = next(s.at for s in world.signals(spilt, spilt + 60_000) if s.point == "leak")
    x, y, _ = CAMERAS["pump"].lens.project(0.9, 3.6, 0, WIDTH, HEIGHT)
    floor = (slice(int(y) - 12, int(y) + 12), slice(int(x) - 30, int(x) + 30))
    shots = [drawn(world, scenery, "pump", at)[floor] for at in (begins - 1_500, begins + 100_000)]
    assert np.abs(shots[1] - shots[0]).mean() > 15
    assert any(world.present("pump_room", begins)), "somebody spilt it"


def test_a_relay_that_is_on_shows(world, scenery):
    before = drawn(world, scenery, "orchid", NOON)
    world.command_relay("orchid", "misting", True, NOON - 1)
    assert np.abs(drawn(world, scenery, "orchid", NOON) - before).mean() > 1.5


def test_as_many_walk_about_as_are_counted(world):
    counted = {s.at: s.fields["value"] for s in world.signals(BEGINS, BEGINS + 24 * HOUR) if s.point == "palm-count"}
    most = max(counted, key=counted.get)
    there = lambda at: sum(1 for _ in world.present("palm_inside", at))
    assert there(BEGINS + 4 * HOUR) == 0 and there(most + 1_100_000) >= counted[most] / 16


@pytest.mark.parametrize("days", [0, 3])
def test_somebody_is_on_duty_day_and_night(world, days):
    begins = instant(local_day(NOON) + timedelta(days=days), 0)
    manned = [any(world.present("lodge", begins + k * HOUR // 2)) for k in range(48)]
    assert sum(manned) >= 46
