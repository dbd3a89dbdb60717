"""Rules from event to live: drafts, revisions, checks at the door, previews."""

import json

import pytest

from dromikon.authoring.drafts import draft_of_event
from dromikon.authoring.preview import preview_of
from dromikon.authoring.services import Overtaken, delete, read_document, save, switch
from dromikon.core.kinds import CLOCK, KINDS
from dromikon.core.rules.actions import ACTIONS
from dromikon.core.rules.causes import CAUSES
from dromikon.core.rules.checks import check
from dromikon.core.rules.conditions import CONDITIONS
from dromikon.core.rules.document import RuleDocument
from dromikon.daybook.models import EventRow
from dromikon.demo import rulebook
from dromikon.facts import facts_of
from dromikon.people.models import AuditEntry, Person
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule
from tests.conftest import GARDENS

pytestmark = pytest.mark.django_db

DOCUMENT = {
    "name": "Anybody",
    "cause": {
        "cause": "event",
        "kind": "scene.line_crossed",
        "phase": "pulse",
        "where": {"points": [{"id": "gate-line"}]},
    },
    "response": [{"do": "alarm", "title": "Anybody", "groups": [{"id": "operators"}]}],
}


def test_every_save_is_a_revision_and_a_new_rule_is_off(as_):
    rule = save(as_("ines"), DOCUMENT)
    assert (rule.revision, rule.enabled) == (1, False)
    rule = save(as_("ines"), {**DOCUMENT, "name": "Everybody"}, rule, 1)
    assert (rule.revision, rule.name, rule.document["name"]) == (2, "Everybody", "Everybody")
    assert rule.revisions.get(number=1).document["name"] == "Anybody"
    assert AuditEntry.objects.filter(subject=f"rule:{rule.id}").count() == 2


def test_two_editors_do_not_overwrite_each_other(as_):
    rule = save(as_("ines"), DOCUMENT)
    save(as_("ada"), {**DOCUMENT, "name": "Hers"}, rule, 1)
    with pytest.raises(Overtaken, match="somebody else"):
        save(as_("ines"), {**DOCUMENT, "name": "Mine"}, rule, 1)
    assert Rule.objects.get(pk=rule.pk).name == "Hers"


def test_a_rule_with_an_error_is_saved_but_does_not_go_live(as_):
    broken = {**DOCUMENT, "response": [{"do": "alarm", "title": "x"}]}
    rule = save(as_("ines"), broken)
    with pytest.raises(Refused, match="Nobody receives"):
        switch(as_("ines"), rule, True)
    rule = switch(as_("ines"), save(as_("ines"), DOCUMENT, rule), True)
    with pytest.raises(Refused, match="Nobody receives"):
        save(as_("ines"), broken, rule)
    assert Rule.objects.get(pk=rule.pk).document == {"format": "dromikon-rule/1", **DOCUMENT}, (
        "a live rule stays as it was"
    )


def test_deleting_switches_off_and_can_be_undone(as_):
    rule = switch(as_("ines"), save(as_("ines"), DOCUMENT), True)
    delete(as_("ines"), rule)
    assert rule.id not in {r.id for r in facts_of(rule.site).rules}
    delete(as_("ines"), rule, deleted=False)
    assert not Rule.objects.get(pk=rule.pk).enabled and not Rule.objects.get(pk=rule.pk).deleted


def test_all_demo_rules_are_sound(garden):
    from dromikon.sites.models import Site

    for id, site, content in rulebook.RULES:
        findings = check(read_document(content), facts_of(Site.objects.get(id=site)))
        assert [f for f in findings if f.check != "not-tested"] == [], (id, findings)


def test_the_demo_rules_use_every_cause_and_all_but_a_few_steps():
    documents = [read_document(content) for _, _, content in rulebook.RULES]
    assert {d.cause.cause for d in documents} == set(CAUSES.names())
    conditions = {
        getattr(leaf, "test", "") for d in documents for _, _, tree in d.conditions() for _, leaf in tree.leaves("")
    }
    assert conditions == set(CONDITIONS.names()) - {"all", "any", "not"}
    assert {s.do for d in documents for s in d.response} == set(ACTIONS.names()) - {"http", "script"}
    assert {d.hold_off.then for d in documents if d.hold_off} == {"ignore", "join", "sum"}


