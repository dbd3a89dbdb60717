"""Rehearsal over a real journal: the demo's past, the editor's draft, the API."""

import asyncio
import json
from functools import partial

import pytest
from asgiref.sync import sync_to_async
from django.test import AsyncClient

from dromikon.authoring.rehearsal import rehearse_draft
from dromikon.authoring.replay import entries
from dromikon.authoring.streaming import lines
from dromikon.clock import now_ms
from dromikon.core.rules.rehearse import Checkpoint, Stage, rehearse
from dromikon.daybook.models import Journal, RunRow
from dromikon.demo import load
from dromikon.facts import facts_of
from dromikon.people.access import access
from dromikon.people.models import Person
from dromikon.people.tokens import make_token
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule
from tests.conftest import GARDENS, NURSERY

pytestmark = pytest.mark.django_db


def runs_of(rule):
    rows = RunRow.objects.filter(rule=rule).order_by("id")
    return list(rows.values_list("ref", "event", "point", "at", "zero"))


@pytest.mark.slow
def test_the_demos_past_rehearsed_gives_exactly_the_runs_that_live_gave(db, tmp_path, monkeypatch):
    from dromikon import config

    monkeypatch.setattr(config, "inbox_path", lambda: tmp_path / "inbox.sqlite3")
    load.load(lambda text: None, days=3)
    compared = 0
    for site in (GARDENS, NURSERY):
        rules = list(Rule.objects.filter(site=site))
        facts = facts_of(rules[0].site)
        from dromikon.core.rules.document import RuleDocument

        pairs = {p for r in rules for p in RuleDocument.model_validate(r.document).concerns(facts)}
        journal = list(entries(site, 0, now_ms(), {k for k, _ in pairs}, {p for _, p in pairs}))
        stages = [Stage(None, 0, now_ms(), only=r.id) for r in rules]
        for rule, result in zip(rules, rehearse(journal, stages), strict=True):
            assert [(r.ref, r.event, r.point, r.at, r.zero) for r in result.runs] == runs_of(rule.id), rule.id
            compared += len(result.runs)
        _from_a_checkpoint(site, rules, pairs)
    assert compared >= 8


def _from_a_checkpoint(site, rules, pairs):
    """The last day alone, begun at a checkpoint: what live did that day, down to the references."""
    start = now_ms() - 86_400_000
    journal = list(entries(site, start, now_ms(), {k for k, _ in pairs}, {p for _, p in pairs}))
    assert isinstance(journal[0], Checkpoint) and journal[0].at < start
    results = rehearse(journal, [Stage(None, start, now_ms(), only=r.id) for r in rules])
    for rule, result in zip(rules, results, strict=True):
        live = [r for r in runs_of(rule.id) if r[3] >= start]
        assert [(r.ref, r.event, r.point, r.at, r.zero) for r in result.runs] == live, rule.id


@pytest.fixture
def past(bench):
    """Ten crossings of rising confidence, an hour of a quiet site apart, all before now."""
    began = now_ms() - 3_000_000
    for i in range(10):
        bench.cross(at=began + i * 120_000, confidence=40.0 + i * 5)
    bench.run()
    return bench


def test_a_draft_is_compared_with_the_live_revision(past, as_):
    rule = Rule.objects.get(id="jetty-closed")
    draft = {**rule.document, "provided": {"test": "field", "field": "confidence", "op": "at_least", "value": 75}}
    report = rehearse_draft(as_("ines"), draft, rule)
    assert len(runs_of("jetty-closed")) == 7
    assert (len(report.draft.runs), len(report.compared.same), len(report.compared.gone), len(report.compared.new)) == (
        3,
        3,
        4,
        0,
    )
    assert report.draft.turned_away == {"provided": 7}
    assert not RunRow.objects.filter(rule="draft").exists(), "and nothing was done"


def test_a_sweep_shows_how_the_count_moves(past, as_):
    document = Rule.objects.get(id="jetty-closed").document
    report = rehearse_draft(as_("ines"), document, sweep={"path": "provided.of.1.value", "values": [40, 60, 85, 99]})
    assert report.sweep == [(40, 10), (60, 6), (85, 1), (99, 0)]


@pytest.mark.parametrize(
    ("more", "path"),
    [
        ({"sweep": {"path": "nowhere", "values": [1]}}, "sweep.path"),
        ({"sweep": {"path": "hold_off.seconds", "values": [-1]}}, "hold_off.seconds"),
        ({"sweep": {"path": "hold_off.seconds", "values": []}}, "values"),
        ({"start": 0}, "start"),
        ({"start": 10**15}, "start"),
    ],
)
def test_what_cannot_be_rehearsed_says_where(past, as_, more, path):
    document = Rule.objects.get(id="jetty-closed").document
    with pytest.raises(Refused) as refused:
        rehearse_draft(as_("ines"), document, **more)
    assert path in {p.path for p in refused.value.problems}


def test_only_the_events_that_concern_the_rule_are_read(past):
    journal = list(entries(GARDENS, 0, now_ms(), {"scene.line_crossed"}, {"gate-line"}))
    assert len(journal) == Journal.objects.filter(site=GARDENS).exclude(type="event").count()


def streamed(person, body):
    """The lines of the editor's rehearsal."""

    async def read():
        client = AsyncClient()
        await client.aforce_login(person)
        headers = {"accept": "application/x-ndjson"}
        at = f"/api/v1/rules/rehearse?site={GARDENS}"
        answer = await client.post(at, body, content_type="application/json", headers=headers)
        return [json.loads(line) async for line in answer.streaming_content]

    return asyncio.run(read())


@pytest.mark.django_db(transaction=True)
def test_a_rehearsal_tells_its_progress_and_ends_when_nobody_listens(past, monkeypatch):
    person = Person.objects.get(username="ines")
    body = {"document": Rule.objects.get(id="jetty-closed").document}
    monkeypatch.setattr("dromikon.core.rules.rehearse.TELL_EVERY", 1)
    told = [line["progress"] for line in streamed(person, json.dumps(body))[:-1]]
    assert told == sorted(told) and told[0] >= 0 and told[-1] <= 1 and len(told) > 5

    async def leave():
        found = await sync_to_async(access)(person, GARDENS)
        stream = lines(partial(rehearse_draft, found, body["document"]))
        await anext(stream)
        await stream.aclose()

    monkeypatch.setattr("dromikon.authoring.streaming.report_json", lambda report: pytest.fail("it went on to the end"))
    asyncio.run(leave())


@pytest.mark.django_db(transaction=True)
def test_editor_and_api_say_the_same(past, client):
    person = Person.objects.get(username="ines")
    document = Rule.objects.get(id="jetty-closed").document
    client.force_login(person)
    body = json.dumps({"document": document, "rule": "jetty-closed"})
    page = streamed(person, body)[-1]["report"]
    headers = {"Authorization": f"Bearer {make_token(person, 't')[1]}"}
    answer = client.post(
        f"/api/v1/rules/rehearse?site={GARDENS}", body, content_type="application/json", headers=headers
    )
    api = answer.json()
    assert answer.status_code == 200 and {**api, "start": "", "end": ""} == {**page, "start": "", "end": ""}
    assert (api["count"], api["same"], api["new"], api["gone"]) == (7, 7, [], [])
    bad = json.dumps({"document": {**document, "cause": {}}})
    assert streamed(person, bad)[-1]["problems"][0]["path"].startswith("cause")
    client.force_login(Person.objects.get(username="vera"))
    assert (
        client.post(f"/api/v1/rules/rehearse?site={GARDENS}", body, content_type="application/json").status_code == 403
    )
