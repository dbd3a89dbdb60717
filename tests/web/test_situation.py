"""Hours, modes, counters and place over the API: what rules may name besides points."""

import json

import pytest

from dromikon.core.instants import parse
from dromikon.daybook.models import ActRow
from dromikon.facts import facts_of
from dromikon.hours.models import Hours
from dromikon.people.tokens import make_token
from dromikon.sites.models import Site
from tests.conftest import GARDENS

pytestmark = pytest.mark.django_db
DARK = {"seasons": [{"start": "01-01", "end": "12-31", "week": {"mon": ["sunset+15-sunrise"]}}]}


@pytest.fixture
def call(as_, client):
    def send(method, path, content=None, user="ines"):
        headers = {"Authorization": f"Bearer {make_token(as_(user).person, 't')[1]}"}
        body = json.dumps(content) if content is not None else ""
        return client.generic(
            method, f"/api/v1{path}?site={GARDENS}", body, content_type="application/json", headers=headers
        )

    return send


def test_hours_are_made_replaced_and_deleted(call):
    made = call("POST", "/hours", {"name": "Monday nights", "document": DARK}).json()
    assert made["document"] == DARK and parse(made["starts"]) and parse(made["ends"])
    changed = {**DARK, "exceptions": [{"date": "2026-12-28", "why": "closed"}]}
    assert call("PUT", f"/hours/{made['id']}", {"name": "Nights", "document": changed}).json()["name"] == "Nights"
    assert ActRow.objects.filter(type="facts", site=GARDENS).count() == 3, "the evaluator is told each time"
    assert "Nights" in {h.name for h in facts_of(Site.objects.get(id=GARDENS)).hours}
    assert (
        call("DELETE", f"/hours/{made['id']}").status_code == 204 and not Hours.objects.filter(name="Nights").exists()
    )


@pytest.mark.parametrize(
    ("document", "path", "words"),
    [
        ({"seasons": [{"start": "01-01", "end": "12-31", "week": {"mon": ["9-17"]}}]}, "document.seasons.0.week.mon", "is not a span"),
        ({"exceptions": [{"date": "2026-12-24"}, {"date": "2026-12-24", "spans": ["09:00-12:00"]}]}, "document.exceptions", "excepted twice"),
        ({"seasons": [DARK["seasons"][0]] * 2}, "document.seasons", "second never would"),
        ({"calendars": [{"text": "no calendar"}]}, "document.calendars.0.text", "no iCalendar"),
        ({"colour": 1}, "document.colour", ""),
        ([], "", ""),
    ],
)  # fmt: skip
def test_hours_that_contradict_themselves_or_cannot_be_read_say_where(call, document, path, words):
    answer = call("POST", "/hours", {"name": "x", "document": document})
    assert answer.status_code == 422
    if path:
        (problem, *_) = answer.json()["problems"]
        assert problem["path"] == path and words in problem["message"]


def test_modes_counters_and_place(call):
    site = call("GET", "/setup/site").json()[0]
    place = {**site["document"], "modes": ["day", "night"], "latitude": 60.1, "longitude": 24.9}
    assert call("PUT", f"/setup/site/{GARDENS}", {"document": place, "version": site["version"]}).status_code == 200
    made = call("POST", "/setup/counters", {"document": {"name": "Vans"}}).json()
    assert call("PUT", f"/situation/counters/{made['id']}", {"value": 3}).status_code == 202
    facts = facts_of(Site.objects.get(id=GARDENS))
    assert facts.modes == ("day", "night") and facts.place.latitude == 60.1 and made["id"] in facts.counter_by_id
    assert call("GET", "/situation").json()["mode"] == "day"
    assert call("DELETE", f"/setup/counters/{made['id']}").status_code == 204
    assert [c["name"] for c in call("GET", "/situation").json()["counters"]] == [
        "Deliveries today",
        "Visitors inside",
    ]


