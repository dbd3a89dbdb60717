"""What pages once got wrong, and what they say now."""

import json
import re

import pytest

from dromikon.archive.models import Bookmark
from dromikon.authoring.rehearsal import rehearse_draft, report_json, start_of_week
from dromikon.authoring.services import delete, save, switch
from dromikon.authoring.trace import steps_of
from dromikon.clock import now_ms
from dromikon.core.rules.document import RuleDocument
from dromikon.daybook.models import EventRow, RunRow, Step
from dromikon.daybook.services import record_act
from dromikon.desk.models import Alarm
from dromikon.desk.services import answer, find_alarms
from dromikon.facts import facts_of
from dromikon.rulebook.models import Rule
from dromikon.sources.models import Recorder
from tests.conftest import GARDENS
from tests.core.site import rule

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]
MIDNIGHT_BEFORE_THE_CLOCKS_CHANGE = 1_806_192_000_000


def test_words_of_an_answer_are_found_with_the_alarm_also_without_a_bookmark(bench, as_, client):
    bench.cross()
    bench.run()
    Bookmark.objects.all().delete()
    alarm = answer(as_("opal"), Alarm.objects.get().pk, "Ein MÄHER am Steg", ["staff"])
    assert [a.pk for a in find_alarms(as_("oskar"), "mäher steg")] == [alarm.pk]
    assert [a.pk for a in find_alarms(as_("oskar"), "", "staff")] == [alarm.pk] and not find_alarms(
        as_("oskar"), "", "sta"
    )
    client.force_login(as_("oskar").person)
    assert f'data-found-alarm="{alarm.pk}"' in client.get(f"/s/{GARDENS}/archive?q=mäher").content.decode()
    Alarm.objects.update(groups_text="|elsewhere|")
    assert not find_alarms(as_("oskar"), "mäher"), "only recipients find it"


def test_a_deleted_rule_is_not_opened_and_can_be_brought_back(as_, client):
    rule = Rule.objects.get(id="jetty-geese")
    delete(as_("ines"), rule)
    client.force_login(as_("ines").person)
    page = f"/s/{GARDENS}/rulebook/jetty-geese"
    assert client.get(page).status_code == 404
    api, at = "/api/v1/rules/jetty-geese", f"?site={GARDENS}"
    assert client.put(api + at, json.dumps({"document": {}, "revision": 1}), "application/json").status_code == 404
    assert client.post(f"{api}/restore{at}").status_code == 200
    assert client.get(page).status_code == 200


def test_a_trace_names_whom_and_what_a_step_went_to(garden, as_):
    person = as_("opal").person
    for i, target in enumerate((f"person:{person.pk}", "host:gateway.example", "jetty", "person:999999")):
        Step.objects.create(run="1.x", site=GARDENS, step=i, action="text", target=target, delivery="inside", due=i)
    named = [line["target"] for line in steps_of("1.x", facts_of(garden), RuleDocument.model_validate(rule()))]
    assert named == [person.shown_name, "gateway.example", "Jetty", "somebody who is gone"]


def test_the_past_week_is_the_week_that_is_drawn(bench, as_):
    now = now_ms()
    assert (
        start_of_week(MIDNIGHT_BEFORE_THE_CLOCKS_CHANGE, "Europe/London")
        == MIDNIGHT_BEFORE_THE_CLOCKS_CHANGE - 6 * 86_400_000
    )
    document = Rule.objects.get(id="jetty-closed").document
    conditions = [
        document["provided"],
        {"test": "not", "of": {"test": "list", "field": "plate", "among": {"id": "staff-plates"}}},
        {"test": "list", "field": "plate", "among": {"id": "delivery-firms"}},
    ]
    bench.cross(at=now - 1_000)
    bench.run()
    report = report_json(rehearse_draft(as_("ines"), {**document, "provided": {"test": "all", "of": conditions}}))
    assert report["turned_away"] == {"provided.of.2": 1}
    assert "delivery firms" in report["turned_away_words"]["provided.of.2"]
    assert report["start"] == report_json(rehearse_draft(as_("ines"), document))["start"]


