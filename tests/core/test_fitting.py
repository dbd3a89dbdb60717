"""Whether two pictures show the same place: by edges, whatever the light."""

import numpy as np
import pytest

from dromikon.core.scene.fitting import STILL, TALL, WIDE, fit


def scene(seed):
    """Boxes of different grey before each other."""
    rng, made = np.random.default_rng(seed), np.zeros((TALL, WIDE))
    for _ in range(40):
        x, y = rng.integers(0, WIDE - 20), rng.integers(0, TALL - 15)
        made[y : y + rng.integers(5, 40), x : x + rng.integers(5, 50)] = rng.integers(20, 250)
    return made


@pytest.mark.parametrize("seed", range(5))
def test_the_same_place_in_another_light_is_the_same(seed):
    dim = scene(seed) * 0.3 + 12 + np.random.default_rng(seed).normal(0, 1.5, (TALL, WIDE))
    assert fit(scene(seed), dim).standing == "same"
    assert fit(scene(seed), 255 - scene(seed)).standing == "same"


@pytest.mark.parametrize(("right", "down"), [(8, 0), (-12, 5), (0, -6), (20, 10)])
def test_how_far_things_have_moved_is_told(right, down):
    found = fit(scene(1), np.roll(scene(1), (down, right), axis=(0, 1)))
    assert (round(found.right * WIDE), round(found.down * TALL)) == (right, down)
    assert found.standing == "moved"


def test_another_place_is_elsewhere_and_a_grey_picture_is_nothing():
    assert [fit(scene(1), scene(n)).standing for n in range(2, 8)] == ["elsewhere"] * 6
    assert fit(scene(1), np.full((TALL, WIDE), 99.0)).standing == "elsewhere"


def test_what_trembles_has_not_moved():
    assert fit(scene(3), np.roll(scene(3), 1, axis=1)).standing == "same"
    assert STILL * WIDE > 1
