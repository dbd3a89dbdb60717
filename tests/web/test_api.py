"""The API: tokens, pages of events, rules, alarms, and errors that say where."""

import json

import pytest

from dromikon.desk.models import Alarm
from dromikon.people.models import Person
from dromikon.people.tokens import make_token
from tests.conftest import GARDENS, NURSERY
from tests.web.test_rulebook import DOCUMENT

pytestmark = pytest.mark.django_db


@pytest.fixture
def call(client, garden):
    tokens = {p.username: make_token(p, "test")[1] for p in Person.objects.all()}

    def request(user, method, path, content=None, site=GARDENS):
        url = f"/api/v1/{path}{'&' if '?' in path else '?'}site={site}"
        body = json.dumps(content) if content is not None else None
        return (
            getattr(client, method)(
                url,
                body,
                content_type="application/json",
                headers={"Authorization": f"Bearer {tokens.get(user, user)}"},
            )
            if body
            else getattr(client, method)(url, headers={"Authorization": f"Bearer {tokens.get(user, user)}"})
        )

    return request


def test_without_a_token_nothing_but_the_description(client, garden):
    assert client.get("/api/v1/events").status_code == 401
    document = client.get("/api/v1/openapi.json").json()
    assert {
        "/api/v1/events",
        "/api/v1/rules/{rule_id}/enable",
        "/api/v1/alarms/{alarm_id}/acknowledge",
        "/api/v1/bookmarks",
        "/api/v1/points",
    } <= set(document["paths"])


def test_a_wrong_token_and_another_site(call):
    assert call("dro_wrong", "get", "events").status_code == 401
    assert call("opal", "get", "events", site=NURSERY).status_code == 404
    assert call("opal", "get", "events", site="nowhere").status_code == 404


def test_the_site_may_be_left_out_by_those_who_have_one(client, garden):
    for user, status in (("opal", 200), ("oskar", 400)):
        token = make_token(Person.objects.get(username=user), "t")[1]
        assert client.get("/api/v1/events", headers={"Authorization": f"Bearer {token}"}).status_code == status


def test_events_page_by_page_and_filtered(call, bench):
    for i in range(7):
        bench.cross(point="gate-line" if i % 2 else "jetty-line")
    bench.run()
    seen, cursor = [], "0"
    while True:
        page = call("vera", "get", f"events?limit=3&cursor={cursor}").json()
        if not page["events"]:
            break
        seen += [e["id"] for e in page["events"]]
        cursor = page["cursor"]
    assert len(seen) == len(set(seen)) == 7 and all(isinstance(i, str) for i in seen)
    assert len(call("vera", "get", "events?point=gate-line").json()["events"]) == 3
    assert call("vera", "get", "events?kind=input.active").json() == {"events": [], "cursor": None}
    assert call("vera", "get", "events?since=2030-01-01T00:00:00Z").json()["events"] == []
    for wrong in ("since=soon", "cursor=x", "limit=0", "limit=9999"):
        assert call("vera", "get", f"events?{wrong}").status_code in (400, 422)


def test_one_event_with_its_trace_in_words(call, bench):
    bench.cross(confidence=40.0)
    bench.run()
    event = call("vera", "get", "events").json()["events"][0]
    trace = {t["rule"]: t for t in call("vera", "get", f"events/{event['id']}").json()["trace"]}
    lines = {line["label"]: line for line in trace["jetty-closed"]["lines"]}
    assert trace["jetty-closed"]["outcome"] == "not_provided"
    assert lines["confidence"] == {
        "part": "provided.of.1",
        "label": "confidence",
        "seen": "40 %",
        "wanted": "is at least 55 %",
        "held": False,
    }
    assert lines["class"]["held"] is True
    assert call("vera", "get", "events/999999").status_code == 404


