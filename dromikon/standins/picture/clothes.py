"""What people wear."""

import random
from typing import NamedTuple

COATS = ("#2f4a5c", "#6b2f35", "#3f5a43", "#8a6b3a", "#4a4560", "#23282d", "#7a7f78", "#a0463a", "#c2b48a", "#365f6b")
TROUSERS = ("#23262e", "#3a3f4b", "#4d4438", "#2b3a4f", "#55504a")
HAIR = ("#2a1e16", "#4a3524", "#7a5a36", "#8d8a86", "#1a1716", "#6b3a22")
SKIN = ("#e0b493", "#c99470", "#8f5f43", "#f0cbb0", "#a9744f")


class Clothes(NamedTuple):
    """Colours, and what somebody has about them."""

    coat: str
    trousers: str
    hair: str
    skin: str
    bag: bool
    hat: bool
    long_coat: bool


def clothes_of(look: int) -> Clothes:
    """Of a person of that look."""
    rnd = random.Random(look)
    coat, trousers = rnd.choice(COATS), rnd.choice(TROUSERS)
    hair, skin = rnd.choice(HAIR), rnd.choice(SKIN)
    return Clothes(coat, trousers, hair, skin, rnd.random() < 0.35, rnd.random() < 0.3, rnd.random() < 0.4)
