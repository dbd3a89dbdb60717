"""Scenery as cameras see it: what reaches behind a lens, what shades, and rain."""

import numpy as np
import pytest
from PIL import Image

from dromikon.standins.picture import cast
from dromikon.standins.picture.rain import rain_over
from dromikon.standins.world.geometry import Lens, box
from dromikon.standins.world.scenes import SCENES, VIEWS
from dromikon.standins.world.sky import cloud, raining

LENS = Lens(0, 0, 3, 0, 10, 70)
WHOLE = slice(0, 90), slice(0, 160)


def seen(view, monkeypatch, whole):
    with monkeypatch.context() as patched:
        if whole:
            patched.setattr(cast, "_window", lambda *_: WHOLE)
        place = VIEWS[view]
        return cast.cast(SCENES[place.scene], place.lens, 160, 90)


@pytest.mark.parametrize("view", ["entry", "lake-2", "bell", "palms"])
def test_a_thing_is_sought_wherever_it_is_seen_also_when_it_reaches_behind_the_lens(view, monkeypatch):
    there, everywhere = (seen(view, monkeypatch, whole) for whole in (False, True))
    # But for what the last digit of a product decides.
    assert (there.owner != everywhere.owner).mean() < 0.0005
    assert (~np.isclose(there.depth, everywhere.depth, rtol=1e-4)).mean() < 0.0005


def test_what_lies_behind_the_lens_is_sought_nowhere():
    rows, columns = cast._window(box(-1, -9, 0, 1, -4, 2, "stone"), LENS, 160, 90)
    assert (rows.stop - rows.start) * (columns.stop - columns.start) == 0


def test_what_hides_the_sun_shades_what_lies_behind_it_and_nothing_else():
    class Scene:
        things = (box(-1, 4, 0, 1, 5, 3, "stone"),)

    sun = np.array([0, -0.6, 0.8], np.float32)
    places = np.array([[0, 6, 0.1], [0, 2, 0.1], [4, 6, 0.1], [0, 20, 0.1]], np.float32)
    assert cast.in_shadow(Scene(), places, sun).tolist() == [True, False, False, False]
    overhead = np.array([0, 0, 1], np.float32)
    assert cast.in_shadow(Scene(), np.array([[0, 4.5, -1], [0, 6, 0]], np.float32), overhead).tolist() == [True, False]


def test_it_rains_in_some_overcast_hours_and_in_no_others():
    hours = range(480_000, 482_000)
    wet = [h for h in hours if raining(h * 3_600_000, 54)]
    assert 0 < len(wet) < len(hours) / 2 and all(cloud(h, 54) == 2 for h in wet)


@pytest.mark.parametrize("night", [False, True])
def test_rain_is_seen_and_another_the_next_moment_and_hides_little(night):
    dry = Image.new("RGB", (960, 540), (70, 80, 60))
    first, same, next_ = (np.asarray(rain_over(dry.copy(), at, night)) for at in (0, 40, 80))
    assert np.array_equal(first, same) and not np.array_equal(first, next_)
    streaks = (first.max(axis=2) > 95).mean()
    assert 0.001 < streaks < 0.03
