"""Who passed: passages of faces and plates with what lists know of them, the history of one, and attendance."""

import csv
import io

import pytest

from dromikon.clock import now_ms
from dromikon.daybook.models import EventRow
from dromikon.standins.faces.model import template_of
from dromikon.standins.world.plant.vault import EXCLUDED, STAFF
from tests.conftest import GARDENS

pytestmark = [pytest.mark.django_db, pytest.mark.timeless]
WALL, API = f"/s/{GARDENS}/who", "/api/v1/who"
NAME = next(iter(STAFF))
HOUR = 3_600_000


@pytest.fixture
def read(garden):
    """`read(ago, face=…)` or `read(ago, plate=…)`: an event of so long ago, in ms."""

    def make(ago, face="", plate="", sure=90.0, point=None):
        at, seq = now_ms() - ago, EventRow.objects.count() + 1
        kind, fields = (
            ("face.seen", {"template": template_of(face, 0.42, str(seq))}) if face else ("plate.read", {"plate": plate})
        )
        EventRow.objects.create(
            seq=seq, site=GARDENS, kind=kind, point=point or ("vault-face" if face else "service-plates"), phase="pulse",
            at=at, occurred_at=at, received_at=at, fields={**fields, "confidence": sure},
        )  # fmt: skip
        return seq

    return make


@pytest.fixture
def dara(client, garden):
    client.login(username="dara", password="quillmere-demo")
    return client


def asked(client, path=API, **more):
    query = {"site": GARDENS, "start": now_ms() - 30 * HOUR, "end": now_ms() + 1000, **more}
    return client.get(path, query)


def test_several_readings_are_one_passage_with_the_entry_that_it_is(read, dara):
    read(20_000, face=NAME, sure=70)
    best = read(15_000, face=NAME, sure=97)
    read(12_000, face="nobody we know")
    stranger, known = asked(dara).json()
    assert (known["who"], known["list"], known["event"], known["readings"]) == (NAME, "garden staff", best, 2)
    assert known["similar"] > 85 and known["camera"] == "vault"
    assert (stranger["who"], stranger["list"], stranger["readings"]) == ("", "", 1)


def test_a_list_says_from_how_similar_on_a_face_is_one_of_its_own(read, dara):
    read(1_000, face=NAME)
    known = {"name": "garden staff", "colour": "good", "likeness": 99.5}
    change = lambda **more: dara.put(
        f"/api/v1/lists/garden-staff?site={GARDENS}", {**known, **more}, content_type="application/json"
    )
    assert change().json()["likeness"] == 99.5
    (only,) = asked(dara).json()
    assert (only["who"], only["list"]) == ("", "") and only["similar"] > 85
    assert change(likeness=80).status_code == 200
    assert asked(dara).json()[0]["who"] == NAME
    assert 'class="chip good"' in dara.get(WALL).content.decode()
    assert [change(**bad).json()["problems"][0]["path"] for bad in ({"likeness": 20}, {"colour": "mauve"})] == [
        "likeness",
        "colour",
    ]


def test_plates_are_told_by_what_lists_call_them(read, dara):
    read(9_000, plate="ZZ99 QQQ")
    assert [(p["who"], p["list"]) for p in asked(dara, sort="plates").json()] == [("ZZ99 QQQ", "")]


def test_the_wall_narrows_to_strangers_and_to_one(read, dara):
    event = read(2 * HOUR, face=NAME)
    read(HOUR, face=NAME)
    read(30_000, face="nobody we know")
    page = lambda **query: dara.get(WALL, query).content.decode()
    assert page().count('class="passage') == 3
    assert page(show="strangers").count('class="passage') == 1 and "stranger" in page(show="strangers")
    history = page(like=event)
    assert history.count('class="passage known"') == 2 and "seen 2 times" in history
    assert page(sort="plates").count('class="passage') == 0 and "Nobody passed" in page(sort="plates")


def test_attendance_has_each_day_of_each_one_and_goes_out_as_a_table(read, dara):
    for ago in (9 * HOUR, 3 * HOUR, 2 * HOUR):
        read(ago, face=NAME)
    read(HOUR, face=EXCLUDED[0])
    read(HOUR, face="nobody we know")
    found = asked(dara, f"{API}/attendance").json()
    assert {p["who"] for p in found} == {NAME, EXCLUDED[0]}, "strangers attend nothing"
    assert sum(p["count"] for p in found if p["who"] == NAME) == 3
    table = list(csv.reader(io.StringIO(asked(dara, f"{API}/attendance", form="csv").content.decode())))
    assert table[0][:4] == ["Day", "Who", "First", "Last"] and len(table) == len(found) + 1
    assert asked(dara, f"{API}/attendance", form="xlsx").content[:2] == b"PK"
    assert NAME in dara.get(f"{WALL}/attendance").content.decode()


def test_what_is_no_face_is_nobodys(read, dara):
    seq = read(1_000, face=NAME)
    EventRow.objects.filter(seq=seq).update(fields={"template": "no template", "confidence": 5})
    (only,) = asked(dara).json()
    assert (only["who"], only["list"], only["similar"]) == ("", "", None)


@pytest.mark.parametrize("more", [{"end": 1}, {"start": 0}, {"like_event": 999_999}])
def test_what_cannot_be_looked_through_is_refused(dara, more):
    assert asked(dara, **more).status_code == 422


def test_faces_are_for_those_who_may_keep_lists(client, garden):
    client.login(username="oskar", password="quillmere-demo")
    assert asked(client).status_code == 403
    assert client.get(WALL).status_code == 403
