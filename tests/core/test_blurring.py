"""Who is hidden in a clip, and where they are between two pictures of them."""

import pytest
from pydantic import ValidationError

from dromikon.core.cases.blurring import AROUND, Blur, rectangles, seen_in
from dromikon.core.scene.sight import Sight

pytestmark = pytest.mark.timeless
ONE, TWO = (0.1, 0.2, 0.2, 0.6), (0.3, 0.3, 0.39, 0.6)


def sight(at, **things):
    """Things by number: kind and box."""
    kinds, boxes = zip(*things.values(), strict=True)
    return Sight(at, tuple(things), kinds, (90.0,) * len(things), list(boxes))


@pytest.fixture
def sights():
    return [
        sight(1_000, a=("human", ONE), dog=("animal", ONE)),
        sight(2_000, a=("human", TWO), b=("human", (0.8, 0.1, 0.9, 0.9))),
        sight(9_000, a=("human", ONE)),
    ]


def test_a_rectangle_follows_somebody_between_two_pictures(sights):
    at = rectangles(sights, Blur(objects=("a",)))
    ((left, top, right, bottom),) = at(1_500)
    assert left < 0.2 < 0.3 < right and top < 0.2 and bottom > 0.6, "half way, and a little larger"
    assert len(at(1_000 - AROUND)) == 1 and at(1_000 - AROUND - 1) == [], "a little before they were seen"
    assert at(5_000) == [], "nobody knows where they went for seven seconds"


def test_everybody_are_people_and_areas_stay(sights):
    area = (0.0, 0.0, 0.1, 0.1)
    at = rectangles(sights, Blur(who="everybody", areas=(area,)))
    assert len(at(1_000)) == 2 and len(at(2_000)) == 3 and at(5_000) == [area]


def test_of_a_person_the_head_may_be_enough(sights):
    whole = rectangles(sights, Blur(objects=("a",)))(1_000)[0]
    head = rectangles(sights, Blur(objects=("a", "dog"), part="head"))(1_000)
    assert head[0][3] < (whole[1] + whole[3]) / 2, "the upper part of a person"
    assert head[1] == whole, "of an animal all of it"


def test_who_is_in_it_is_told_with_their_largest_picture(sights):
    found = seen_in(sights)
    assert [(one.number, one.kind) for one in found] == [("a", "human"), ("dog", "animal"), ("b", "human")]
    assert (found[0].first, found[0].last, found[0].at) == (1_000, 9_000, 1_000)


def test_a_blur_that_cannot_be_is_refused():
    assert not Blur().does_something and Blur(objects=("a",)).does_something
    for told in ({"who": "nobody"}, {"areas": [(0, 0, 2, 1)]}, {"colour": "red"}):
        with pytest.raises(ValidationError):
            Blur.model_validate(told)
