"""Rules that somebody else has saved meanwhile, that name what is gone, that are very long, or whose names run the other way."""

import json

import pytest

from dromikon.authoring.services import read_document, save, switch
from dromikon.authoring.trace import trace_of
from dromikon.authoring.trace_picture import MOST_STEPS, picture_of
from dromikon.daybook.models import EventRow, Step
from dromikon.facts import facts_of
from dromikon.people.tokens import make_token
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule
from dromikon.sites.models import Site
from dromikon.sources.models import Point
from dromikon.web.trace_drawing import drawing_of
from tests.conftest import GARDENS

pytestmark = pytest.mark.django_db

CROSSED = {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": {"points": [{"id": "gate-line"}]}}
HUMAN = {"test": "field", "field": "class", "op": "is", "value": "human"}
DOCUMENT = {"name": "R", "cause": CROSSED, "response": [{"do": "line", "text": "a"}]}


@pytest.fixture
def call(as_, client):
    def send(method, path, content=None, user="ines"):
        headers = {"Authorization": f"Bearer {make_token(as_(user).person, 't')[1]}"}
        at = f"/api/v1/{path}?site={GARDENS}"
        return client.generic(method, at, json.dumps(content or {}), content_type="application/json", headers=headers)

    return send


def test_whoever_saves_second_is_refused_and_sees_both_differences(call, as_):
    rule = save(as_("ines"), DOCUMENT)
    theirs = {**DOCUMENT, "hold_off": {"seconds": 30}}
    assert call("PUT", f"rules/{rule.id}", {"document": theirs, "revision": 1}, user="ada").status_code == 200
    mine = {**DOCUMENT, "name": "Mine", "provided": HUMAN}
    assert call("PUT", f"rules/{rule.id}", {"document": mine, "revision": 1}).status_code == 409
    told = call("POST", f"rules/{rule.id}/meanwhile", {"document": mine, "revision": 1}).json()
    assert told["revision"] == 2 and told["by"] and {c["part"] for c in told["theirs"]} == {"hold_off"}
    assert {c["part"] for c in told["mine"]} >= {"hold_off", "provided"}
    assert call("PUT", f"rules/{rule.id}", {"document": mine, "revision": 2}).status_code == 200


def test_a_point_that_is_taken_away_under_an_open_editor_is_told_at_its_part(call, as_):
    rule = save(as_("ines"), DOCUMENT)
    Point.objects.filter(id="gate-line").update(retired_at=1)
    told = call("POST", "rules/preview", {"document": DOCUMENT, "rule": rule.id}).json()
    assert any(f["severity"] == "error" and f["path"].startswith("cause") for f in told["findings"])
    with pytest.raises(Refused):
        switch(as_("ines"), rule, True)


def test_sixty_conditions_are_read_told_and_decided(call, as_, bench):
    sure = [{"test": "field", "field": "confidence", "op": "at_least", "value": i} for i in range(59)]
    many = {"test": "all", "of": [*sure, HUMAN]}
    document = {**DOCUMENT, "provided": many}
    told = call("POST", "rules/preview", {"document": document}).json()
    assert told["problems"] == [] and len(told["sentence"]) > 60
    assert call(
        "POST",
        "rules/try",
        {
            "document": document,
            "case": {
                "events": [
                    {"kind": "scene.line_crossed", "point": "gate-line", "fields": {"class": "human", "confidence": 90}}
                ]
            },
        },
    ).json()["fired"]
    rule = save(as_("ines"), document)
    switch(as_("ines"), rule, True)
    bench.cross(point="gate-line")
    bench.run()
    event = EventRow.objects.latest("seq")
    (path,) = picture_of(trace_of(as_("ines"), event, facts_of(Site.objects.get(id=GARDENS))), event.occurred_at).paths
    assert path.outcome == "fired" and path.stopped is None and len(path.gates) >= 60
    drawn = drawing_of(
        picture_of(trace_of(as_("ines"), event, facts_of(Site.objects.get(id=GARDENS))), event.occurred_at)
    )
    assert max(g["x"] for g in drawn["rows"][0]["gates"]) < drawn["zero"], (
        "however many are asked, they stand before zero"
    )


def test_a_name_of_five_hundred_characters_is_refused_at_its_place(call):
    answer = call("POST", "rules", {"document": {**DOCUMENT, "name": "n" * 500}})
    assert answer.status_code == 422 and answer.json()["problems"][0]["path"] == "name"
    assert call("POST", "hours", {"name": "n" * 500, "document": {}}).status_code == 422
    assert call("POST", "lists", {"name": "n" * 500}).status_code == 422


@pytest.mark.parametrize("name", ["حديقة البوابة", "שער הגן", "門を通る人", "<b>&amp;", "a\u202eb"])
def test_names_in_any_script_are_kept_and_shown_as_they_are(call, as_, client, name):
    made = call("POST", "rules", {"document": {**DOCUMENT, "name": name}})
    assert made.status_code == 201 and Rule.objects.get(pk=made.json()["id"]).name == name
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/rulebook/{made.json()['id']}").content.decode()
    assert 'dir="auto"' in page and "<b>&amp;" not in page.replace("\\u003Cb\\u003E", "")
    assert name.split("<")[0] in client.get(f"/s/{GARDENS}/rulebook").content.decode()


def test_a_trace_shows_where_a_rule_stopped_and_what_a_run_did_when(as_, bench):
    steps = [{"do": "line", "text": str(i), "after": i * 10} for i in range(MOST_STEPS + 3)]
    fires = save(as_("ines"), {**DOCUMENT, "name": "Fires", "response": steps})
    stops = save(as_("ines"), {**DOCUMENT, "name": "Stops", "provided": {**HUMAN, "value": "animal"}})
    for rule in (fires, stops):
        switch(as_("ines"), rule, True)
    bench.run()
    bench.cross(point="gate-line")
    bench.run()
    event = EventRow.objects.latest("seq")
    run = Step.objects.latest("id").run
    more = [
        Step(run=run, site=GARDENS, step=i, action="line", due=event.at + i * 10_000, status="due", delivery="inside")
        for i in range(1, len(steps))
    ]
    Step.objects.bulk_create(more)
    picture = picture_of(trace_of(as_("ines"), event, facts_of(Site.objects.get(id=GARDENS))), event.occurred_at)
    by = {p.name: p for p in picture.paths}
    assert by["Stops"].gates[by["Stops"].stopped].held is False and not by["Stops"].deeds
    places = [d.x for d in by["Fires"].deeds]
    assert (
        len(places) == MOST_STEPS
        and by["Fires"].more == 3
        and places == sorted(places)
        and 0 <= places[0] < places[-1] < 1
    )
    rows = {r["name"]: r for r in drawing_of(picture)["rows"]}
    assert (
        rows["Stops"]["end"] < drawing_of(picture)["zero"] == rows["Fires"]["end"] and "animal" in rows["Stops"]["why"]
    )


def test_documents_of_any_depth_are_refused_before_they_hurt(as_):
    deep = HUMAN
    for _ in range(200):
        deep = {"test": "not", "of": deep}
    with pytest.raises(Refused):
        read_document({**DOCUMENT, "provided": deep})
