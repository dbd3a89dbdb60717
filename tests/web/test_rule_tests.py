"""Testing rules: a case tried without doing anything, a live rule carried out and marked as a test everywhere, the checklist."""

import json

import pytest

from dromikon.authoring.known import known_of
from dromikon.authoring.replay import entries
from dromikon.authoring.services import save, switch
from dromikon.authoring.testing import MOST_CASES
from dromikon.clock import now_ms
from dromikon.core.lists.similarity import write_template
from dromikon.core.rules.rehearse import Stage, rehearse
from dromikon.daybook.models import ActRow, EventRow, LineRow, RunRow, Step, TallyRow, VerdictRow
from dromikon.desk.models import Alarm
from dromikon.lists.models import WatchList
from dromikon.lists.services import set_entries
from dromikon.people.models import AuditEntry
from dromikon.people.tokens import make_token
from dromikon.rulebook.models import Case
from tests.conftest import GARDENS

pytestmark = pytest.mark.django_db

CROSSED = {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": {"points": [{"id": "gate-line"}]}}
HUMAN = {"test": "field", "field": "class", "op": "is", "value": "human"}
EVENT = {"kind": "scene.line_crossed", "point": "gate-line", "phase": "pulse", "fields": {"class": "human"}}
STEPS = [
    {"do": "alarm", "title": "Crossed", "groups": [{"id": "operators"}]},
    {"do": "line", "text": "later", "after": 60},
]
DOCUMENT = {"name": "R", "cause": CROSSED, "provided": HUMAN, "response": STEPS}


@pytest.fixture
def call(as_, client):
    def send(method, path, content=None, user="ines"):
        headers = {"Authorization": f"Bearer {make_token(as_(user).person, 't')[1]}"}
        at = f"/api/v1/{path}?site={GARDENS}"
        return client.generic(method, at, json.dumps(content or {}), content_type="application/json", headers=headers)

    return send


@pytest.fixture
def rule(as_, bench):
    made = save(as_("ines"), DOCUMENT)
    switch(as_("ines"), made, True)
    bench.run()
    return made


def test_what_a_draft_can_be_tested_with_is_its_cause_and_the_last_event(call, bench):
    told = call("POST", "rules/propose", {"document": DOCUMENT}).json()
    (pair,) = told["pairs"]
    assert (pair["kind"], pair["point"], pair["phases"]) == ("scene.line_crossed", "gate-line", ["pulse"])
    assert told["event"]["fields"]["class"] == "human" and "class" in {f["name"] for f in pair["fields"]}
    bench.cross(point="gate-line", **{"class": "animal"})
    bench.run()
    assert call("POST", "rules/propose", {"document": DOCUMENT}).json()["event"]["fields"]["class"] == "animal"


def test_a_case_is_tried_and_nothing_is_done(call, bench):
    told = call("POST", "rules/try", {"document": DOCUMENT, "case": {"events": [EVENT]}}).json()
    assert told["fired"] and [(p["label"], p["after"]) for p in told["plan"]] == [
        ("Alarm", 0),
        ("Daybook line", 60),
    ]
    assert told["plan"][0]["x"] == 0 < told["plan"][1]["x"] < 1 and told["ticks"][0]["seconds"] == 1
    animal = {**EVENT, "fields": {"class": "animal"}}
    no = call("POST", "rules/try", {"document": DOCUMENT, "case": {"events": [animal]}}).json()
    assert not no["fired"] and [x["held"] for x in no["verdicts"][0]["lines"]] == [True, False]
    bench.run()
    assert not EventRow.objects.filter(kind="scene.line_crossed").exists() and not Step.objects.exists()


@pytest.mark.parametrize(
    ("case", "path"),
    [
        ({"events": [{**EVENT, "after": -1}]}, "case.events.0.after"),
        ({"events": [EVENT], "at": "tomorrow"}, "case.at"),
        ({"events": [EVENT], "at": "2026-13-40T00:00"}, "case.at"),
        ({"events": [EVENT] * 21}, "case.events"),
        ({"colour": 1}, "case.colour"),
    ],
)
def test_a_case_that_cannot_be_read_says_where(call, case, path):
    answer = call("POST", "rules/try", {"document": DOCUMENT, "case": case})
    assert answer.status_code == 422 and answer.json()["problems"][0]["path"] == path


def test_a_live_rule_is_carried_out_and_everything_says_that_it_is_a_test(call, bench, rule, client, as_):
    assert call("POST", f"rules/{rule.id}/test", {"event": EVENT}).status_code == 202
    bench.run()
    run = RunRow.objects.get(rule=rule.id)
    event = EventRow.objects.get(seq=run.event)
    assert run.test and event.test and Alarm.objects.get(run=run.ref).title == "Test: Crossed"
    assert AuditEntry.objects.filter(verb="tested rule").exists()
    client.force_login(as_("ines").person)
    assert "made up for a test" in client.get(f"/s/{GARDENS}/daybook/event/{event.seq}").content.decode()
    bench.engine.clock = lambda: now_ms() + 61_000
    bench.run()
    assert LineRow.objects.get(run=run.ref).text == "Test: later"


def test_a_test_is_no_history(call, bench, rule, as_):
    """It is not counted, holds nothing off, and a rehearsal finds the week as though it had not been."""
    others = save(as_("ines"), {**DOCUMENT, "name": "Other"})
    switch(as_("ines"), others, True)
    call("POST", f"rules/{rule.id}/test", {"event": EVENT})
    bench.run()
    assert not VerdictRow.objects.filter(rule=others.id).exists(), "it is for that rule alone"
    assert not TallyRow.objects.filter(point="gate-line").exists()
    past = entries(GARDENS, 0, now_ms() + 1000, {"scene.line_crossed"}, {"gate-line"})
    (result,) = rehearse(past, [Stage(None, 0, now_ms() + 1000)])
    assert result.runs == []
    bench.cross(point="gate-line")
    bench.run()
    assert RunRow.objects.filter(rule=rule.id, test=False).count() == 1


@pytest.mark.parametrize(
    ("event", "lasts", "path"),
    [
        ({**EVENT, "point": "jetty-line"}, 10, "event"),
        ({**EVENT, "kind": "door.open"}, 10, "event"),
        ({**EVENT, "kind": "door.open", "point": ""}, 10, "event"),
        ({**EVENT, "point": ""}, 10, "event"),
        ({**EVENT, "colour": 1}, 10, "event.colour"),
        (EVENT, 0, "lasts"),
    ],
)
def test_what_cannot_be_tested_is_refused(call, rule, event, lasts, path):
    answer = call("POST", f"rules/{rule.id}/test", {"event": event, "lasts": lasts})
    assert answer.status_code == 422 and answer.json()["problems"][0]["path"] == path
    assert not ActRow.objects.filter(type="trial").exists()


def test_a_rule_that_is_off_and_somebody_who_may_not_are_refused(call, rule, as_):
    assert call("POST", f"rules/{rule.id}/test", {"event": EVENT}, user="oskar").status_code == 403
    switch(as_("ines"), rule, False)
    answer = call("POST", f"rules/{rule.id}/test", {"event": EVENT})
    assert answer.status_code == 422 and answer.json()["problems"][0]["path"] == "rule"


def test_cases_are_kept_with_a_rule_and_later_drafts_are_measured_by_them(call, rule):
    animal = {"events": [{**EVENT, "fields": {"class": "animal"}}]}
    at = f"rules/{rule.id}/cases"
    assert call("POST", at, {"name": "somebody", "case": {"events": [EVENT]}, "fires": True}).status_code == 201
    fox = call("POST", at, {"name": "a fox", "case": animal, "fires": False}).json()
    kept = Case.objects.get(pk=fox["id"]).content
    assert kept["at"] and kept["mode"] and kept["states"] is not None, "nothing is left to the moment of asking"
    assert [c["held"] for c in call("POST", f"{at}/check", {"document": DOCUMENT}).json()] == [True, True]
    anything = {**DOCUMENT, "provided": None}
    checked = call("POST", f"{at}/check", {"document": anything}).json()
    assert [(c["name"], c["held"]) for c in checked] == [("somebody", True), ("a fox", False)]
    assert call("DELETE", f"{at}/{fox['id']}").status_code == 204 and Case.objects.count() == 1
    assert call("POST", at, {"name": " ", "case": animal, "fires": True}).status_code == 422
    Case.objects.bulk_create(Case(rule=rule, name="x", content=kept, fires=True, at=0) for _ in range(MOST_CASES))
    assert call("POST", at, {"name": "more", "case": animal, "fires": True}).status_code == 422


def test_what_a_point_sends_for_the_first_time_is_offered_at_once(bench):
    before = known_of(GARDENS).sends
    assert "scene.occupied" not in before.get("jetty-line", ()) and known_of(GARDENS).sends is before, (
        "it is remembered"
    )
    bench.http(kind="scene.occupied", point="jetty-line", phase="begin")
    bench.run()
    assert "scene.occupied" in known_of(GARDENS).sends["jetty-line"]


def test_a_face_of_the_past_is_tried_without_being_told(call, bench, as_):
    face = write_template([1.0 if i == 3 else 0.01 * i for i in range(128)])
    people = WatchList.objects.get(id="garden-staff")
    set_entries(as_("ines"), people, [{"value": "Ada", "template": face}])
    bench.http(kind="face.seen", point="gate-line", phase="pulse", fields={"template": face, "confidence": 90.0})
    bench.run()
    similar = {"test": "list", "field": "template", "among": {"id": people.id}, "how": "similar"}
    cause = {**CROSSED, "kind": "face.seen"}
    document = {"name": "F", "cause": cause, "provided": similar, "response": [{"do": "line", "text": "a"}]}
    told = call("POST", "rules/propose", {"document": document})
    assert face not in told.content.decode() and "template" not in told.json()["event"]["fields"]
    tried = call("POST", "rules/try", {"document": document, "case": {"events": [told.json()["event"]]}})
    assert tried.json()["fired"] and face not in tried.content.decode()
    unknown = {**told.json()["event"], "of": None}
    assert not call("POST", "rules/try", {"document": document, "case": {"events": [unknown]}}).json()["fired"]


def test_what_a_test_raises_is_told_to_no_rule(call, bench, as_):
    raises = save(as_("ines"), {**DOCUMENT, "response": [{"do": "derive", "name": "Seen", "text": "x"}]})
    raised = {**DOCUMENT, "name": "Hears", "provided": None, "cause": {**CROSSED, "kind": "rule.raised"}}
    hears = save(as_("ines"), raised)
    for rule in (raises, hears):
        switch(as_("ines"), rule, True)
    bench.run()
    call("POST", f"rules/{raises.id}/test", {"event": EVENT})
    bench.run()
    told = EventRow.objects.get(kind="rule.raised")
    assert told.test and told.fields["text"] == "Test: x" and not RunRow.objects.filter(rule=hears.id).exists()
    bench.cross(point="gate-line")
    bench.run()
    assert RunRow.objects.filter(rule=hears.id).count() == 1