def test_rules_are_made_replaced_switched_and_taken_out(call):
    made = call("ines", "post", "rules", {"document": DOCUMENT})
    assert made.status_code == 201 and made.json()["sentence"].startswith("When Gate line is crossed")
    rule = made.json()["id"]
    assert (
        call("ines", "put", f"rules/{rule}", {"document": {**DOCUMENT, "name": "B"}, "revision": 1}).json()["revision"]
        == 2
    )
    assert call("ines", "put", f"rules/{rule}", {"document": DOCUMENT, "revision": 1}).status_code == 409
    assert call("ines", "post", f"rules/{rule}/enable", {"enabled": True}).json()["enabled"] is True
    assert call("vera", "post", f"rules/{rule}/enable", {"enabled": False}).status_code == 403
    assert call("ines", "delete", f"rules/{rule}").status_code == 204
    assert call("ines", "get", f"rules/{rule}").status_code == 404


def test_what_the_api_exports_it_takes_back_unchanged(call):
    for rule in call("ines", "get", "rules").json():
        unsaid = call("ines", "put", f"rules/{rule['id']}", {"document": rule["document"]})
        assert unsaid.status_code == 422 and unsaid.json()["problems"][0]["path"] == "revision"
        content = {"document": rule["document"], "revision": rule["revision"]}
        answer = call("ines", "put", f"rules/{rule['id']}", content)
        assert answer.status_code == 200 and answer.json()["document"] == rule["document"]


def test_a_bad_document_is_refused_with_the_path(call):
    answer = call("ines", "post", "rules", {"document": {**DOCUMENT, "cause": {**DOCUMENT["cause"], "colour": 1}}})
    assert answer.status_code == 422
    assert answer.json()["problems"] == [{"path": "cause.colour", "message": "there is no field 'colour' here"}]
    assert call("ines", "post", "rules", {"no": 1}).status_code == 422
    assert call("oskar", "post", "rules", {"document": DOCUMENT}).status_code == 403


def test_alarms_are_listed_by_state_and_answered_once(call, bench):
    bench.cross()
    bench.run()
    alarm = call("oskar", "get", "alarms?state=unacknowledged").json()[0]
    assert alarm["note_required"] and alarm["acknowledged_at"] is None
    path = f"alarms/{alarm['id']}/acknowledge"
    assert call("vera", "post", path, {"note": "x"}).status_code == 403
    assert call("oskar", "post", path, {}).json()["problems"][0]["path"] == "note"
    assert (
        call("oskar", "post", path, {"note": "seen", "tags": ["visitor"]}).json()["acknowledged_by"]
        == "Oskar Lindwater"
    )
    assert call("opal", "post", path, {"note": "seen"}).status_code == 409
    assert call("oskar", "post", "alarms/999/acknowledge", {"note": "x"}).status_code == 404
    assert call("oskar", "get", "alarms?state=unacknowledged").json() == []
    bookmark = call("vera", "get", "bookmarks?tag=visitor").json()[0]
    assert bookmark["note"] == "seen" and bookmark["camera"] == "jetty"


def test_runs_tell_their_steps(call, bench):
    bench.cross()
    bench.run()
    run = call("vera", "get", "runs?rule=jetty-closed").json()[0]
    assert {s["action"] for s in run["steps"]} == {"alarm", "bookmark", "popup"}
    assert call("vera", "get", f"runs?event={run['event']}").json()[0]["id"] == run["id"]
    assert run["id"] == Alarm.objects.get().run


def test_devices_points_and_sites(call, bench):
    bench.cross()
    bench.run()
    told = {d["id"]: d["state"] for d in call("vera", "get", "devices").json()}
    assert told["cam-gate"] == "unknown" and "cam-yard" not in told, "those of the site, and no other's"
    points = {p["id"]: p for p in call("vera", "get", "points").json()}
    assert "scene.line_crossed" in points["jetty-line"]["last_seen"] and points["gate-line"]["last_seen"] == {}
    assert [s["role"] for s in call("oskar", "get", "sites").json()] == ["operator", "operator"]