def test_a_rule_made_from_an_event_is_ready_to_be_switched_on(bench, as_):
    bench.cross(point="gate-line", confidence=84.0)
    bench.run()
    facts = bench.engine.sites[GARDENS].facts
    draft = draft_of_event(EventRow.objects.get(), facts)
    assert [f.check for f in check(RuleDocument.model_validate(draft), facts)] == ["no-recipient"], (
        "it asks who sees it"
    )
    draft["response"][0]["groups"] = [{"id": "operators"}]
    document = RuleDocument.model_validate(draft)
    assert check(document, facts) == []
    assert document.cause.where.points[0].name == "Gate line"
    assert [c.value for c in document.provided.of] == ["human", 70.0]
    rule = switch(as_("ines"), save(as_("ines"), document.to_json()), True)
    bench.run()
    bench.cross(point="gate-line", confidence=84.0)
    bench.run()
    from dromikon.daybook.models import RunRow

    assert RunRow.objects.filter(rule=rule.id).count() == 1, "and fires for the next one like it"


@pytest.fixture
def post(client, garden):
    client.force_login(Person.objects.get(username="ines"))
    return lambda path, content: client.post(
        f"/api/v1/rules{path}?site={GARDENS}", json.dumps(content), content_type="application/json"
    )


@pytest.fixture
def preview(post):
    return lambda document: post("/preview", {"document": document})


def test_the_preview_reads_plans_and_checks(preview):
    content = preview({**DOCUMENT, "hold_off": {"seconds": 60}}).json()
    assert content["problems"] == [] and content["findings"] == []
    gate = next(phrase for phrase in content["sentence"] if phrase["text"] == "Gate line")
    assert gate["part"].startswith("cause") and gate["name"]
    assert {b["style"] for b in content["plan"]["bars"]} == {"quiet", "alarm"}


def test_every_rule_of_the_demo_and_every_kind_everywhere_can_be_previewed(preview):
    documents = [document for _, site, document in rulebook.RULES if site == GARDENS]
    documents += [
        {
            **DOCUMENT,
            "cause": {"cause": "event", "kind": kind.name, "phase": kind.phases[0], "where": {"everywhere": True}},
        }
        for kind in KINDS
        if kind.name != CLOCK
    ]
    answers = [preview(document) for document in documents]
    assert [a.status_code for a in answers] == [200] * len(documents)
    assert [a.json()["problems"] for a in answers] == [[]] * len(documents)


def test_the_preview_says_what_is_wrong_and_where(preview):
    assert preview({**DOCUMENT, "surprise": 1}).json()["problems"] == [
        {"path": "surprise", "message": "there is no field 'surprise' here"}
    ]
    finding = preview({**DOCUMENT, "response": [{"do": "alarm", "title": "x"}]}).json()["findings"][0]
    assert finding["mend"]["path"] == "response.0.groups"


@pytest.mark.parametrize("content", [None, [], "x", {"document": None}, {"document": {"name": "<script>"}}])
def test_rubbish_is_refused_and_nothing_is_saved(post, content):
    before = Rule.objects.count()
    assert post("", content).status_code in (400, 422)
    assert Rule.objects.count() == before


def test_names_are_never_markup(post, client):
    post(
        "",
        {
            "document": {
                **DOCUMENT,
                "name": "<img src=x onerror=alert(1)>",
                "response": [{"do": "alarm", "title": "<b>x</b>", "groups": [{"id": "operators"}]}],
            }
        },
    )
    page = client.get(f"/s/{GARDENS}/rulebook").content.decode()
    assert "<img src=x" not in page and "<b>x</b>" not in page and "&lt;img src=x" in page


def test_the_editor_opens_on_an_event_just_seen(bench, client):
    bench.cross(point="gate-line")
    bench.run()
    client.force_login(Person.objects.get(username="ines"))
    page = client.get(f"/s/{GARDENS}/rulebook/new?event={EventRow.objects.get().seq}").content.decode()
    assert "Gate line is crossed" in page
    assert client.get(f"/s/{GARDENS}/rulebook/new?event=999999").status_code == 200


def test_a_draft_is_read_out_on_the_last_event_that_it_is_about(bench, as_):
    draft = {
        "name": "Read", "cause": {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": {"points": [{"id": "jetty-line"}]}},
        "response": [{"do": "mail", "subject": "{class|upper} {nothing}", "text": "{point}: {cameras}", "groups": []}],
    }  # fmt: skip
    assert preview_of(as_("ines"), draft)["reads"] == {"event": None, "at": None, "texts": []}
    bench.cross(confidence=10.0)
    bench.run()
    reads = preview_of(as_("ines"), draft)["reads"]
    assert [(x["part"], x["text"]) for x in reads["texts"]] == [
        ("response.0.subject", "HUMAN {nothing}"), ("response.0.text", "Jetty line: Jetty"),
    ]  # fmt: skip
    assert reads["event"] == str(EventRow.objects.get().seq)
