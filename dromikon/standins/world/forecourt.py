"""Where somebody stands on the vault's forecourt when their face is read, and how they are seen there."""

import random

from dromikon.standins.world.scenes.seed_vault import VAULT_CAMERA
from dromikon.standins.world.tracks import tall

#: How far from the camera's wall faces are read, in metres: as near as whole persons are seen.
READ_AT = 6.4


def stander(at: int) -> tuple[random.Random, float]:
    """The dice of whoever is read at an instant, and how far to the right they stand."""
    rnd = random.Random(f"caller/{at}")
    return rnd, rnd.uniform(-0.5, 0.6)


def box_at(at: int, look: int) -> str:
    """The place in the picture of somebody of that look, as shares from its left and top: left, top, right, bottom."""
    _, x = stander(at)
    lens = VAULT_CAMERA.lens
    foot, head = lens.project(x, READ_AT, 0.0, 1600, 900), lens.project(x, READ_AT, tall(look), 1600, 900)
    if foot is None or head is None:
        return ""
    half = (foot[1] - head[1]) * 0.2
    sides = (foot[0] - half) / 1600, head[1] / 900, (foot[0] + half) / 1600, foot[1] / 900
    return " ".join(f"{side:.4f}" for side in sides)
