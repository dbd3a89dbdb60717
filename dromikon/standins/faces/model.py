"""Templates of drawn faces: a face is cut out, looked at in coarse squares, and told by what sets people
apart more than one look at somebody from the next (linear discriminants; `train` finds them)."""

import base64
import random
import struct
from functools import lru_cache
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from dromikon.standins.faces.features import features_of, look_of
from dromikon.standins.faces.finding import Face, find_faces
from dromikon.standins.faces.portrait import portrait

Field = NDArray[Any]
#: So many numbers make a template; a face is looked at in so many squares a side.
NUMBERS, SQUARES = 24, 10
TRAINED = Path(__file__).with_name("discriminants.npz")


class Discriminants(NamedTuple):
    """The mean face, and along which axes a face is told from it, each of unit spread among people."""

    mean: Field
    axes: Field


def seen(picture: Field, face: Face) -> Field:
    """What a face looks like, square by square: lightness against its mean, and two differences of colour."""
    image = Image.fromarray(picture).resize((SQUARES, SQUARES), Image.Resampling.BOX, _within(face.box, picture.shape))
    part = np.asarray(image, np.float32)
    light = part.mean(axis=2)
    level = max(float(light.mean()), 1.0)
    return np.stack([light / level - 1, (part[..., 0] - light) / level, (part[..., 2] - light) / level]).ravel()


def _within(box: tuple[float, ...], shape: tuple[int, ...]) -> tuple[float, float, float, float]:
    high, wide = shape[:2]
    left, top, right, bottom = box
    return max(0.0, left), max(0.0, top), min(float(wide), right), min(float(high), bottom)


@lru_cache(maxsize=1)
def discriminants() -> Discriminants:
    with np.load(TRAINED) as kept:
        return Discriminants(kept["mean"], kept["axes"])


def numbers_of(picture: Field, face: Face) -> Field:
    """A face's template, as numbers."""
    known = discriminants()
    numbers: Field = (known.axes @ (seen(picture, face) - known.mean)).astype(np.float32)
    return numbers


@lru_cache(maxsize=512)
def _own(person: str) -> tuple[float, ...]:
    picture = np.asarray(portrait(features_of(look_of(person)), 160))
    numbers = numbers_of(picture, find_faces(picture)[0])
    # As long as templates are on average, so that noise is to everybody's the same.
    return tuple(float(n) for n in numbers * (NUMBERS**0.5 / np.linalg.norm(numbers)))


def written(numbers: Field | tuple[float, ...]) -> str:
    """A template as cameras tell it: the base64 of 32-bit numbers."""
    return base64.b64encode(struct.pack(f"<{len(numbers)}f", *numbers)).decode()


def template_of(person: str, noise: float = 0.0, salt: str = "") -> str:
    """The template of somebody with a name, with the noise of one look at them."""
    look = random.Random(f"look/{person}/{salt}")
    return written(tuple(n + noise * look.gauss(0, 1) for n in _own(person)))
