"""The recogniser of the stand-ins: it finds drawn faces, and knows people again by what it sees."""

import io

import numpy as np
import pytest

from dromikon.core.lists.similarity import Templates
from dromikon.standins.faces.features import features_of, look_of
from dromikon.standins.faces.finding import find_faces
from dromikon.standins.faces.model import numbers_of, template_of, written
from dromikon.standins.faces.portrait import portrait
from dromikon.standins.faces.service import faces_of
from dromikon.standins.picture.frame import Studio
from dromikon.standins.services.portraits import COVERED, EMPTY, PEOPLE, TOGETHER, photo
from dromikon.standins.world.provocations import PROVOCATIONS
from dromikon.standins.world.world import World

KNOWN = Templates.of([template_of(person) for person in PEOPLE])


@pytest.mark.parametrize("size", [480, 240])
def test_everybody_is_known_by_their_portrait_at_any_size(size):
    for place, person in enumerate(PEOPLE):
        out = io.BytesIO()
        portrait(features_of(look_of(person)), size).save(out, "JPEG", quality=85)
        (face,) = faces_of(out.getvalue())[:1]
        nearest, percent = KNOWN.nearest(face["template"])
        assert nearest == place and percent > 85, (person, size)


def test_people_are_far_from_one_another():
    others = [KNOWN.like(template_of(person), 85) for person in PEOPLE]
    assert all(len(found) == 1 for found in others)


def test_how_well_a_face_is_seen_is_told():
    (large,) = faces_of(photo(PEOPLE[0]))
    (covered,) = faces_of(photo(COVERED))
    assert large["eyes"] > 60 and large["sharp"] > 0.25 and not large["covered"] and large["turned"] < 5
    assert covered["covered"]
    left, top, right, bottom = large["box"]
    assert left < 0.5 < right and top < 0.45 < bottom


def test_of_three_each_is_found_and_of_nobody_none():
    assert len(faces_of(photo(TOGETHER))) == 3
    assert faces_of(photo(EMPTY)) == []


def test_noise_and_stripes_are_no_faces():
    rnd = np.random.default_rng(4)
    assert find_faces(rnd.integers(0, 255, (200, 300, 3), dtype=np.uint8)) == []
    stripes = np.full((200, 300, 3), (200, 150, 120), np.uint8)
    stripes[:, ::7] = (40, 30, 24)
    assert find_faces(stripes) == []


def test_what_is_no_picture_is_refused():
    with pytest.raises(OSError):
        faces_of(b"no picture")


@pytest.mark.slow
def test_somebody_at_the_vault_is_known_by_the_pictures_own_pixels():
    world = World()
    noon = 1_782_907_200_000
    seen = next(s for s in world.signals(noon, noon + 7_200_000) if s.kind == "face.seen")
    frame = Studio(world).frame("vault", seen.at, 2)
    faces = [face for face in find_faces(np.asarray(frame)) if face.wide > 20]
    assert len(faces) == 1, seen.truth
    place, percent = KNOWN.nearest(written(numbers_of(np.asarray(frame), faces[0])))
    assert PEOPLE[place] == seen.truth and percent > 60


def test_each_provocation_has_a_place_on_the_page():
    from dromikon.standins.control import AREAS

    assert {p.scene for p in PROVOCATIONS.values()} <= AREAS.keys()
