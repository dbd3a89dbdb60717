"""Cases: gathered, copied from recorders, kept until they are closed, and handed over so that common tools verify them."""

import hashlib
import subprocess
import zipfile

import av
import numpy as np
import pytest
from django.core.exceptions import PermissionDenied
from django.http import Http404

from dromikon import config
from dromikon.cases.fetching import AGAIN, PATIENCE, fetch, waiting
from dromikon.cases.handing import Changed, fingerprint, hand_over
from dromikon.cases.models import Case
from dromikon.cases.services import (
    add_alarm,
    add_clips,
    add_event,
    add_note,
    add_still,
    close_case,
    delete_case,
    hide_in,
    move_piece,
    open_case,
    path_of,
    take_out,
    who_is_in,
)
from dromikon.clock import now_ms
from dromikon.core.scene.sight import Sight
from dromikon.daybook.models import EventRow
from dromikon.desk.models import Alarm
from dromikon.desk.services import answer
from dromikon.keeping.cases import cases_every, fetch_pieces
from dromikon.keeping.erasing import erase_person
from dromikon.keeping.records import follow_records, records_every
from dromikon.people.access import Everywhere
from dromikon.people.models import AuditEntry, Person
from dromikon.refusals import Refused
from dromikon.scene import store
from dromikon.sources.models import Recorder
from tests.conftest import GARDENS

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]


@pytest.fixture(autouse=True)
def _own_folder(tmp_path, monkeypatch):
    (tmp_path / "own").mkdir()
    monkeypatch.setattr(config, "data", lambda: tmp_path / "own")


@pytest.fixture
def case(as_, standins):
    Recorder.objects.update(address=standins["recorder"])
    return open_case(as_("oskar"), "  A walker on the   jetty ", "Seen on a Tuesday.")


@pytest.fixture
def filled(case, bench, as_):
    """A clip of two cameras, a still, an event, an answered alarm and a note."""
    at = now_ms() - 60_000
    bench.cross(at=at)
    bench.run()
    answer(as_("oskar"), Alarm.objects.get(point="jetty-line").pk, "Called <back>")
    add_clips(as_("oskar"), case, ["jetty", "gate", "jetty"], at, at + 1_500)
    add_still(as_("oskar"), case, "jetty", at, "At zero")
    add_event(as_("oskar"), case, EventRow.objects.get(point="jetty-line").seq)
    add_alarm(as_("oskar"), case, Alarm.objects.get(point="jetty-line").pk)
    add_note(as_("oskar"), case, "First line\nSecond line")
    fetch(now_ms())
    return case


def unpacked(access, case, folder):
    with hand_over(access, case) as archive, zipfile.ZipFile(archive) as opened:
        opened.extractall(folder)
    return folder


def test_what_is_handed_over_opens_anywhere_and_is_verified_by_common_tools(filled, as_, tmp_path):
    folder = unpacked(as_("dara"), filled, tmp_path / "out")
    assert [p.state for p in filled.pieces.all()] == ["ready"] * 6 and filled.title == "A walker on the jetty"
    page = (folder / "index.html").read_text()
    for words in (
        "A walker on the jetty",
        "Called &lt;back&gt;",
        "Second line",
        "Oskar Lindwater",
        'src="clips/01.webm"',
    ):
        assert words in page
    assert "<script" not in page and "http://" not in page and "https://" not in page, "it needs no network"
    run = lambda *command: subprocess.run(command, cwd=folder, capture_output=True, text=True)
    assert run("sha256sum", "-c", "SHA256SUMS").returncode == 0
    verify = ("openssl", "pkeyutl", "-verify", "-pubin", "-inkey", "signer.pem", "-rawin", "-in", "SHA256SUMS", "-sigfile", "SHA256SUMS.sig")  # fmt: skip
    assert run(*verify).returncode == 0
    der = subprocess.run(
        ("openssl", "pkey", "-pubin", "-in", "signer.pem", "-outform", "DER"), cwd=folder, capture_output=True
    )
    assert (
        hashlib.sha256(der.stdout).hexdigest() == fingerprint()
        and fingerprint() in (folder / "how-to-verify.txt").read_text()
    )
    said = subprocess.run(("sha256sum", "-c", "SHA256SUMS"), cwd=folder, capture_output=True, text=True).stdout
    assert "clips/02.webm: OK" in said and "index.html: OK" in said
    (folder / "SHA256SUMS").write_text((folder / "SHA256SUMS").read_text().replace("a", "b", 1))
    assert run(*verify).returncode != 0, "a list that was changed is found out"
    assert [a.verb for a in AuditEntry.objects.filter(subject=f"case:{filled.pk}")][-1] == "handed over case"


