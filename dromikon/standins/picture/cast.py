"""Casting rays into a scene: what each pixel shows, where it is, and what shades it. Done once per camera."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dromikon.standins.picture.materials import MATERIALS
from dromikon.standins.picture.noise import layers, noise
from dromikon.standins.world.geometry import Ball, Lens, Solid
from dromikon.standins.world.scenes import Scene

Field = NDArray[Any]
FAR = np.float32(1e6)


@dataclass
class Surface:
    """Per pixel: colour (linear), normal, place, depth along the axis; which pixels are water or sky; and which thing of the
    scene it shows, -1 for the ground."""

    colour: Field
    normal: Field
    place: Field
    depth: Field
    water: Field
    sky: Field
    rays: Field
    owner: Field


def cast(scene: Scene, lens: Lens, width: int, height: int) -> Surface:
    """Everything about a camera's view that does not depend on light."""
    rays = lens.rays(width, height)
    origin = np.array([lens.x, lens.y, lens.z], np.float32)
    depth, normal, owner = _ground(rays, lens.z)
    for number, thing in enumerate(scene.things):
        rows, columns = _window(thing, lens, width, height)
        part = rays[rows, columns]
        hit, facing = _meet(thing, origin, part)
        nearer = hit < depth[rows, columns]
        depth[rows, columns][nearer] = hit[nearer]
        normal[rows, columns][nearer] = facing[nearer]
        owner[rows, columns][nearer] = number
    sky = depth >= FAR
    place = origin + rays * np.where(sky, 0, depth)[..., None]
    colour, water = _paint(scene, owner, place, sky)
    return Surface(colour, normal, place, depth, water, sky, rays, owner)


def in_shadow(scene: Scene, places: Field, sun: Field) -> Field:
    """For places (n, 3), whether scenery hides the sun."""
    dark = np.zeros(len(places), bool)
    # As the sun sees them: two coordinates across its rays, and how far towards it.
    side = np.cross(sun, (0, 0, 1) if abs(sun[2]) < 0.9 else (1, 0, 0))
    side = side / np.linalg.norm(side)
    axes = np.stack([side, np.cross(sun, side), sun]).astype(np.float32)
    across = np.ascontiguousarray((places @ axes.T).T, np.float32)
    for thing in scene.things:
        left = np.flatnonzero(~dark & _may_shade(thing, across, axes))
        if len(left):
            hit, _ = _meet(thing, places[left], np.broadcast_to(sun, (len(left), 3)))
            dark[left] = (hit > 0.02) & (hit < FAR)
    return dark


def _may_shade(thing: Solid | Ball, across: Field, axes: Field) -> Field:
    """Whether the ray to the sun passes within the square around a thing: a cheap first test."""
    if isinstance(thing, Ball):
        centre, radius = np.array(thing.centre, np.float32), max(thing.radii)
    else:
        corners = np.array(thing.corners, np.float32)
        centre = (corners.min(0) + corners.max(0)) / 2
        radius = float(np.linalg.norm(corners.max(0) - centre))
    right, up, towards = axes @ centre
    return (np.abs(across[0] - right) < radius) & (np.abs(across[1] - up) < radius) & (across[2] < towards + radius)


def _ground(rays: Field, height: float) -> tuple[Field, Field, Field]:
    down = rays[..., 2] < -1e-4
    depth = np.where(down, -height / np.where(down, rays[..., 2], -1), FAR).astype(np.float32)
    normal = np.zeros(rays.shape, np.float32)
    normal[..., 2] = 1
    return depth, normal, np.full(depth.shape, -1, np.int16)


def _window(thing: Solid | Ball, lens: Lens, width: int, height: int) -> tuple[slice, slice]:
    """The part of the picture a thing can be in."""
    if isinstance(thing, Ball):
        (x, y, z), (a, b, c) = thing.centre, thing.radii
        corners = [(x + i * a, y + j * b, z + k * c) for i in (-1, 1) for j in (-1, 1) for k in (-1, 1)]
    else:
        corners = list(thing.corners)
    seen = _in_front((np.array(corners) - (lens.x, lens.y, lens.z)) @ lens.axes.T)
    if not len(seen):
        return slice(0, 0), slice(0, 0)
    focal = lens.focal(width)
    us, vs = width / 2 + focal * seen[:, 0] / seen[:, 2], height / 2 + focal * seen[:, 1] / seen[:, 2]
    rows = slice(int(np.clip(vs.min() - 2, 0, height)), int(np.clip(vs.max() + 3, 0, height)))
    return rows, slice(int(np.clip(us.min() - 2, 0, width)), int(np.clip(us.max() + 3, 0, width)))


#: Nothing nearer to a lens than this is seen, in metres.
NEAREST = 0.02


