"""What a camera's own analytics report: computed from what moves, as it is seen through the camera's lens."""

import random
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from dromikon.standins.world.detectors import Detector, LineDetector, StayDetector
from dromikon.standins.world.reports import Items, Rectangle, Report
from dromikon.standins.world.scenes import Camera
from dromikon.standins.world.sky import light, raining
from dromikon.standins.world.tracks import Actor

CROSSED = "tns1:RuleEngine/LineDetector/Crossed"
LOITERING = "tns1:RuleEngine/LoiteringDetector/ObjectIsLoitering"
INPUT = "tns1:Device/Trigger/DigitalInput"
#: How tall things are, in metres.
TALL = {"human": 1.72, "vehicle": 2.3, "animal": 0.7, "thing": 0.46}
#: How wide they are for each metre of height.
WIDE = {"human": 0.55, "vehicle": 1.4, "animal": 1.3, "thing": 0.8}
NAMED = {"human": "Human", "vehicle": "Vehicle", "animal": "Animal", "thing": "Other"}


def reports_of(place: Camera, detectors: Iterable[Detector], actor: Actor, seed: int) -> Iterator[Report]:
    """Everything that one person, vehicle or animal sets off at a camera."""
    for detector in detectors:
        if isinstance(detector, LineDetector):
            yield from _crossings(place, detector, actor, seed)
        elif isinstance(detector, StayDetector):
            yield from _stays(place, detector, actor, seed)
    if "gate-contact" in place.inputs and actor.cls == "vehicle":
        yield from _gate_contact(actor)


def resting(place: Camera, detectors: Iterable[Detector], at: int) -> Iterator[Report]:
    """Every property while nothing is the matter."""
    for detector in detectors:
        if isinstance(detector, StayDetector):
            yield Report(at, LOITERING, _source(detector), (("State", "false"),), property=True)
    for name in place.inputs:
        yield Report(at, INPUT, (("InputToken", name),), (("LogicalState", "false"),), property=True)


def _source(detector: Detector) -> Items:
    return (
        ("VideoSourceConfigurationToken", "vsc0"),
        ("VideoAnalyticsConfigurationToken", "analytics"),
        ("Rule", detector.name),
    )


def _crossings(place: Camera, detector: LineDetector, actor: Actor, seed: int) -> Iterator[Report]:
    for at, rightwards in actor.crossings(detector.a, detector.b):
        direction = "Right" if rightwards else "Left"
        seen = _seen(place, detector, actor, at, seed)
        if seen is not None and detector.direction in ("Any", direction):
            data = (("ObjectId", str(actor.id)), *_told(seen), ("Direction", direction))
            yield Report(at, CROSSED, _source(detector), data, box=seen.box)


def _stays(place: Camera, detector: StayDetector, actor: Actor, seed: int) -> Iterator[Report]:
    for begun, left in actor.stays(detector.zone):
        told = begun + detector.threshold * 1000
        seen = _seen(place, detector, actor, told, seed) if told < left else None
        if seen is not None:
            known = (("ObjectId", str(actor.id)), *_told(seen))
            begins = (*known, ("State", "true"))
            yield Report(told, LOITERING, _source(detector), begins, property=True, box=seen.box)
            yield Report(left, LOITERING, _source(detector), (*known, ("State", "false")), property=True)


@dataclass(frozen=True, slots=True)
class Look:
    """What the analytics make of one thing: its class, how certain that is, its height as part of the picture's, and where
    it is."""

    named: str
    certain: float
    height: float
    box: Rectangle


def _seen(place: Camera, detector: LineDetector | StayDetector, actor: Actor, at: int, seed: int) -> Look | None:
    """None outside the picture, and for what the detector does not look for."""
    found = looked_at(place, actor, at, seed)
    if found is None or found.certain < detector.confidence:
        return None
    return found if not detector.classes or found.named in detector.classes else None


def _told(look: Look) -> Items:
    """Class, likelihood and height in the picture."""
    return ("ClassTypes", look.named), ("Likelihood", f"{look.certain:.3f}"), ("Height", f"{look.height:.3f}")


def looked_at(place: Camera, actor: Actor, at: int, seed: int) -> Look | None:
    """From where the thing really is; None outside the picture."""
    here = actor.at(at)
    foot = place.lens.project(here.x, here.y, here.z, 960, 540) if here else None
    if foot is None or not (0 <= foot[0] < 960 and 0 <= foot[1] < 600):
        return None
    height = place.lens.focal(960) * TALL.get(actor.cls, 1.0) / foot[2] / 540
    rnd = random.Random(f"{actor.id}/{at}")
    # Small and badly lit things are less certain; a goose is now and then taken for something else.
    small = 0.28 * max(0.0, 0.16 - height) / 0.16
    dim = (0.10 if light(at, seed).night else 0) + (0.05 if raining(at, seed) else 0)
    certain = 0.97 - small - dim - rnd.random() * 0.16
    named = NAMED[actor.cls]
    if actor.cls == "animal" and rnd.random() < 0.18:
        named, certain = "Human", certain * 0.62
    return Look(named, max(0.2, certain), height, _box(foot[:2], height, WIDE.get(actor.cls, 1.0)))


def _box(foot: tuple[float, float], height: float, wide: float) -> Rectangle:
    """Around a thing that stands at a pixel of 960 by 540, `height` of the picture tall and `wide` times as wide."""
    x, y, half = foot[0] / 480 - 1, 1 - foot[1] / 270, height * wide * 540 / 960
    return max(-1.0, x - half), min(1.0, y + 2 * height), min(1.0, x + half), max(-1.0, y)


def _gate_contact(actor: Actor) -> Iterator[Report]:
    """The yard gate's contact: on while a vehicle is within eight metres of the gate."""
    zone = ((-6.0, 17.0), (6.0, 17.0), (6.0, 34.0), (-6.0, 34.0))
    source = (("InputToken", "gate-contact"),)
    for begun, left in actor.stays(zone):
        yield Report(begun, INPUT, source, (("LogicalState", "true"),), property=True)
        yield Report(left, INPUT, source, (("LogicalState", "false"),), property=True)