def test_clips_can_be_read(filled, tmp_path, as_):
    folder = unpacked(as_("dara"), filled, tmp_path / "out")
    with av.open(str(folder / "clips" / "01.webm")) as video:
        pictures = sum(1 for _ in video.decode(video=0))
    assert pictures >= 8


def test_a_file_that_was_changed_is_not_handed_over(filled, as_):
    piece = filled.pieces.filter(sort="clip").first()
    path_of(filled, piece.file).write_bytes(b"another film")
    with pytest.raises(Changed, match="Jetty"):
        hand_over(as_("dara"), filled)


def test_a_closed_case_stays_as_it_is(filled, as_):
    close_case(as_("dara"), filled)
    for doing in (
        lambda: add_note(as_("oskar"), filled, "late"), lambda: take_out(as_("oskar"), filled, filled.pieces.first().pk),
        lambda: move_piece(as_("oskar"), filled, filled.pieces.first().pk, 1), lambda: close_case(as_("dara"), filled),
    ):  # fmt: skip
        with pytest.raises(Refused, match="closed"):
            doing()
    hand_over(as_("dara"), filled).close()


def test_pieces_are_put_in_order_and_taken_out_with_what_was_copied(filled, as_):
    first, second, *_ = filled.pieces.all()
    move_piece(as_("oskar"), filled, second.pk, -1)
    assert [p.pk for p in filled.pieces.all()][:2] == [second.pk, first.pk]
    file = path_of(filled, first.file)
    assert file.exists()
    take_out(as_("oskar"), filled, first.pk)
    assert not file.exists() and filled.pieces.count() == 5
    with pytest.raises(Http404):
        take_out(as_("oskar"), filled, first.pk)
    folder = path_of(filled, "x").parent
    delete_case(as_("ines"), filled)
    assert not folder.exists() and not Case.objects.exists()


def test_a_recorder_that_is_away_is_asked_again_and_given_up_in_the_end(case, as_):
    Recorder.objects.update(address="http://127.0.0.1:9")
    at = now_ms() - 60_000
    (piece,) = add_clips(as_("oskar"), case, ["jetty"], at, at + 1_000)
    now = now_ms()
    assert "1 asked again" in fetch(now) and not waiting(now).exists() and waiting(now + AGAIN).exists()
    with pytest.raises(Refused, match="still being copied"):
        close_case(as_("dara"), case)
    fetch(now + PATIENCE + AGAIN)
    piece.refresh_from_db()
    assert piece.state == "failed" and "recorder" in piece.why
    assert not list(path_of(case, "x").parent.glob("*")), "nothing half is left"


def test_what_cannot_be_is_refused_at_its_place(case, as_):
    at = now_ms()
    refused = (
        ("title", lambda: open_case(as_("oskar"), " ")), ("end", lambda: add_clips(as_("oskar"), case, ["jetty"], at, at)),
        ("end", lambda: add_clips(as_("oskar"), case, ["jetty"], at - 86_400_000, at)),
        ("start", lambda: add_clips(as_("oskar"), case, ["jetty"], at + 60_000, at + 61_000)),
        ("text", lambda: add_note(as_("oskar"), case, "  ")),
    )  # fmt: skip
    for path, doing in refused:
        with pytest.raises(Refused) as told:
            doing()
        assert told.value.problems[0].path == path
    with pytest.raises(Http404):
        add_clips(as_("oskar"), case, ["yard"], at - 9_000, at - 8_000)
    Alarm.objects.create(
        site_id=GARDENS, run="r", rule="x", point="p", priority="low", rank=3, title="t", state="unacknowledged", zero=1, raised_at=1,
        groups=["nobody"],
    )  # fmt: skip
    with pytest.raises(Alarm.DoesNotExist):
        add_alarm(as_("oskar"), case, Alarm.objects.get(run="r").pk)
    for doing in (
        lambda: open_case(as_("vera"), "x"),
        lambda: hand_over(as_("oskar"), case),
        lambda: close_case(as_("oskar"), case),
    ):
        with pytest.raises(PermissionDenied):
            doing()