def test_many_saved_changes_of_other_rules_cost_a_rehearsal_nothing(bench, as_, monkeypatch):
    from dromikon.authoring import replay

    draft = RuleDocument.model_validate(Rule.objects.get(id="jetty-closed").document).to_json()
    for i in range(30):
        rule = Rule.objects.get(id="jetty-geese")
        save(as_("ines"), {**rule.document, "purpose": f"Birds {i}"}, rule)
    bench.cross(at=now_ms())
    bench.run()
    parsed = []
    real = replay.facts_from_json
    monkeypatch.setattr(replay, "facts_from_json", lambda body: (parsed.append(1), real(body))[1])
    report = rehearse_draft(as_("ines"), draft, Rule.objects.get(id="jetty-closed"))
    assert len(report.draft.runs) == 1 and len(report.compared.same) == 1 and len(parsed) <= 2


async def test_a_clip_comes_as_it_is_encoded_and_says_what_failed(garden, async_client, standins):
    from asgiref.sync import sync_to_async

    from dromikon.people.models import Person

    await async_client.aforce_login(await sync_to_async(Person.objects.get)(username="oskar"))
    end = now_ms() - 60_000
    ask = f"/s/{GARDENS}/export/jetty?start={end - 4_000}&end={end}"
    await sync_to_async(Recorder.objects.update)(address=standins["recorder"])
    answer = await async_client.get(ask)
    chunks = [c async for c in answer.streaming_content]
    assert (
        answer.status_code == 200
        and len(chunks) > 1
        and b"webm" in chunks[0] + chunks[1]
        and sum(map(len, chunks)) > 5_000
    )
    future = await async_client.get(f"/s/{GARDENS}/export/jetty?start={end + 900_000}&end={end + 904_000}")
    assert future.status_code == 404 and "Nothing is recorded" in future.json()["error"]
    await sync_to_async(Recorder.objects.update)(address="http://127.0.0.1:9")
    refused = await async_client.get(ask)
    assert refused.status_code == 502 and "recorder" in refused.json()["error"]


def test_a_test_call_is_sent_from_the_page(as_, client):
    client.force_login(as_("ines").person)
    trial = lambda step: client.post(f"/api/v1/rulebook/rules/vault-forced/steps/{step}/trial?site={GARDENS}")
    assert Step.objects.get(run=trial(2).json()["run"]).action == "webhook"
    assert trial(0).status_code == 422


def test_a_proposed_rule_waits_for_somebody_who_says_who_is_told(bench, as_, client):
    bench.cross(point="gate-line")
    bench.run()
    event = bench.engine.seq
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/rulebook/new?event={event}").content.decode()
    asked = json.loads(page.split('id="open-places" type="application/json">')[1].split("</script>")[0])
    assert [(a["label"], a["paths"]) for a in asked] == [("who sees it", ["response.0.groups"])]
    page = client.get(f"/s/{GARDENS}/rulebook/new?from=freezer-warm").content.decode()
    asked = json.loads(page.split('id="open-places" type="application/json">')[1].split("</script>")[0])
    assert [a["label"] for a in asked] == ["which temperature sensors", "who sees it"]


def test_a_run_without_a_camera_says_so_in_its_trace(bench, as_):
    document = {
        "name": "Wind",
        "cause": {
            "cause": "event",
            "kind": "door.forced",
            "phase": "pulse",
            "where": {"points": [{"id": "palm-door"}]},
        },
        "response": [{"do": "bookmark"}],
    }
    switch(as_("ines"), save(as_("ines"), document), True)
    from dromikon.sources.models import Sightline

    Sightline.objects.filter(point="palm-door").delete()
    record_act(GARDENS, "facts", now_ms())
    bench.run()
    bench.http(kind="door.forced", point="palm-door", phase="pulse", fields={})
    bench.run()
    step = Step.objects.get(run=RunRow.objects.get(point="palm-door").ref)
    assert step.status == "dropped" and "no camera looks there" in step.answer


def test_the_daybook_lists_what_happened_for_all_that_came_at_once(bench, as_, client, django_assert_max_num_queries):
    client.force_login(as_("oskar").person)
    at = f"/s/{GARDENS}/daybook/recent"
    assert "Nothing has happened yet" in client.get(at).content.decode()
    for _ in range(6):
        bench.cross()
    bench.run()
    learned = EventRow.objects.earliest("seq")
    EventRow.objects.filter(seq=learned.seq).update(initial=True)
    with django_assert_max_num_queries(12):
        rows = client.get(at).content.decode()
    listed = [int(seq) for seq in re.findall(r'data-event="(\d+)"', rows)]
    happened = EventRow.objects.filter(seq__gt=learned.seq).order_by("-seq").values_list("seq", flat=True)
    assert listed == list(happened) and len(listed) >= 5
    assert "Nothing has happened yet" not in rows
