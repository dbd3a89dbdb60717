"""Faces by a picture: looked at by a recogniser over HTTP, put on a list, added to an entry, and looked for among who passed."""

import base64
import io
from datetime import timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image
from starlette.applications import Starlette
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from dromikon.archive.models import Snapshot
from dromikon.clock import now_ms
from dromikon.core.hours import wall_clock
from dromikon.keeping.erasing import erase_entry
from dromikon.lists.entries import entries_of
from dromikon.lists.models import Recogniser, WatchList
from dromikon.lists.services import change_list, lists_of
from dromikon.setup.recognisers import RecogniserDocument, save_recogniser
from dromikon.standins.faces.model import template_of
from dromikon.standins.faces.service import Recogniser as StandIn
from dromikon.standins.services.portraits import COVERED, EMPTY, NEWCOMERS, TOGETHER, photo
from dromikon.standins.world.plant.vault import STAFF
from tests.conftest import GARDENS, free_port

pytestmark = [pytest.mark.django_db, pytest.mark.timeless]
STAFF_LIST, NEW = "garden-staff", NEWCOMERS[0]
KNOWN, CARD = next(iter(STAFF.items()))
SITE = f"?site={GARDENS}"


@pytest.fixture
def recogniser(garden, serve, as_):
    """Where a recogniser is set up that answers as told; without anything said, the stand-in."""

    def set_up(app=None, token="t"):
        address = serve(app or StandIn("t").app())
        Recogniser.objects.all().delete()
        return save_recogniser(as_("ines"), None, RecogniserDocument(name="R", address=address, token=token))

    return set_up


@pytest.fixture
def ines(client, garden):
    client.login(username="ines", password="quillmere-demo")
    return client


def looked(client, picture):
    return client.post(f"/api/v1/faces{SITE}", picture, content_type="application/octet-stream")


def put(client, picture, **who):
    content = {"picture": base64.b64encode(picture).decode(), **who}
    return client.post(f"/api/v1/lists/{STAFF_LIST}/faces{SITE}", content, content_type="application/json")


def entry_of(value):
    known = WatchList.objects.get(pk=STAFF_LIST)
    return next((e for e in entries_of(known.content_id) if e.value == value), None)


def refused(answer):
    assert answer.status_code == 422, answer.content
    return {p["path"]: p["message"] for p in answer.json()["problems"]}


def today(site):
    return wall_clock(now_ms(), site.zone).date()


def test_somebody_new_is_put_on_a_list_with_the_part_of_the_picture_that_shows_them(recogniser, ines, garden):
    recogniser()
    (face,) = looked(ines, photo(NEW)).json()
    assert face["better"] == [] and not any(a["same"] for a in face["alike"])
    assert "template" not in face
    answer = put(ines, photo(NEW), value="Q-2001", label=NEW, agreed=True)
    assert answer.status_code == 201 and answer.json()["faces"] == 1 and "template" not in answer.json()
    entry = entry_of("Q-2001")
    assert (entry.label, entry.pictured, entry.agreed) == (NEW, today(garden), today(garden))
    kept = Snapshot.objects.get(title="Q-2001")
    pictures = ines.get(f"/api/v1/lists/{STAFF_LIST}/entries{SITE}").json()["pictures"]
    assert pictures["Q-2001"] == kept.pk
    shown = Image.open(io.BytesIO(ines.get(f"/s/{GARDENS}/snapshot/{kept.pk}").content))
    assert max(shown.size) <= 480
    ines.login(username="oskar", password="quillmere-demo")
    assert ines.get(f"/s/{GARDENS}/snapshot/{kept.pk}").status_code == 403, "who may not see lists"


def test_a_double_is_named_before_it_is_made_and_gets_one_more_picture_instead(recogniser, ines):
    recogniser()
    (face,) = looked(ines, photo(KNOWN)).json()
    assert face["alike"][0]["value"] == CARD and face["alike"][0]["same"]
    assert KNOWN in refused(put(ines, photo(KNOWN), value="Q-2002"))["another"]
    assert put(ines, photo(KNOWN), to=CARD).json()["faces"] == 2
    assert entry_of(CARD).label == KNOWN and entry_of("Q-2002") is None
    assert put(ines, photo(KNOWN), value="Q-2002", another=True).status_code == 201