def test_on_its_pages_a_case_is_begun_with_a_clip_and_gone_through(case, client, as_):
    client.login(username="dara", password="quillmere-demo")
    base, at = f"/s/{GARDENS}/cases", now_ms() - 60_000
    asked = f"{base}?add=clip&cameras=jetty,gate&start={at}&end={at + 1_000}"
    page = client.get(asked).content.decode()
    assert "Into which case does the clip go?" in page and "A walker on the jetty" in page
    answer = client.post(asked, {"case": case.pk})
    assert answer.status_code == 302 and case.pieces.filter(sort="clip").count() == 2
    assert b"being copied" in client.get(answer["Location"]).content
    fetch(now_ms())
    page = client.get(answer["Location"]).content.decode()
    assert page.count("<video") == 2 and fingerprint() in page
    piece = case.pieces.first()
    assert client.get(f"{base}/{case.pk}/{piece.pk}")["Content-Type"] == "video/webm"
    one = f"{base}/{case.pk}"
    assert "from 1 to 8,000" in client.post(one, {"do": "note", "text": " "}).content.decode()
    client.post(one, {"do": "note", "text": "So it was"})
    client.post(one, {"do": "up", "piece": case.pieces.last().pk})
    assert [p.sort for p in case.pieces.all()] == ["clip", "note", "clip"]
    client.post(one, {"do": "out", "piece": piece.pk})
    client.post(one, {"do": "close"})
    assert Case.objects.get().closed_name == as_("dara").person.shown_name
    assert client.get(f"{one}/archive")["Content-Type"] == "application/zip"
    assert client.post(one, {"do": "dance"}).status_code == 404
    client.login(username="vera", password="quillmere-demo")
    assert client.get(one).status_code == 403 and client.get(f"{one}/archive").status_code == 403


def test_over_the_api_it_is_the_same(case, client, as_):
    client.login(username="oskar", password="quillmere-demo")
    ask = lambda path, content: client.post(f"/api/v1/{path}?site={GARDENS}", content, content_type="application/json")
    made = ask("cases", {"title": "Second"}).json()
    (note,) = ask(f"cases/{made['id']}/pieces", {"add": "note", "text": "x"}).json()
    assert client.delete(f"/api/v1/cases/{made['id']}/pieces/{note['id']}?site={GARDENS}").status_code == 204
    assert client.delete(f"/api/v1/cases/{made['id']}/pieces/{note['id']}?site={GARDENS}").status_code == 404
    assert ask(f"cases/{made['id']}/pieces", {"add": "clip", "cameras": "jetty"}).status_code == 422
    assert ask(f"cases/{made['id']}/pieces", {"add": "event", "ref": 99}).status_code == 404
    assert ask(f"cases/{made['id']}/close", {}).status_code == 403
    (clip,) = add_clips(as_("oskar"), case, ["jetty"], now_ms() - 60_000, now_ms() - 59_000)
    path = f"/api/v1/cases/{case.pk}/pieces/{clip.pk}/blur?site={GARDENS}"
    blur = lambda content: client.put(path, content, content_type="application/json")
    assert blur({"who": "everybody"}).status_code == 404, "it is not copied yet"
    fetch(now_ms())
    assert (
        blur({"areas": [[0, 0, 0.5, 1]]}).json()["state"] == "waiting"
        and blur({"areas": [[0, 0, 7, 1]]}).status_code == 422
    )
    assert {c["title"] for c in client.get(f"/api/v1/cases?site={GARDENS}").json()} == {
        "Second",
        "A walker on the jetty",
    }


