"""Value noise over the plane: the same at the same place, for ever."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

Field = NDArray[Any]


def _hash(ix: Field, iy: Field, salt: int) -> Field:
    n = ix.astype(np.uint32) * np.uint32(374761393) + iy.astype(np.uint32) * np.uint32(668265263)
    n = n + np.uint32(salt * 2246822519 & 0xFFFFFFFF)
    n = (n ^ (n >> np.uint32(13))) * np.uint32(1274126177)
    n = n ^ (n >> np.uint32(16))
    return (n & np.uint32(0xFFFF)).astype(np.float32) / 65535.0


def noise(x: Field, y: Field, salt: int = 0) -> Field:
    """Smooth noise in 0..1 with features about one unit wide."""
    fx, fy = np.floor(x), np.floor(y)
    ix, iy = fx.astype(np.int32), fy.astype(np.int32)
    u, v = x - fx, y - fy
    u, v = (u * u * (3 - 2 * u)).astype(np.float32), (v * v * (3 - 2 * v)).astype(np.float32)
    top = _hash(ix, iy, salt) * (1 - u) + _hash(ix + 1, iy, salt) * u
    low = _hash(ix, iy + 1, salt) * (1 - u) + _hash(ix + 1, iy + 1, salt) * u
    return top * (1 - v) + low * v


def layers(x: Field, y: Field, octaves: int = 3, salt: int = 0) -> Field:
    """Noise over several scales, in 0..1."""
    total, weight, scale = np.zeros_like(x, dtype=np.float32), 0.0, 1.0
    for i in range(octaves):
        total += noise(x * scale, y * scale, salt + i) / scale
        weight += 1 / scale
        scale *= 2.1
    return total / weight
