"""What is provoked is walked through, and our own detectors see it: a bag that is left and taken, somebody who runs."""

import pytest

from dromikon.core.devices.frames import SceneFrame, Seen
from dromikon.core.instants import parse
from dromikon.core.scene.detecting import Detecting
from dromikon.core.scene.sight import sight_of
from dromikon.demo.quillmere import OWN
from dromikon.scene.own import DETECTOR
from dromikon.standins.onvif.seen import things_at
from dromikon.standins.world.scenes import CAMERAS
from dromikon.standins.world.world import World

AT = parse("2026-12-01T02:00:00Z")


def told(provocation, camera, detectors, seconds):
    """Kind and phase of what detectors tell of a provocation, with the second."""
    world, detecting, found = World(), Detecting(detectors), []
    world.provoke(provocation, AT)
    for at in range(AT, AT + seconds * 1000, 200):
        things = things_at(world, CAMERAS[camera], at)
        seen = tuple(Seen(str(t.actor.id), t.look.named, t.look.certain, t.box) for t in things)
        for one in detecting.take(sight_of(SceneFrame(at, seen))):
            found.append((one.kind, one.phase.value, (one.at - AT) / 1000))
    return found


def own(id):
    return {id: next(DETECTOR.validate_python(watch) for name, _, _, _, watch in OWN if name == id)}


def test_a_bag_is_left_behind_until_somebody_comes_for_it_and_takes_it_away():
    left = own("gate-things")
    taken = {"taken": DETECTOR.validate_python({"detects": "taken_away", "corners": left["gate-things"].corners})}
    (begun, ended, gone) = told("leave-bag", "gate", {**left, **taken}, 160)
    assert (begun[:2], ended[:2], gone[:2]) == (("scene.left_behind", "begin"), ("scene.left_behind", "end"), ("scene.taken_away", "pulse"))  # fmt: skip
    assert 60 < begun[2] < 80 and ended[2] < gone[2]


def test_whoever_runs_is_told_of_and_a_visitor_is_not():
    assert [kind for kind, _, _ in told("run-palms", "palms", own("palm-walk"), 30)] == ["scene.running"]


@pytest.mark.parametrize("provocation", ["leave-bag", "run-palms"])
def test_nobody_appears_out_of_nothing(provocation):
    scene, camera = ("visitor_gate", "gate") if provocation == "leave-bag" else ("palm_inside", "palms")
    world = World()
    world.provoke(provocation, AT)
    assert list(things_at(world, CAMERAS[camera], AT + 200)) == [], "whoever comes walks in from outside"
    assert [a for a in world.present(scene, AT + 200) if a.cls == "thing"] == []