def test_somebody_is_hidden_in_a_clip_and_shown_again(filled, as_, tmp_path):
    clip = filled.pieces.get(sort="clip", camera="jetty")
    before, sum_before = clip.file, clip.sha256
    opened = store.connect()
    boxes = [(0.4, 0.4, 0.6, 0.8)]
    store.keep(opened, "jetty", [Sight(clip.start + i * 100, ("7",), ("human",), (90.0,), boxes) for i in range(15)])
    opened.close()
    assert [(one.number, one.kind) for one in who_is_in(filled, clip)] == [("7", "human")]
    hide_in(as_("oskar"), filled, clip.pk, {"objects": ["7"]})
    with pytest.raises(Refused, match="still being copied"):
        close_case(as_("dara"), filled)
    fetch(now_ms())
    clip.refresh_from_db()
    assert (clip.state, clip.original, clip.original_sha256) == ("ready", before, sum_before) and clip.file != before
    shown, hidden = (pictures_of(path_of(filled, name))[4] for name in (before, clip.file))
    inside, outside = (slice(230, 420), slice(400, 560)), (slice(40, 200), slice(40, 300))
    roughness = lambda picture: np.abs(np.diff(picture[inside].astype(int), axis=1)).mean()
    assert roughness(hidden) < 0.5 * roughness(shown), "a few fields are left"
    assert np.abs(hidden[outside].astype(int) - shown[outside].astype(int)).mean() < 8, "all else is as it was"
    folder = unpacked(as_("dara"), filled, tmp_path / "out")
    assert hashlib.sha256((folder / "clips" / "01.webm").read_bytes()).hexdigest() == clip.sha256, (
        "only that is handed over"
    )
    hide_in(as_("oskar"), filled, clip.pk, {})
    clip.refresh_from_db()
    assert (clip.file, clip.sha256, clip.state, clip.blur) == (before, sum_before, "ready", None)
    assert [p.name for p in path_of(filled, "x").parent.glob("*-hidden.webm")] == []
    with pytest.raises(Refused):
        hide_in(as_("oskar"), filled, clip.pk, {"who": "nobody"})
    with pytest.raises(Http404):
        hide_in(as_("oskar"), filled, filled.pieces.get(sort="still").pk, {"who": "everybody"})


def pictures_of(path):
    with av.open(str(path)) as video:
        return [frame.to_ndarray(format="rgb24") for frame in video.decode(video=0)]


def test_a_film_that_is_none_is_said_to_be_none(filled, as_):
    clip = filled.pieces.filter(sort="clip").first()
    path_of(filled, clip.file).write_bytes(b"no film at all")
    hide_in(as_("oskar"), filled, clip.pk, {"who": "everybody"})
    fetch(now_ms())
    clip.refresh_from_db()
    assert clip.state == "failed" and "made anew" in clip.why


def test_the_keeper_copies_at_once_and_rests_while_nothing_waits(case, as_):
    assert cases_every() is None
    add_still(as_("oskar"), case, "jetty", now_ms() - 60_000)
    assert cases_every() == 1 and fetch_pieces() == "1 copied" and cases_every() is None
    assert records_every() == 60_000 and "everything" in follow_records()


def test_who_is_erased_is_named_in_no_case(filled, as_):
    name = as_("oskar").person.shown_name
    add_note(as_("dara"), filled, f"{name} went to look")
    erase_person(Everywhere(Person.objects.get(username="ada")), as_("oskar").person)
    filled.refresh_from_db()
    assert name not in filled.opened_name
    assert not any(
        name in words for piece in filled.pieces.all() for words in (piece.words, piece.title, piece.added_name)
    )
    assert filled.pieces.filter(words__contains="went to look").exists(), "all else stays"


def test_a_player_is_given_the_parts_that_it_asks_for(filled, client):
    client.login(username="oskar", password="quillmere-demo")
    piece = filled.pieces.filter(sort="clip").first()
    whole = path_of(filled, piece.file).read_bytes()
    ask = lambda wanted: client.get(f"/s/{GARDENS}/cases/{filled.pk}/{piece.pk}", headers={"range": wanted})
    part = ask("bytes=10-19")
    assert (part.status_code, part.content, part["Content-Range"]) == (206, whole[10:20], f"bytes 10-19/{len(whole)}")
    assert ask(f"bytes={len(whole) - 5}-").content == whole[-5:]
    assert ask(f"bytes={len(whole)}-").status_code == 416
    assert b"".join(ask("lines=1-2").streaming_content) == whole, "what is no range is answered whole"