def test_where_consent_is_wanted_none_is_put_on_without(recogniser, ines, as_):
    recogniser()
    change_list(as_("ines"), WatchList.objects.get(pk=STAFF_LIST), consent=True)
    assert "agreed" in refused(put(ines, photo(NEW), value="Q-2001"))
    bare = {"entries": [{"value": "Q-2001", "template": template_of(NEW)}]}
    answer = ines.put(f"/api/v1/lists/{STAFF_LIST}/entries{SITE}", bare, content_type="application/json")
    assert "agreed" in refused(answer), "by whichever way a face comes"
    assert put(ines, photo(NEW), value="Q-2001", agreed=True).status_code == 201


def test_which_of_several_faces_is_said(recogniser, ines):
    recogniser()
    faces = looked(ines, photo(TOGETHER)).json()
    assert len(faces) == 3
    names = [f["alike"][0]["shown"] if f["alike"] else "" for f in faces]
    which = names.index(KNOWN)
    assert KNOWN in refused(put(ines, photo(TOGETHER), face=which, value="X"))["another"]
    assert "face" in refused(put(ines, photo(TOGETHER), face=3, value="X"))


def test_a_picture_that_is_of_no_use_says_why(recogniser, ines):
    recogniser()
    (face,) = looked(ines, photo(COVERED)).json()
    assert face["covered"] and face["better"][0]["what"] == "covered" and face["better"][0]["grave"]
    assert "No face" in refused(looked(ines, photo(EMPTY)))["picture"]
    assert "JPEG or PNG" in refused(looked(ines, b"no picture"))["picture"]
    assert "Say who it is" in refused(put(ines, photo(NEW)))["value"]
    assert any("colour" in path for path in refused(put(ines, photo(NEW), value="x", colour="red")))


def from_a_telephone(picture):
    """As one is taken upright: stored lying, with a note of how it was held and where."""
    out = io.BytesIO()
    image = Image.open(io.BytesIO(picture)).rotate(90, expand=True)
    exif = image.getexif()
    exif[0x0112], exif[0x010F] = 6, "Where I live"
    image.save(out, "JPEG", exif=exif, quality=92)
    return out.getvalue()


def test_a_telephones_picture_is_set_upright_and_says_nothing_else(recogniser, ines):
    sent = []

    async def answer(request):
        sent.append(await request.body())
        return JSONResponse({"faces": []})

    recogniser(Starlette(routes=[Route("/faces", answer, methods=["POST"])]))
    looked(ines, from_a_telephone(photo(NEW)))
    assert b"Where I live" not in sent[0] and b"Exif" not in sent[0]
    recogniser()
    (face,) = looked(ines, from_a_telephone(photo(KNOWN))).json()
    assert face["alike"][0]["value"] == CARD and face["alike"][0]["same"]


def test_a_picture_of_too_many_pixels_or_bytes_is_refused_before_it_is_opened(recogniser, ines):
    recogniser()
    out = io.BytesIO()
    Image.new("1", (20_000, 12_000)).save(out, "PNG")
    assert "million pixels" in refused(looked(ines, out.getvalue()))["picture"]
    assert "larger than" in refused(looked(ines, b"\xff\xd8" + b" " * 4_100_000))["picture"]
    assert "JPEG or PNG" in refused(looked(ines, photo(NEW)[:200]))["picture"]


def answering(content, status=200):
    async def answer(request):
        return content if isinstance(content, Response) else JSONResponse(content, status)

    return Starlette(routes=[Route("/faces", answer, methods=["POST"])])


@pytest.mark.parametrize(
    ("app", "why"),
    [
        (answering({"faces": [{"box": [0, 0, 1, 1]}]}), "template"),
        (answering(Response("<html>")), "cannot be used"),
        (answering({}, 503), "HTTP 503"),
        (answering({}, 401), "token"),
        (answering(Response(b" " * 3_000_000)), "too large"),
        (answering({}, 302), "HTTP 302"),
    ],
)
def test_a_recogniser_that_answers_otherwise_is_told_of(recogniser, ines, app, why):
    recogniser(app)
    assert why in refused(looked(ines, photo(NEW)))["recogniser"]


def test_one_that_is_away_or_missing_is_told_of(recogniser, ines, garden):
    Recogniser.objects.all().delete()
    assert "set-up" in refused(looked(ines, photo(NEW)))["recogniser"]
    Recogniser.objects.create(site=garden, name="R", address=f"http://127.0.0.1:{free_port()}")
    assert "cannot be reached" in refused(looked(ines, photo(NEW)))["recogniser"]


