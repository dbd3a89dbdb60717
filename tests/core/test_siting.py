"""Where things stand on a plan, and what cameras see of it."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.siting import Eye, suggested_sightlines


@pytest.mark.parametrize(
    ("looks", "place", "sees"),
    [
        (0, (50, 40), True), (0, (50, 60), False), (90, (60, 50), True), (90, (40, 50), False), (180, (50, 60), True),
        (270, (40, 50), True), (350, (51, 35), True), (0, (50, 10), False), (0, (62, 45), False),
    ],
)  # fmt: skip
def test_up_is_north_and_degrees_go_clockwise(looks, place, sees):
    assert Eye(50, 50, looks, view=70, reach=25).sees(place) is sees


@given(st.floats(0, 359), st.floats(10, 180), st.floats(1, 200))
def test_what_lies_straight_ahead_is_seen_and_what_lies_behind_is_not(looks, view, reach):
    eye = Eye(0, 0, looks, view, reach)
    x, y = eye.tip()
    assert eye.sees((x * 0.9, y * 0.9)) and not eye.sees((-x * 0.9, -y * 0.9))
    assert math.isclose(math.hypot(x, y), reach, rel_tol=0.02, abs_tol=0.02)


def test_the_outline_begins_at_the_camera_and_stays_within_its_reach():
    eye = Eye(10, 10, 45, 90, 20)
    first, *rim = eye.outline()
    assert first == (10, 10) and all(abs(eye.distance_to(p) - 20) < 0.05 for p in rim)
    assert rim[0][0] == pytest.approx(10, abs=0.05) and rim[-1][1] == pytest.approx(10, abs=0.05)


def test_the_best_camera_is_near_and_has_it_in_the_middle():
    eyes = {
        "near": Eye(0, 10, 0, 80, 30), "rim": Eye(8, 8, 300, 80, 30), "far": Eye(0, 28, 0, 80, 30), "away": Eye(0, 5, 180, 80, 30),
    }  # fmt: skip
    assert suggested_sightlines(eyes, (0, 0))[0] == "near"
    assert set(suggested_sightlines(eyes, (0, 0))) == {"near", "rim", "far"}
    assert "near" not in suggested_sightlines(eyes, (0, 0), known=["near"])
