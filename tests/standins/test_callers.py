"""Whoever is told of is seen: at the moment of a message, somebody is where it says."""

from itertools import pairwise

import pytest

from dromikon.standins.world.calendar import local_day
from dromikon.standins.world.calls import call_reports
from dromikon.standins.world.days import actors
from dromikon.standins.world.forecourt import READ_AT
from dromikon.standins.world.plant.turnstile import LANE
from dromikon.standins.world.plant.wicket import MISREADS
from dromikon.standins.world.scenes import CAMERAS
from dromikon.standins.world.world import World

NOON = 1_795_607_400_000
HOUR = 3_600_000


@pytest.fixture(scope="module")
def world():
    return World()


def told(world, kind, point, hours=30):
    return [s for s in world.signals(NOON - hours * HOUR, NOON) if s.kind == kind and s.point == point]


def near(world, scene, at, place, metres):
    found = [(a, a.at(at)) for a in world.present(scene, at)]
    return [a for a, here in found if here and abs(here.x - place[0]) <= metres and abs(here.y - place[1]) <= metres]


def test_a_plate_that_is_read_is_on_a_vehicle_that_stands_there(world):
    reads = told(world, "plate.read", "service-plates")
    assert len(reads) > 10
    for signal in reads:
        (car, *_) = near(world, "service_gate", signal.at, (0, 10), 1.6)
        shown, read = car.sign.replace(" ", ""), signal.fields["plate"]
        wrong = [(a, b) for a, b in zip(shown, read, strict=True) if a != b]
        assert all(MISREADS[a] == b for a, b in wrong) and len(wrong) <= 1, (
            "it has what is written on it, or a misreading"
        )


def test_whoever_rings_stands_at_the_wicket_and_whoever_shows_a_face_before_the_camera(world):
    rung, faces = told(world, "call.rung", "wicket"), told(world, "face.seen", "vault-face")
    assert len(rung) > 3 and len(faces) > 3
    for signal in rung:
        assert near(world, "service_gate", signal.at, (6.0, 10.4), 0.6)
    for signal in faces:
        assert near(world, "seed_vault", signal.at, (0, READ_AT), 1.0)


def test_whoever_is_let_in_goes_through_a_door_that_stands_open(world):
    let_in = told(world, "access.granted", "vault-door")
    assert len(let_in) > 3
    for signal in let_in:
        opened = next(s.at for s in world.signals(signal.at, signal.at + 5_000) if s.kind == "door.open")
        assert world.door_open("vault", opened + 500) and not world.door_open("vault", signal.at - 500)
        through = [t for t in range(opened, opened + 9_000, 200) if near(world, "seed_vault", t, (0, 14), 1.3)]
        assert through, "somebody is in the doorway while it is open"


def test_the_palm_houses_door_opens_for_somebody(world):
    opened = [s for s in told(world, "door.open", "palm-door") if s.phase == "begin"]
    assert opened and all(near(world, "palm_house", s.at + 1_200, (0, 14.5), 2.6) for s in opened)


@pytest.mark.parametrize(
    ("name", "scene"), [("unknown-plate", "service_gate"), ("ring", "service_gate"), ("force-vault", "seed_vault")]
)
def test_nobody_who_is_provoked_stands_in_the_picture_at_once(name, scene):
    from dromikon.standins.world.scenes import CAMERAS

    world = World()
    before = {a.start for a in world.present(scene, NOON)}
    world.provoke(name, NOON)
    lens = next(c.lens for c in CAMERAS.values() if c.scene == scene)
    come = [a for at in range(NOON, NOON + 12_000, 500) for a in world.present(scene, at) if a.start not in before]
    assert come
    for actor in come:
        here = actor.at(max(actor.start, NOON))
        seen = lens.project(here.x, here.y, 0, 960, 540) if here else None
        assert seen is None or not (20 < seen[0] < 940 and seen[1] < 540), (name, here)


def test_whoever_passes_the_turnstile_has_shown_a_ticket_and_is_counted(world):
    let_in = told(world, "access.granted", "turnstile")
    assert len(let_in) > 50
    for signal in let_in:
        assert near(world, "visitor_gate", signal.at + 1_100, (0, 13.7), 0.96), "somebody is in the lane"
    counts = [s for s in told(world, "scene.count", "entrance-count") if local_day(s.at) == local_day(NOON)]
    passed = [
        at
        for actor in actors(world.seed, "visitor_gate", local_day(NOON))
        for at, inwards in actor.crossings(*LANE)
        if inwards and actor.cls == "human"
    ]
    for count in counts:
        assert count.fields["value"] == sum(at < count.at for at in passed)
    by_ticket = [s for s in let_in if str(s.fields["card"]).startswith("T-")]
    assert all(not s.fields["person"] for s in by_ticket) and len(by_ticket) > 40


def test_whoever_leaves_goes_beside_the_turnstile(world):
    everybody = actors(world.seed, "visitor_gate", local_day(NOON))
    leaving = [a for a in everybody if a.cls == "human" and a.ys[0] < 0 and a.ys[-1] > 20]
    assert len(leaving) > 50
    for actor in leaving:
        (at,) = [at for at, inwards in actor.crossings((-6, 13.7), (6, 13.7)) if not inwards]
        assert abs(actor.at(at).x) > 1.2


def test_a_call_has_a_beginning_and_an_end_and_the_bell_sees_who_it_is(world):
    rung, ended = told(world, "call.rung", "wicket"), told(world, "call.ended", "wicket")
    assert len(rung) > 3 and abs(len(rung) - len(ended)) <= 1
    states = [r.data[0][1] for r in call_reports(world.signals(NOON - 30 * HOUR, NOON), "wicket")]
    assert {"Ringing", "Talking", "Idle"} == set(states)
    assert all(b != "Ringing" or a == "Idle" for a, b in pairwise(states))
    bell = CAMERAS["bell"]
    for signal in rung:
        (visitor, *_) = near(world, "service_gate", signal.at, (6.15, 10.9), 0.4)
        here = visitor.at(signal.at)
        x, _, _ = bell.lens.project(here.x, here.y, 1.5, 960, 540)
        assert 240 < x < 720
