"""What a scene is: ground, scenery, a camera and its lens. Each scene has its own origin: metres, x east, y north, z up."""

from dataclasses import dataclass, field
from typing import Literal

from dromikon.standins.world.detectors import Detector
from dromikon.standins.world.geometry import Ball, Lens, Solid, box, gable
from dromikon.standins.world.tracks import Place


@dataclass(frozen=True)
class Patch:
    """A polygon of ground of one material; later patches lie on top."""

    material: str
    outline: tuple[Place, ...]


@dataclass(frozen=True)
class Preset:
    """A position that a movable camera knows by name."""

    token: str
    name: str
    lens: Lens


@dataclass(frozen=True)
class Camera:
    """A stand-in camera: its lens, detectors, contacts and relays; one that can be moved has presets, and its lens is that
    of the first."""

    id: str
    scene: str
    title: str
    model: str
    serial: str
    lens: Lens
    detectors: tuple[Detector, ...] = ()
    inputs: tuple[str, ...] = ()
    relays: tuple[str, ...] = ()
    #: Whether it has a speaker.
    speaks: bool = False
    #: Whether it has a microphone.
    hears: bool = False
    #: Relays that go off by themselves, with seconds.
    ends: tuple[tuple[str, float], ...] = ()
    presets: tuple[Preset, ...] = ()
    #: It sees heat instead of light.
    thermal: bool = False


@dataclass(frozen=True)
class Glow:
    """What one sees of a relay that is on: a lamp, a lit panel, a mist. `radius`: in metres."""

    relay: str
    place: tuple[float, float, float]
    colour: tuple[int, int, int] = (255, 214, 140)
    radius: float = 0.7


@dataclass(frozen=True)
class Puddle:
    """Water on the floor while an input of the garden is on: its point, and where it spreads."""

    point: str
    outline: tuple[Place, ...]


#: Out of doors; under glass, where daylight comes from everywhere; in a room, which is lit while somebody is in it, or always.
Roof = Literal["", "glass", "room", "manned"]


@dataclass(frozen=True)
class Scene:
    """A piece of the garden. `decks` lie above the ground: (outline, height)."""

    id: str
    base: str
    patches: tuple[Patch, ...]
    things: tuple[Solid | Ball, ...]
    decks: tuple[tuple[tuple[Place, ...], float], ...] = ()
    lamps: tuple[tuple[float, float, float], ...] = ()
    glows: tuple[Glow, ...] = ()
    puddles: tuple[Puddle, ...] = ()
    roof: Roof = ""
    #: How warm things of a material are, in °C, or the point whose measured temperature they have.
    warm: tuple[tuple[str, float | str], ...] = ()
    hills: float = 1.0
    treeline: float = field(default=1.0)
    #: Leaves of doors that stand open or shut as the door controller knows: its door, and the four corners of the opening.
    leaves: tuple[tuple[str, tuple[tuple[float, float, float], ...]], ...] = ()


def rectangle(x0: float, y0: float, x1: float, y1: float) -> tuple[Place, ...]:
    return ((x0, y0), (x1, y0), (x1, y1), (x0, y1))


def tree(x: float, y: float, height: float, spread: float, material: str = "leaves") -> tuple[Solid | Ball, ...]:
    """A trunk and three overlapping crowns."""
    top = height - spread * 0.8
    return (
        box(x - 0.16, y - 0.16, 0, x + 0.16, y + 0.16, top, "bark"),
        Ball((x, y, top), (spread, spread, spread * 0.8), material),
        Ball(
            (x + spread * 0.55, y - spread * 0.2, top - spread * 0.35),
            (spread * 0.7, spread * 0.65, spread * 0.5),
            material,
        ),
        Ball(
            (x - spread * 0.5, y + spread * 0.3, top - spread * 0.25),
            (spread * 0.7, spread * 0.7, spread * 0.55),
            material,
        ),
    )


def lamp_post(x: float, y: float, height: float = 3.4) -> tuple[Solid | Ball, ...]:
    return (
        box(x - 0.05, y - 0.05, 0, x + 0.05, y + 0.05, height, "iron"),
        box(x - 0.18, y - 0.18, height, x + 0.18, y + 0.18, height + 0.35, "lantern"),
        gable(x - 0.26, y - 0.26, height + 0.35, x + 0.26, y + 0.26, height + 0.6, "iron"),
    )


def room(
    x0: float, y0: float, x1: float, y1: float, height: float, wall: str, ceiling: str = "plaster"
) -> tuple[Solid, ...]:
    """Four walls and a ceiling around a floor."""
    t = 0.3
    return (
        box(x0 - t, y0 - t, 0, x0, y1 + t, height, wall),
        box(x1, y0 - t, 0, x1 + t, y1 + t, height, wall),
        box(x0, y0 - t, 0, x1, y0, height, wall),
        box(x0, y1, 0, x1, y1 + t, height, wall),
        box(x0 - t, y0 - t, height, x1 + t, y1 + t, height + t, ceiling),
    )
