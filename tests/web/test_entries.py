"""Entries of lists: found and changed one by one, tables with their preview, and what was seen put on a list with its picture."""

import json
from urllib.parse import urlencode

import pytest

from dromikon.archive.models import Snapshot
from dromikon.core.lists.similarity import write_template
from dromikon.daybook.models import EventRow, Step
from dromikon.keeping.erasing import erase_entry
from dromikon.lists.entries import entries_of
from dromikon.lists.models import Picture, WatchList
from dromikon.lists.services import set_entries
from dromikon.people.tokens import make_token
from dromikon.sources.models import Point
from tests.conftest import GARDENS

pytestmark = pytest.mark.django_db


@pytest.fixture
def call(as_, client):
    def send(method, path, content=None, user="ines", **query):
        headers = {"Authorization": f"Bearer {make_token(as_(user).person, 't')[1]}"}
        body = content if isinstance(content, (bytes, str)) else json.dumps(content) if content is not None else ""
        at = f"/api/v1/lists/{path}?{urlencode({'site': GARDENS, **query})}"
        return client.generic(method, at, body, content_type="application/json", headers=headers)

    return send


@pytest.fixture
def plates(as_) -> WatchList:
    known = WatchList.objects.get(id="staff-plates")
    set_entries(as_("ines"), known, [{"value": f"QX{i} FKD", "label": f"Van {i}"} for i in range(450)])
    return known


def values(known):
    known.refresh_from_db()
    return [e.value for e in entries_of(known.content_id)]


@pytest.fixture
def reader(garden):
    """A detector that reads plates and sees faces, where a camera looks."""
    return Point.objects.exclude(channel=None).filter(kind="detector").first()


def seen(bench, reader, kind, **fields):
    bench.http(kind=kind, point=reader.id, phase="pulse", fields=fields)
    bench.run()
    return EventRow.objects.filter(kind=kind).latest("seq").seq


def test_entries_come_in_parts_and_are_found_by_words(call, plates):
    first = call("GET", "staff-plates/entries").json()
    assert (first["count"], first["matching"], len(first["entries"])) == (450, 450, 200)
    last = call("GET", "staff-plates/entries", start=400).json()["entries"]
    assert len(last) == 50 and last[0]["value"] == "QX400 FKD"
    found = call("GET", "staff-plates/entries", wanted="van 44").json()
    assert (found["count"], found["matching"]) == (450, 11) and "template" not in found["entries"][0]
    assert call("GET", "staff-plates/entries", user="oskar").status_code == 403


def test_two_who_change_a_list_at_once_undo_nothing_of_each_other(call, plates):
    one = {"put": [{"was": "QX1 FKD", "entry": {"value": "QX1 NEW"}}], "drop": ["QX2 FKD"]}
    other = {"put": [{"entry": {"value": "ZZ1"}}, {"was": "QX3 FKD", "entry": {"value": "QX3 FKD", "note": "n"}}]}
    assert call("PATCH", "staff-plates/entries", one).status_code == 200
    assert call("PATCH", "staff-plates/entries", other, user="dara").json()["count"] == 450
    now = values(plates)
    assert now[:3] == ["QX0 FKD", "QX1 NEW", "QX3 FKD"] and now[-1] == "ZZ1"


def test_what_cannot_be_put_says_which_and_changes_nothing(call, plates):
    wrong = {
        "put": [{"entry": {"value": "OK"}}, {"entry": {"value": "qx7-fkd"}}, {"entry": {"value": "", "colour": 1}}]
    }
    answer = call("PATCH", "staff-plates/entries", wrong)
    assert {p["path"] for p in answer.json()["problems"]} == {"put.2.value", "put.2.colour"}
    twice = call("PATCH", "staff-plates/entries", {"put": wrong["put"][:2]})
    assert twice.status_code == 422 and twice.json()["problems"][0]["path"] == "put.1.value"
    assert len(values(plates)) == 450


def test_a_table_of_any_columns_is_seen_before_it_is_taken_over(call, plates):
    table = "Nr;Kennzeichen;Wer\n1;QX1 FKD;Van 1\n2;QX2 FKD;Vera\n3;NEW 1;\n"
    guess = call("PUT", "staff-plates/table/preview", table).json()
    assert guess["names"] == ["Nr", "Kennzeichen", "Wer"] and guess["columns"] == {"value": "Nr"}
    columns = json.dumps({"value": "Kennzeichen", "label": "Wer"})
    told = call("PUT", "staff-plates/table/preview", table, columns=columns, keep=True).json()
    assert (told["added"], told["changed"], told["gone"], told["same"]) == (1, 1, 0, 449)
    assert told["examples"]["changed"] == ["QX2 FKD (Vera)"]
    without = call("PUT", "staff-plates/table/preview", table, columns=columns).json()
    assert (without["gone"], without["same"]) == (448, 1) and len(values(plates)) == 450
    assert call("PUT", "staff-plates/table", table, columns=columns, keep=True).json()["count"] == 451
    twice = call("PUT", "staff-plates/table/preview", "a\nX1\nx-1\n").json()
    assert twice["problems"][0]["path"] == "line 3, value" and twice["added"] == 0
    assert call("PUT", "staff-plates/table", table, columns='{"colour": "Nr"}').status_code == 422
    assert call("PUT", "staff-plates/table/preview", b"\xff\xfea\0").status_code == 422


