"""What a recogniser tells, what could be better about a face, and people who are known by several pictures."""

import json
from datetime import date

import pytest

from dromikon.core.lists.changes import Put, changed, merged, with_another_face
from dromikon.core.lists.faces import NoAnswer, read_faces, shortcomings
from dromikon.core.lists.similarity import Templates, write_template
from dromikon.core.lists.table import read_table, write_table
from dromikon.core.lists.watchlist import MOST_FACES, Entry, WatchList

TODAY = date(2026, 12, 1)
GOOD = {"box": [0.2, 0.2, 0.4, 0.5], "eyes": 90, "sharp": 0.8, "light": 0.5}


def template(*numbers):
    return write_template([*numbers, *[0.0] * (16 - len(numbers))])


def told(*faces):
    return json.dumps({"faces": [{"template": template(1), **face} for face in faces]}).encode()


@pytest.mark.parametrize(
    ("content", "why"),
    [
        (b"<html>", "JSON"),
        (b"{}", "faces"),
        (told({**GOOD, "template": "AAAA"}), "template"),
        (told({**GOOD, "box": [0.2, 0.2, 0.2, 0.5]}), "box"),
        (told({**GOOD, "box": [0.2, 0.2, 1.4, 0.5]}), "box"),
        (told({**GOOD, "light": 7}), "light"),
        (told(*[GOOD] * 51), "faces"),
    ],
)
def test_an_answer_that_cannot_be_used_says_where(content, why):
    with pytest.raises(NoAnswer, match=why):
        read_faces(content)


def test_faces_come_the_largest_first_whatever_else_is_told():
    faces = read_faces(told({**GOOD, "eyes": 20, "age": 40}, {**GOOD, "eyes": 70}))
    assert [f.eyes for f in faces] == [70, 20]


@pytest.mark.parametrize(
    ("seen", "what", "grave"),
    [
        ({}, [], False), ({"eyes": 40}, ["eyes"], False), ({"eyes": 20}, ["eyes"], True),
        ({"sharp": 0.1, "light": 0.1}, ["sharp", "light"], False), ({"light": 0.95}, ["light"], False),
        ({"turned": 30, "covered": True}, ["covered", "turned"], True), ({"live": False}, ["live"], True),
        ({"live": True}, [], False),
    ],
)  # fmt: skip
def test_what_could_be_better_is_said_the_gravest_first(seen, what, grave):
    (face,) = read_faces(told({**GOOD, **seen}))
    found = shortcomings(face)
    assert [s.what for s in found] == what
    assert any(s.grave for s in found) is grave
    assert all(s.better for s in found)


def test_somebody_is_found_by_any_of_their_pictures():
    entry = with_another_face(Entry(value="Ada", template=template(1)), template(0, 1), TODAY)
    known = WatchList(
        id="staff", name="staff", sort="people", entries=(Entry(value="Bo", template=template(0, 0, 1)), entry)
    )
    for seen in (template(1, 0.1), template(0.1, 1)):
        match = known.similar(seen, TODAY)
        assert match.entry.value == "Ada" and match.similarity > 99
    assert entry.pictured == TODAY
    [(found, percent)] = known.alike(template(1, 0.6), 40)
    assert found.value == "Ada" and 80 < percent < 90, "by the most similar of hers"


def test_of_too_many_pictures_the_oldest_goes():
    entry = Entry(value="Ada", template=template(1))
    for i in range(1, MOST_FACES + 2):
        entry = with_another_face(entry, template(1, i), TODAY)
    assert len(entry.faces) == MOST_FACES and template(1) not in entry.faces
    assert entry.faces[-1] == template(1, MOST_FACES + 1)


def test_a_face_stays_with_its_entry_when_something_else_is_changed():
    before = with_another_face(Entry(value="Ada", template=template(1), agreed=TODAY), template(0, 1), TODAY)
    (after,) = changed([before], [Put(Entry(value="Ada L", note="moved"), "Ada")], [])
    assert (after.faces, after.agreed, after.pictured, after.note) == (before.faces, TODAY, TODAY, "moved")
    (after,) = merged([before], [Entry(value="Ada", note="from the table")])
    assert after.faces == before.faces and after.agreed == TODAY


def test_a_table_tells_every_face_and_when_it_was_taken():
    entry = with_another_face(Entry(value="Ada", template=template(1), agreed=TODAY), template(0, 1), TODAY)
    assert read_table(write_table((entry, Entry(value="Bo"))).encode()) == (entry, Entry(value="Bo"))


def test_further_faces_need_a_first_one_and_are_checked():
    with pytest.raises(ValueError, match="first one"):
        Entry(value="Ada", more=(template(1),))
    with pytest.raises(ValueError, match="template"):
        Entry(value="Ada", template=template(1), more=("AAAA",))


def test_all_that_are_alike_are_found_and_no_template_of_another_length():
    known = Templates.of([template(1), template(1, 0.2), template(0, 1), write_template([1.0] * 20)])
    assert [place for place, _ in known.like(template(1), 60)] == [0, 1]
    assert known.like(write_template([1.0] * 32), 0) == []
