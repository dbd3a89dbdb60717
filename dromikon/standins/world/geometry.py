"""Solids that scenery is made of, and cameras that project it. Metres; x east, y north, z up."""

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

#: Four numbers (a, b, c, d): what lies at ax + by + cz <= d is inside.
Plane = tuple[float, float, float, float]


@dataclass(frozen=True)
class Solid:
    """A convex body as the meeting of half-spaces n·p <= d, with a material. `corners` bound it."""

    planes: tuple[Plane, ...]
    corners: tuple[tuple[float, float, float], ...]
    material: str


@dataclass(frozen=True)
class Ball:
    """An ellipsoid: crowns of trees and shrubs, whose edge is ragged, or what is `smooth`."""

    centre: tuple[float, float, float]
    radii: tuple[float, float, float]
    material: str
    smooth: bool = False


def box(x0: float, y0: float, z0: float, x1: float, y1: float, z1: float, material: str) -> Solid:
    """An upright box."""
    planes = ((1, 0, 0, x1), (-1, 0, 0, -x0), (0, 1, 0, y1), (0, -1, 0, -y0), (0, 0, 1, z1), (0, 0, -1, -z0))
    corners = tuple((x, y, z) for x in (x0, x1) for y in (y0, y1) for z in (z0, z1))
    return Solid(planes, corners, material)


def gable(x0: float, y0: float, z0: float, x1: float, y1: float, z1: float, material: str, along: str = "y") -> Solid:
    """A pitched roof over a rectangle, its ridge along `along` at height z1."""
    low, high = (x0, x1) if along == "y" else (y0, y1)
    half, rise = (high - low) / 2, z1 - z0
    length = math.hypot(half, rise)
    a, b, middle = rise / length, half / length, (low + high) / 2
    d = a * middle
    slopes: tuple[Plane, Plane]
    ends: tuple[Plane, Plane]
    if along == "y":
        slopes = ((a, 0, b, d + b * z1), (-a, 0, b, -d + b * z1))
        ends = ((0, 1, 0, y1), (0, -1, 0, -y0))
    else:
        slopes = ((0, a, b, d + b * z1), (0, -a, b, -d + b * z1))
        ends = ((1, 0, 0, x1), (-1, 0, 0, -x0))
    corners = tuple((x, y, z) for x in (x0, x1) for y in (y0, y1) for z in (z0, z1))
    return Solid((*slopes, *ends, (0.0, 0.0, -1.0, -z0)), corners, material)


def slab(x0: float, x1: float, y0: float, y1: float, z0: float, z1: float, material: str) -> Solid:
    """A thin pitched roof from height z0 at x0 to z1 at x1."""
    rise = (z1 - z0) / (x1 - x0)
    long = math.hypot(1.0, rise)
    a, c, d, thick = -rise / long, 1 / long, (z0 - rise * x0) / long, 0.12
    planes = ((a, 0, c, d + thick), (-a, 0, -c, -d), (1, 0, 0, x1), (-1, 0, 0, -x0), (0, 1, 0, y1), (0, -1, 0, -y0))
    corners = tuple((x, y, z + up) for x, z in ((x0, z0), (x1, z1)) for y in (y0, y1) for up in (0.0, 0.2))
    return Solid(planes, corners, material)


@dataclass(frozen=True)
class Lens:
    """A pinhole camera: place and height, where it looks (compass degrees), how far down, and how wide (degrees)."""

    x: float
    y: float
    z: float
    looks: float
    tilt: float
    wide: float

    @cached_property
    def axes(self) -> np.ndarray:
        """Rows: right, down, forward."""
        a, t = math.radians(self.looks), math.radians(self.tilt)
        forward = np.array([math.sin(a) * math.cos(t), math.cos(a) * math.cos(t), -math.sin(t)])
        right = np.array([math.cos(a), -math.sin(a), 0.0])
        down = np.cross(forward, right)
        return np.stack([right, down, forward])

    def focal(self, width: int) -> float:
        """Focal length in pixels for a picture of this width."""
        return width / 2 / math.tan(math.radians(self.wide) / 2)

    def project(self, x: float, y: float, z: float, width: int, height: int) -> tuple[float, float, float] | None:
        """Pixel and depth (metres along the axis) of a place, None behind the camera."""
        right, down, forward = self.axes @ np.array([x - self.x, y - self.y, z - self.z])
        if forward < 0.3:
            return None
        f = self.focal(width)
        return float(width / 2 + f * right / forward), float(height / 2 + f * down / forward), float(forward)

    def on_ground(self, x: float, y: float, height: float) -> tuple[float, float] | None:
        """The place at a height that is seen at (x, y) of the picture, from -1 to 1 with y upwards (16:9); None above the
        horizon."""
        half = math.tan(math.radians(self.wide) / 2)
        right, down, forward = self.axes
        ray = forward + x * half * right - y * half * 9 / 16 * down
        if ray[2] >= -1e-6:
            return None
        far = (height - self.z) / ray[2]
        return float(self.x + far * ray[0]), float(self.y + far * ray[1])

    def rays(self, width: int, height: int) -> np.ndarray:
        """Directions (height, width, 3), of length such that depth along the axis is 1."""
        f = self.focal(width)
        u = (np.arange(width) + 0.5 - width / 2) / f
        v = (np.arange(height) + 0.5 - height / 2) / f
        right, down, forward = self.axes
        return (u[None, :, None] * right + v[:, None, None] * down + forward).astype(np.float32)