def test_templates_of_another_size_resemble_nobody(recogniser, ines):
    from dromikon.core.lists.similarity import write_template

    face = {"box": [0.1, 0.1, 0.9, 0.9], "template": write_template([1.0] * 64), "eyes": 80, "sharp": 1, "light": 0.5}
    recogniser(answering({"faces": [face]}))
    assert looked(ines, photo(KNOWN)).json()[0]["alike"] == []


def test_only_who_may_change_lists_may_look(recogniser, client, garden):
    recogniser()
    client.login(username="oskar", password="quillmere-demo")
    assert looked(client, photo(NEW)).status_code == 403
    assert put(client, photo(NEW), value="x").status_code == 403


def test_faces_are_to_be_taken_anew_after_some_time(recogniser, ines, as_, garden):
    recogniser()
    known = change_list(as_("ines"), WatchList.objects.get(pk=STAFF_LIST), renew=365)
    before = next(row["outdated"] for row in lists_of(garden) if row["id"] == STAFF_LIST)
    assert before == len(STAFF), "when they were taken is not known"
    put(ines, photo(KNOWN), to=CARD)
    assert next(row["outdated"] for row in lists_of(garden) if row["id"] == STAFF_LIST) == before - 1
    from dromikon.lists.services import outdated

    entry = entry_of(CARD)
    assert not outdated(known, entry, entry.pictured + timedelta(days=365))
    assert outdated(known, entry, entry.pictured + timedelta(days=366))


def test_of_two_pictures_the_earlier_is_kept_no_longer(recogniser, ines):
    recogniser()
    put(ines, photo(NEW), value="Q-2001")
    first = Snapshot.objects.get(title="Q-2001")
    put(ines, photo(NEW)[:-2] + b"\xff\xd9", to="Q-2001")
    assert Snapshot.objects.filter(title="Q-2001").count() == 1
    put(ines, photo(TOGETHER), to="Q-2001", face=0)
    assert not Snapshot.objects.filter(pk=first.pk).exists() and Snapshot.objects.filter(title="Q-2001").count() == 1


def test_two_people_put_on_by_the_same_picture_have_each_their_own(recogniser, ines):
    recogniser()
    put(ines, photo(NEW), value="Q-2001")
    put(ines, photo(NEW), value="Q-2002", another=True)
    pictures = ines.get(f"/api/v1/lists/{STAFF_LIST}/entries{SITE}").json()["pictures"]
    assert {"Q-2001", "Q-2002"} <= pictures.keys()


def test_an_erased_entry_takes_its_picture_with_it(recogniser, ines, as_):
    recogniser()
    put(ines, photo(NEW), value="Q-2001")
    erase_entry(as_("ada"), WatchList.objects.get(pk=STAFF_LIST), "Q-2001")
    assert not Snapshot.objects.filter(title="Q-2001").exists() and entry_of("Q-2001") is None


def test_who_passed_is_looked_for_by_a_picture_that_is_not_kept(recogniser, ines, garden):
    from dromikon.daybook.models import EventRow

    recogniser()
    for seq, person in enumerate((KNOWN, "nobody we know"), 1):
        at = now_ms() - 60_000 * seq
        EventRow.objects.create(
            seq=seq, site=GARDENS, kind="face.seen", point="vault-face", phase="pulse", at=at, occurred_at=at, received_at=at,
            fields={"template": template_of(person, 0.2, "look"), "confidence": 90},
        )  # fmt: skip
    kept = Snapshot.objects.count()
    page = ines.post(f"/s/{GARDENS}/who/by-picture", {"picture": SimpleUploadedFile("a.jpg", photo(KNOWN))})
    (face,) = page.context["faces"]
    assert [p.who for p, similar in face["alike"] if similar > 80] == [KNOWN]
    assert KNOWN in page.content.decode() and Snapshot.objects.count() == kept
    page = ines.post(f"/s/{GARDENS}/who/by-picture", {"picture": SimpleUploadedFile("a.jpg", b"none")})
    assert "JPEG or PNG" in page.context["problem"]
    assert ines.get(f"/s/{GARDENS}/who/by-picture").status_code == 200