@pytest.mark.parametrize(
    ("method", "path", "content", "user", "status"),
    [
        ("PUT", "/situation/mode", {"mode": "gone"}, "ines", 422),
        ("PUT", "/situation/mode", {"mode": "works"}, "oskar", 403),
        ("PUT", "/situation/mode", {"mode": "works", "until": "noon"}, "ines", 422),
        ("PUT", "/situation/mode", {"mode": "works", "until": "2020-01-01T00:00:00Z"}, "ines", 422),
        ("PUT", f"/setup/site/{GARDENS}", {"document": {"name": "G", "modes": ["a", "a"]}}, "ines", 422),
        ("PUT", f"/setup/site/{GARDENS}", {"document": {"name": "G"}}, "dara", 403),
        ("PUT", f"/setup/site/{GARDENS}", {"document": {"name": "G", "latitude": 91}}, "ines", 422),
        ("PUT", "/situation/counters/deliveries", {"value": -1}, "ines", 422),
        ("DELETE", "/setup/counters/none", None, "ines", 404),
        ("POST", "/hours", {"name": "x", "document": {}}, "oskar", 403),
        ("POST", "/hours", {"name": " ", "document": {}}, "ines", 422),
        ("DELETE", "/hours/none", None, "ines", 404),
    ],
)  # fmt: skip
def test_what_may_not_be_done_is_refused(call, method, path, content, user, status):
    assert call(method, path, content, user).status_code == status


def test_the_mode_is_set_from_the_bar_by_those_who_may(as_, client):
    for user, status in (("dara", 202), ("vera", 403)):
        client.force_login(as_(user).person)
        at = f"/api/v1/situation/mode?site={GARDENS}"
        assert client.put(at, {"mode": "works"}, content_type="application/json").status_code == status
        assert 'data-mode-set="works"' in client.get(f"/s/{GARDENS}/hours").content.decode()


def test_the_kit_shows_its_parts_to_integrators(as_, client):
    client.force_login(as_("ines").person)
    page = client.get("/kit").content.decode()
    assert "Sentence" in page and 'data-mode-set="works"' in page


def test_what_a_document_of_hours_means_is_told_before_it_is_saved(call):
    document = {**DARK, "exceptions": [{"date": "2027-02-01", "spans": ["10:00-12:00"], "why": "open day"}]}
    told = call("POST", "/hours/shown", {"document": document, "year": 2027}).json()
    assert len(told["days"]) == 365 and told["inside"] in (True, False) and parse(told["until"])
    (fair,) = (d for d in told["days"] if d["excepted"])
    assert fair == {"day": "2027-02-01", "spans": [[600, 720]], "excepted": True, "why": "open day"}
    assert call("POST", "/hours/shown", {"document": {"seasons": 1}, "year": 2027}).status_code == 422
    assert not Hours.objects.filter(name="asked").exists()
    assert call("GET", "/situation").json()["until"] is None


def test_hours_go_out_as_a_calendar_and_come_in_again(call):
    made = call("POST", "/hours", {"name": "Monday nights", "document": DARK}).json()
    answer = call("GET", f"/hours/{made['id']}/calendar")
    assert answer["Content-Type"] == "text/calendar" and made["id"] in answer["Content-Disposition"]
    text = answer.content.decode()
    assert text.count("BEGIN:VEVENT") in (52, 53)
    again = call("POST", "/hours", {"name": "Again", "document": {"calendars": [{"name": "m", "text": text}]}}).json()
    assert (again["inside"], again["ends"]) == (made["inside"], made["ends"])


def test_hours_that_somebody_else_has_changed_meanwhile_are_not_overwritten(call):
    made = call("POST", "/hours", {"name": "Nights", "document": DARK}).json()
    at = f"/hours/{made['id']}"
    assert call("PUT", at, {"name": "Late", "document": DARK, "version": made["version"]}).status_code == 200
    assert call("PUT", at, {"name": "Lost", "document": DARK, "version": made["version"]}).status_code == 409
    assert Hours.objects.get(pk=made["id"]).name == "Late"


def test_the_page_of_hours_says_what_holds_and_who_uses_it(as_, client):
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/hours").content.decode()
    assert "until it is set again" in page and "for more than a year" not in page
    one = client.get(f"/s/{GARDENS}/hours/garden-hours").content.decode()
    assert one.count("data-track") == 7 and "Who uses them" in one and 'tabindex="0"' in one
    assert client.get(f"/s/{GARDENS}/hours/new").status_code == 200
    client.force_login(as_("vera").person)
    assert client.get(f"/s/{GARDENS}/hours/new").status_code == 404
    assert 'tabindex="0"' not in client.get(f"/s/{GARDENS}/hours/garden-hours").content.decode()