def test_a_list_is_kept_current_from_a_table_with_columns_of_its_own(call, plates):
    settings = {"name": "staff plates", "source": "fleet.csv", "columns": {"value": "Kennzeichen"}}
    assert call("PUT", "staff-plates", settings).json()["columns"] == {"value": "Kennzeichen"}
    for wrong in ({"label": "Wer"}, {"value": "K", "colour": "F"}):
        assert call("PUT", "staff-plates", {**settings, "columns": wrong}).status_code == 422


def test_a_plate_that_was_seen_is_put_on_the_list_with_its_picture(call, as_, bench, plates, reader):
    event = seen(bench, reader, "plate.read", plate="NEW 17", confidence=90.0)
    seen(bench, reader, "plate.read", plate="new-17", confidence=80.0)
    seen(bench, reader, "plate.read", plate="QX1 FKD", confidence=80.0)
    known, new = call("GET", "staff-plates/sightings").json()[:2]
    assert (known["entry"], new["entry"], new["value"]) == ("Van 1", "", "new-17"), "each plate once, the latest first"
    assert call("POST", "staff-plates/sightings", {"event": event}).json() == {"value": "NEW 17"}
    assert values(plates)[-1] == "NEW 17"
    step = Step.objects.get(run__startswith="asked-")
    assert (step.action, step.status, step.target) == ("snapshot", "due", new["camera"])
    still = Snapshot.objects.create(
        site_id=GARDENS, camera=step.target, at=step.payload["at"], title="", run=step.run, file="aa/a.jpg", sha256="a"
    )
    assert call("GET", "staff-plates/entries", wanted="NEW 17").json()["pictures"] == {"NEW 17": still.pk}
    renamed = {"put": [{"was": "NEW 17", "entry": {"value": "NEW 18"}}]}
    call("PATCH", "staff-plates/entries", renamed)
    assert call("GET", "staff-plates/entries", wanted="NEW 18").json()["pictures"] == {"NEW 18": still.pk}
    plates.refresh_from_db()
    erase_entry(as_("ada"), plates, "NEW 18")
    assert not Snapshot.objects.filter(pk=still.pk).exists() and not Picture.objects.exists()


def test_a_face_that_was_seen_needs_a_name_and_is_found_again(call, bench, reader, as_):
    people = WatchList.objects.get(id="garden-staff")
    face = write_template([1.0 if i == 3 else 0.01 * i for i in range(128)])
    event = seen(bench, reader, "face.seen", template=face, confidence=90.0)
    (sighting, *_) = call("GET", "garden-staff/sightings").json()
    assert (sighting["event"], sighting["value"], sighting["entry"]) == (event, "", "")
    nameless = call("POST", "garden-staff/sightings", {"event": event})
    assert nameless.status_code == 422 and nameless.json()["problems"][0]["path"] == "value"
    assert call("POST", "garden-staff/sightings", {"event": event, "value": "Guest"}).json()["face"] is True
    assert values(people)[-1] == "Guest"
    (found,) = call("GET", "garden-staff/try", event=event).json()
    assert found["entry"] == "Guest" and "similar" in found["why"]
    assert call("GET", "garden-staff/sightings").json()[0]["entry"] == "Guest"
    call("PATCH", "garden-staff/entries", {"put": [{"was": "Guest", "entry": {"value": "Guest", "note": "x"}}]})
    assert entries_of(WatchList.objects.get(id="garden-staff").content_id)[-1].template == face


def test_a_value_that_is_tried_says_what_it_would_find(call, plates):
    assert call("GET", "staff-plates/sightings").json() == []
    exact, *more = call("GET", "staff-plates/try", value="qx7fkd").json()
    assert exact["entry"] == "Van 7" and not more
    no, near = call("GET", "staff-plates/try", value="QX7 FKE").json()
    assert no["entry"] == "" and near["entry"] == "Van 7" and near["why"]
    assert call("GET", "staff-plates/try", event=1).status_code == 422


def test_an_event_that_has_seen_nothing_of_the_kind_is_refused(call, bench, plates):
    bench.cross()
    bench.run()
    answer = call("POST", "staff-plates/sightings", {"event": EventRow.objects.latest("seq").seq})
    assert answer.status_code == 422 and len(values(plates)) == 450


def test_an_event_offers_the_lists_that_could_hold_what_it_has_seen(as_, client, bench, plates, reader):
    event = seen(bench, reader, "plate.read", plate="NEW 17", confidence=90.0)
    known = seen(bench, reader, "plate.read", plate="QX1 FKD", confidence=90.0)
    for user, offered in (("ines", True), ("oskar", False)):
        client.force_login(as_(user).person)
        page = client.get(f"/s/{GARDENS}/daybook/event/{event}").content.decode()
        assert (f'data-sighting="{event}" data-list="staff-plates"' in " ".join(page.split())) is offered
    client.force_login(as_("ines").person)
    assert "Van 1" in client.get(f"/s/{GARDENS}/daybook/event/{known}").content.decode()