def _in_front(places: Field) -> Field:
    """Places (n, 3) in a lens's own axes that span what of their hull lies before it: those before it, and where the lines from
    these to those behind come to it."""
    before = places[:, 2] >= NEAREST
    front, behind = places[before], places[~before]
    if not len(front) or not len(behind):
        return front
    share = (front[:, None, 2] - NEAREST) / (front[:, None, 2] - behind[None, :, 2])
    cut = front[:, None, :] + share[..., None] * (behind[None] - front[:, None, :])
    return np.concatenate([front, cut.reshape(-1, 3)])


def _meet(thing: Solid | Ball, origin: Field, rays: Field) -> tuple[Field, Field]:
    """Where rays enter a thing (FAR when they do not), and the outward normal there."""
    return _meet_ball(thing, origin, rays) if isinstance(thing, Ball) else _meet_solid(thing, origin, rays)


def _meet_solid(solid: Solid, origin: Field, rays: Field) -> tuple[Field, Field]:
    enter = np.full(rays.shape[:-1], -FAR, np.float32)
    leave = np.full(rays.shape[:-1], FAR, np.float32)
    face = np.zeros(rays.shape[:-1], np.int8)
    for i, (a, b, c, d) in enumerate(solid.planes):
        n = np.array([a, b, c], np.float32)
        speed = rays @ n
        room = np.float32(d) - origin @ n
        with np.errstate(divide="ignore", invalid="ignore"):
            t = room / speed
        inward, outward = speed < 0, speed > 0
        later = inward & (t > enter)
        enter = np.where(later, t, enter)
        face = np.where(later, i, face)
        leave = np.where(outward & (t < leave), t, leave)
        outside = (speed == 0) & (room < 0)
        leave = np.where(outside, -FAR, leave)
    hit = np.where((enter <= leave) & (enter > 0), enter, FAR).astype(np.float32)
    normals = np.array([p[:3] for p in solid.planes], np.float32)
    return hit, normals[face]


def _meet_ball(ball: Ball, origin: Field, rays: Field) -> tuple[Field, Field]:
    centre, radii = np.array(ball.centre, np.float32), np.array(ball.radii, np.float32)
    o, d = (origin - centre) / radii, rays / radii
    a, b, c = (d * d).sum(-1), (o * d).sum(-1), (o * o).sum(-1) - 1
    inside = b * b - a * c
    t = (-b - np.sqrt(np.maximum(inside, 0))) / a
    hit = np.where((inside > 0) & (t > 0), t, FAR).astype(np.float32)
    place = o + d * np.where(hit < FAR, hit, 0)[..., None]
    if ball.smooth:
        normal = place / radii
        return hit, (normal / np.maximum(np.linalg.norm(normal, axis=-1, keepdims=True), 1e-6)).astype(np.float32)
    # A ragged edge and bumps, so that it reads as leaves.
    grain = layers(place[..., 0] * 7 + place[..., 1] * 3, place[..., 2] * 7 - place[..., 1] * 4, 2, 23)
    rim = np.clip(inside / np.maximum(a, 1e-6), 0, 1)
    ragged = (rim < 0.30) & (grain > 0.35 + rim * 1.5)
    hit = np.where(ragged, FAR, hit)
    normal = place / radii + (grain[..., None] - 0.5) * 1.4
    normal /= np.maximum(np.linalg.norm(normal, axis=-1, keepdims=True), 1e-6)
    return hit, normal.astype(np.float32)


def _paint(scene: Scene, owner: Field, place: Field, sky: Field) -> tuple[Field, Field]:
    colour = np.zeros(place.shape, np.float32)
    water = np.zeros(owner.shape, bool)
    ground = (owner == -1) & ~sky
    _fill(colour, ground, MATERIALS[scene.base], place)
    for patch in scene.patches:
        rough = 0.0 if patch.material == "paint" else 0.25
        mask = ground & _within(place[..., 0], place[..., 1], patch.outline, rough)
        _fill(colour, mask, MATERIALS[patch.material], place)
        water = (water & ~mask) | (mask if patch.material == "water" else False)
    for number, thing in enumerate(scene.things):
        _fill(colour, owner == number, MATERIALS[thing.material], place)
    return colour, water


def _fill(colour: Field, mask: Field, shade: object, place: Field) -> None:
    if mask.any():
        x, y, z = (place[..., i][mask] for i in range(3))
        colour[mask] = shade(x, y, z)  # type: ignore[operator]


def _within(x: Field, y: Field, outline: tuple[tuple[float, float], ...], rough: float) -> Field:
    # A little noise on the border: lawns and paths have no ruled edges.
    x = x + (noise(x * 2.3, y * 2.3, 77) - 0.5) * rough
    inside = np.zeros(x.shape, bool)
    for (x0, y0), (x1, y1) in zip(outline, outline[1:] + outline[:1], strict=True):
        if y0 == y1:
            continue
        crosses = (y0 > y) != (y1 > y)
        inside ^= crosses & (x < (x1 - x0) * (y - y0) / (y1 - y0) + x0)
    return inside
