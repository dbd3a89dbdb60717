"""The simulated garden: pure, and its events come from the geometry of what is drawn."""

import math
import random

import numpy as np
import pytest

from dromikon.core.instants import parse
from dromikon.standins.picture.drawing import Tint
from dromikon.standins.picture.figures import draw
from dromikon.standins.picture.frame import HEIGHT, WIDTH, Studio
from dromikon.standins.world.calendar import instant, local_day, opening
from dromikon.standins.world.days import actors
from dromikon.standins.world.provocations import PROVOCATIONS
from dromikon.standins.world.scenes import CAMERAS, LineDetector
from dromikon.standins.world.tracks import in_polygon, walk
from dromikon.standins.world.world import World

NOON = parse("2026-11-25T12:00:00Z")


@pytest.fixture(scope="module")
def studio(tmp_path_factory):
    return Studio(World(), tmp_path_factory.mktemp("scenery"))


def test_the_same_seed_and_day_give_the_same_people():
    day = local_day(NOON)
    actors.cache_clear()
    first = actors(54, "visitor_gate", day)
    actors.cache_clear()
    assert actors(54, "visitor_gate", day) == first != actors(55, "visitor_gate", day)


@pytest.mark.parametrize(
    "camera", [c.id for c in CAMERAS.values() if any(isinstance(d, LineDetector) for d in c.detectors)]
)
def test_every_line_report_is_a_path_that_changes_sides_there(camera):
    world = World()
    place = CAMERAS[camera]
    line = next(d for d in place.detectors if isinstance(d, LineDetector))
    people = {a.id: a for a in actors(54, place.scene, local_day(NOON))}
    (ax, ay), (bx, by) = line.a, line.b

    def side(x, y):
        return (bx - ax) * (y - ay) - (by - ay) * (x - ax)

    checked = 0
    for report in world.reports(camera, NOON - 6 * 3_600_000, NOON + 5 * 3_600_000):
        if not report.topic.endswith("Crossed"):
            continue
        data = dict(report.data)
        actor = people[int(data["ObjectId"])]
        before, after = actor.at(report.at - 40), actor.at(report.at + 40)
        assert side(before.x, before.y) * side(after.x, after.y) < 0
        assert (data["Direction"] == "Right") is (side(before.x, before.y) > 0)
        checked += 1
    assert checked >= 3


def test_stays_in_an_area_are_solved_at_its_border():
    zone = ((0, 0), (4, 0), (4, 4), (0, 4))
    actor = walk(1, "human", 0, 1.0, [(-2, 2, 0), (2, 2, 10), (6, 2, 0)], 1)
    assert list(actor.stays(zone)) == [(2_000, 16_000)]
    assert in_polygon(1, 1, zone) and not in_polygon(5, 1, zone)


def test_whoever_is_provoked_walks_in_before_they_cross():
    world = World()
    world.provoke("cross-jetty", NOON)
    crossing = next(
        r for r in world.reports("jetty", NOON, NOON + 30_000) if dict(r.data)["ObjectId"].startswith("9000")
    )
    assert 8_000 < crossing.at - NOON < 13_000
    seen = [a for a in world.present("boathouse", crossing.at - 5_000) if a.id >= 9_000_000]
    assert len(seen) == 1 and seen[0].cls == "human"


def test_the_kept_journal_makes_the_past_the_same_after_a_restart(tmp_path):
    journal = tmp_path / "journal.jsonl"
    world = World(journal=journal)
    for name in PROVOCATIONS:
        world.provoke(name, NOON)
    world.command_relay("jetty", "storm-light", True, NOON)
    again = World(journal=journal)
    for camera in CAMERAS:
        assert again.reports(camera, NOON, NOON + 120_000) == world.reports(camera, NOON, NOON + 120_000)
    assert again.relay("jetty", "storm-light", NOON + 1) and not again.relay("jetty", "storm-light", NOON - 1)
    assert again.cut_off("yard", NOON + 1000) and not again.cut_off("yard", NOON + 95_000)


def test_the_picture_shows_who_crosses_where_the_line_is(studio):
    world = studio.world
    world.provoke("cross-jetty", NOON)
    at = next(r.at for r in world.reports("jetty", NOON, NOON + 30_000) if dict(r.data)["ObjectId"].startswith("9"))
    lens = CAMERAS["jetty"].lens
    walker = next(a for a in world.present("boathouse", at) if a.id >= 9_000_000)
    here = walker.at(at)
    u, v, _ = lens.project(here.x, here.y, 0.5, WIDTH, HEIGHT)
    empty, shown = (
        np.asarray(Studio(World(), studio._cache).frame("jetty", at), int),
        np.asarray(studio.frame("jetty", at), int),
    )
    there = slice(int(v) - 30, int(v)), slice(int(u) - 8, int(u) + 8)
    assert np.abs(shown[there] - empty[there]).mean() > 12, "somebody stands on the boards"
    assert np.abs(shown[:60, :60] - empty[:60, :60]).mean() < 1, "and nothing else has changed"


def test_what_stands_behind_a_wall_is_hidden(studio):
    depth = studio.depth("gate")
    lens = CAMERAS["gate"].lens
    u, v, away = lens.project(8.0, 20.0, 0.9, WIDTH, HEIGHT)
    assert depth[int(v), int(u)] < away, "the brick wall is nearer than somebody behind it"


def test_night_is_grey_and_day_is_not(studio):
    night, day = (np.asarray(studio.frame("gate", at), int) for at in (NOON + 9 * 3_600_000, NOON))
    spread = lambda picture: (picture.max(-1) - picture.min(-1)).mean()
    assert spread(night) < 8 < spread(day)
    assert night.mean() < day.mean()


@pytest.mark.parametrize("cls", ["human", "animal", "vehicle"])
def test_figures_grow_as_they_come_nearer(cls):
    lens = CAMERAS["yard"].lens
    sizes = []
    for y in (40.0, 20.0, 10.0):
        actor = walk(1, cls, 0, 1.0, [(0, y, 0), (3, y, 0)], 11)
        figure = draw(actor, actor.at(500), lens, Tint(1, 1, 1), WIDTH, HEIGHT, 0.0)
        sizes.append(figure.image.height)
    assert sizes == sorted(sizes) and sizes[0] < sizes[-1]


def test_the_garden_keeps_its_hours():
    day = local_day(NOON)
    assert opening(day) == (10.0, 16.0)
    assert opening(day.replace(month=12, day=25)) is None
    gate = [a.start for a in actors(54, "visitor_gate", day) if a.cls == "human"]
    by_day = sum(instant(day, 10) <= s < instant(day, 16) for s in gate)
    by_night = sum(s < instant(day, 6) for s in gate)
    assert by_day > 100 > 10 > by_night


def test_geese_cross_the_jetty_at_dawn():
    day = local_day(NOON)
    dawn = World().reports("jetty", instant(day, 6), instant(day, 9))
    assert any(dict(r.data)["ClassTypes"] == "Animal" for r in dawn)


def test_walks_take_the_time_their_length_needs():
    rnd = random.Random(1)
    for _ in range(20):
        places = [(rnd.uniform(-9, 9), rnd.uniform(-9, 9), 0) for _ in range(4)]
        actor = walk(1, "human", 0, 1.5, places, 1)
        length = sum(math.dist(a[:2], b[:2]) for a, b in zip(places, places[1:], strict=False))
        assert actor.end == pytest.approx(length / 1.5 * 1000, abs=3)
        assert actor.walked[-1] == pytest.approx(length)
