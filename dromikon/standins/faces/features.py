"""What makes a drawn face somebody's: the same for the same look, for ever."""

import random
from functools import lru_cache
from typing import NamedTuple

from dromikon.standins.picture.clothes import clothes_of


class Features(NamedTuple):
    """Of a face seen from the front. Lengths are shares of the head's half height; `beard` and `lids` are 0 to 1."""

    skin: str
    hair: str
    wide: float
    apart: float
    eye: float
    brow: float
    slant: float
    nose: float
    mouth: float
    lips: float
    beard: float
    fringe: float
    glasses: bool


def look_of(person: str) -> int:
    """By which somebody with a name is drawn."""
    return random.Random(f"look/{person}").randrange(1 << 30)


@lru_cache(maxsize=1024)
def features_of(look: int) -> Features:
    clothes, rnd = clothes_of(look), random.Random(f"face/{look}")
    return Features(
        skin=clothes.skin, hair=clothes.hair, wide=rnd.uniform(0.76, 0.92), apart=rnd.uniform(0.27, 0.38),
        eye=rnd.uniform(0.07, 0.12), brow=rnd.uniform(0.05, 0.13), slant=rnd.uniform(-0.10, 0.10),
        nose=rnd.uniform(0.22, 0.42), mouth=rnd.uniform(0.16, 0.34), lips=rnd.uniform(0.06, 0.15),
        beard=rnd.choice((0.0, 0.0, 0.0, rnd.uniform(0.3, 1.0))), fringe=rnd.uniform(0.25, 0.62),
        glasses=rnd.random() < 0.25,
    )  # fmt: skip
