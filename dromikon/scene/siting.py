"""What a camera's picture suffices for, as pages and API have it."""

from typing import Any

from django.db.models import Q

from dromikon.core.kinds import Kind
from dromikon.core.optics import (
    FACE,
    FACE_AT,
    FACE_PIXELS,
    PERSON,
    PLATE,
    PLATE_AT,
    PLATE_PIXELS,
    PURPOSES,
    Mounting,
    Optics,
    concerns,
    too_far,
)
from dromikon.core.scene.shapes import Corner
from dromikon.core.words import t
from dromikon.scene.camera import optics_of
from dromikon.scene.own import own_of, watched
from dromikon.sources.models import Point
from dromikon.sources.offers import kinds_of

#: A person is shown there until somebody moves them.
FIRST_PLACE = (0.5, 0.7)


def suffices(camera: Point, mounting: Mounting, place: Corner = FIRST_PLACE) -> dict[str, Any]:
    """All about a mounting: bands with the line at which each ends in the picture, where faces and plates can be read, what is asked
    for and cannot be given, and somebody who stands at a place of the picture. Distances in metres, along the ground."""
    optics = Optics(mounting)
    return {
        "view": round(optics.view, 1), "near": _metres(optics.near), "far": _metres(optics.far),
        "bands": list(bands(optics)),
        "faces": _stretch(optics, FACE, FACE_PIXELS, FACE_AT), "plates": _stretch(optics, PLATE, PLATE_PIXELS, PLATE_AT),
        "concerns": [*concerns(mounting, *_reads(camera)), *_asked_too_much(camera, optics)],
        "person": _person(optics, place),
    }  # fmt: skip


def bands(optics: Optics) -> list[dict[str, Any]]:
    """The ground by purposes, the nearest first. `line`: where in the picture a band ends, as a share from its top."""
    return [
        {
            "purpose": b.purpose, "label": t(PURPOSES[b.purpose][0]), "wants": PURPOSES[b.purpose][1],
            "near": _metres(b.near), "far": _metres(b.far), "line": _line(optics, b.far),
        }
        for b in optics.bands()
    ]  # fmt: skip


def doubt(camera: Point, point: Point) -> str:
    """What is wrong with a detector of our own for how its camera hangs; empty for nothing, or while that is not known."""
    optics, detector = optics_of(camera), watched(point)
    people = detector is not None and "human" in (detector.classes or ("human",))
    return too_far(optics, detector.corners) if optics and detector and people else ""


def _metres(value: float) -> float:
    return round(value, 1)


def _line(optics: Optics, far: float) -> float | None:
    place = optics.place(0.0, far)
    return round(place[1], 4) if place and 0 <= place[1] <= 1 else None


def _stretch(optics: Optics, width: float, pixels: float, height: float) -> list[float] | None:
    found = optics.stretch(width, pixels, height)
    return [_metres(end) for end in found] if found else None


def _reads(camera: Point) -> tuple[bool, bool]:
    """Whether something below the camera, or something that it looks at, reads faces, and plates."""
    reading = Point.objects.filter(Q(channel=camera) | Q(sightlines__camera=camera), kind="detector", retired_at=None)
    kinds: list[Kind] = [k for point in reading.select_related("device").distinct() for k in kinds_of(point)]
    return any(k.name.startswith("face.") for k in kinds), any(k.name.startswith("plate.") for k in kinds)


def _asked_too_much(camera: Point, optics: Optics) -> list[str]:
    """Detectors of our own that are asked about what is too far."""
    found = ((p, watched(p)) for p in own_of(camera))
    said = ((p, too_far(optics, d.corners)) for p, d in found if d and "human" in (d.classes or ("human",)))
    return [f"{point.name}: {words}" for point, words in said if words]


def _person(optics: Optics, place: Corner) -> dict[str, Any] | None:
    """Somebody of usual height at a place of the picture; None where nobody can stand."""
    box, foot = optics.person(*place), optics.ground(*place)
    if box is None or foot is None:
        return None
    purpose = optics.purpose_at(foot[1])
    return {
        "box": [round(side, 4) for side in box], "away": _metres(foot[1]),
        "pixels": round(optics.density(foot[1], PERSON / 2) * PERSON),
        "face": round(optics.density(foot[1], FACE_AT) * FACE), "plate": round(optics.density(foot[1], PLATE_AT) * PLATE),
        "steep": round(optics.steepness(foot[1], FACE_AT)), "density": round(optics.density(foot[1]), 1),
        "purpose": t(PURPOSES[purpose][0]) if purpose else "",
    }  # fmt: skip
