"""What a picture suffices for: the geometry against itself, and against numbers that were reckoned by hand."""

import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from dromikon.core.optics import FACE, FACE_AT, FACE_PIXELS, PURPOSES, Mounting, Optics, concerns, too_far


def hung(**more):
    return Mounting(**{"high": 4.0, "tilt": 15.0, "sensor": 5.4, "focal": 4.0, **more})


MOUNTINGS = st.builds(
    hung,
    high=st.floats(1.9, 20),
    tilt=st.floats(1, 85),
    focal=st.floats(1.5, 40),
    across=st.sampled_from([640, 1920, 3840]),
)
SHARES = st.floats(0.02, 0.98)


@given(MOUNTINGS, SHARES, SHARES)
def test_what_is_seen_on_the_ground_is_seen_where_it_is(mounting, x, y):
    optics = Optics(mounting)
    foot = optics.ground(x, y)
    assume(foot is not None)
    assert optics.place(*foot) == pytest.approx((x, y), abs=1e-6)


@given(MOUNTINGS, SHARES, SHARES, st.floats(0.5, 1.85))
def test_whoever_stands_there_is_as_tall_as_their_box_says(mounting, x, y, tall):
    optics = Optics(mounting)
    box = optics.person(x, y, tall)
    assume(box is not None and optics.ground(x, y)[1] > 0.2)
    assert optics.tall((x, box[1], x, box[3])) == pytest.approx(tall, rel=1e-3)


@given(MOUNTINGS)
def test_bands_follow_each_other_and_hold_what_they_promise(mounting):
    optics = Optics(mounting)
    bands = list(optics.bands())
    for one, after in zip(bands, bands[1:], strict=False):
        assert one.far == after.near
    for band in bands:
        assert optics.near <= band.near < band.far
        assert optics.density(band.far) >= PURPOSES[band.purpose][1] * 0.999
        assert optics.purpose_at((band.near + band.far) / 2) == band.purpose


def test_numbers_reckoned_by_hand():
    """1920 pixels over 5.4 mm at 4 mm: 1422 pixels of focal length; 25 a metre at a depth of 56.9 m."""
    optics = Optics(hung())
    assert optics.view == pytest.approx(68.04, abs=0.02)
    assert optics.reach(25) == pytest.approx(
        (1422.2 / 25 - 4 * math.sin(math.radians(15))) / math.cos(math.radians(15)), rel=1e-3
    )
    below = math.radians(15) + math.atan(540 / 1422.2)
    assert optics.near == pytest.approx(4 / math.tan(below), rel=1e-4)
    assert optics.far == 500, "its upper edge lies above the horizon"


def test_straight_down_the_same_suffices_everywhere():
    optics = Optics(hung(tilt=90.0))
    assert optics.near == 0.0
    assert [b.purpose for b in optics.bands()] == ["identify"]
    assert optics.density(0.0) == optics.density(1.0)


def test_a_box_that_is_cut_off_or_floats_has_no_size():
    optics = Optics(hung())
    assert optics.tall((0.4, 0.2, 0.6, 1.0)) is None, "the feet are out of the picture"
    assert optics.tall((0.4, 0.0, 0.6, 0.05)) is None, "above the horizon"
    assert optics.person(0.5, 0.01) is None


def test_what_is_asked_for_and_cannot_be_given_is_said():
    assert list(concerns(hung(), reads_faces=False)) == []
    assert [w for w in concerns(hung(needs=0.5, dark=0.1)) if "lx" in w]
    assert any("faces" in w for w in concerns(hung(focal=1.0), reads_faces=True))
    assert any("plates" in w for w in concerns(hung(focal=1.0, high=12.0), reads_plates=True))
    assert any("longer lens" in w for w in concerns(hung(high=60.0, focal=0.6, tilt=80)))
    assert Optics(hung(focal=12.0)).stretch(FACE, FACE_PIXELS, FACE_AT) is not None


def test_an_area_that_reaches_too_far_is_said():
    optics = Optics(hung())
    assert too_far(optics, ((0.4, 0.7), (0.6, 0.7), (0.5, 0.9))) == ""
    assert "horizon" in too_far(optics, ((0.4, 0.05), (0.6, 0.7), (0.5, 0.9)))
    y = optics.place(0.0, 80.0)[1]
    assert "80 m away" in too_far(optics, ((0.5, y), (0.6, 0.7), (0.5, 0.9)))
