"""Rules as files over API and page: all of a file or nothing, bound by name, tried before it is done."""

import json

import pytest

from dromikon.authoring.files import export_rules, import_rules
from dromikon.core.rules.exchange import parse
from dromikon.daybook.models import Step
from dromikon.people.tokens import make_token
from dromikon.refusals import Refused
from dromikon.rulebook.models import Revision, Rule
from tests.conftest import GARDENS, NURSERY

pytestmark = [pytest.mark.django_db, pytest.mark.timeless]


@pytest.mark.parametrize("syntax", ["json", "yaml"])
def test_an_export_taken_over_again_changes_nothing(as_, syntax):
    revisions = Revision.objects.count()
    done = import_rules(as_("ines"), export_rules(as_("ines"), syntax).encode())
    assert len(done.same) == Rule.objects.filter(site=GARDENS).count() and not (done.made or done.changed)
    assert Revision.objects.count() == revisions


def file_of(*rules):
    return json.dumps({"format": "dromikon-rulebook/1", "rules": list(rules)}).encode()


def changed(as_, **parts):
    content = parse(export_rules(as_("ines"), "json", [Rule.objects.get(id="jetty-geese")]).encode())
    content["rules"][0]["document"].update(parts)
    return content["rules"][0]


def test_a_known_id_becomes_the_next_revision_and_a_new_one_a_rule(as_):
    new = {**changed(as_, name="Copy"), "id": "copy"}
    done = import_rules(as_("ines"), file_of(changed(as_, purpose="Birds"), new))
    assert (done.made, done.changed) == (["Copy"], ["Geese over the jetty"])
    assert Rule.objects.get(id="jetty-geese").revision == 2 and Rule.objects.get(id="copy").enabled


def test_one_bad_rule_and_nothing_is_taken_over(as_):
    with pytest.raises(Refused) as refused:
        import_rules(
            as_("ines"), file_of(changed(as_, name="Fine"), changed(as_, cause={"cause": "event", "kind": "x"}))
        )
    assert refused.value.problems[0].path.startswith("rules.1.document.cause")
    assert Revision.objects.filter(rule="jetty-geese").count() == 1


def test_a_live_rule_must_stay_sound_also_when_imported(as_):
    bad = changed(as_, response=[])
    with pytest.raises(Refused) as refused:
        import_rules(as_("ines"), file_of(changed(as_, name="First"), bad | {"id": "jetty-closed"}))
    assert refused.value.problems[0].path == "rules.1.document.response"
    assert Rule.objects.get(id="jetty-geese").name == "Geese over the jetty", "the first was undone too"


def test_a_trial_says_what_it_would_do_and_does_nothing(as_):
    done = import_rules(as_("ines"), file_of(changed(as_, purpose="Birds")), trial=True)
    assert done.changed == ["Geese over the jetty"] and Rule.objects.get(id="jetty-geese").revision == 1


def test_at_another_site_rules_get_ids_of_their_own_and_stay_off_until_they_are_bound(as_):
    done = import_rules(
        as_("ines", NURSERY), export_rules(as_("ines"), "yaml", [Rule.objects.get(id="jetty-geese")]).encode()
    )
    made = Rule.objects.get(site=NURSERY, name="Geese over the jetty")
    assert made.id != "jetty-geese" and not made.enabled and done.left_off == ["Geese over the jetty"]
    assert {f.check for f in done.findings["Geese over the jetty"]} >= {"unknown-reference", "no-point"}


@pytest.fixture
def call(as_, client):
    headers = {"Authorization": f"Bearer {make_token(as_('ines').person, 't')[1]}"}

    def send(method, path, body="", **query):
        more = "".join(f"&{k}={v}" for k, v in query.items())
        return client.generic(
            method,
            f"/api/v1/rulebook{path}?site={GARDENS}{more}",
            body,
            content_type="application/json",
            headers=headers,
        )

    return send


def test_files_schema_and_checks_over_the_api(call):
    text = call("GET", "/export", syntax="yaml").content
    assert call("POST", "/import", text).json()["made"] == []
    assert call("POST", "/import", b"rules: [").json()["problems"][0]["path"].startswith("line")
    assert call("GET", "/export", rule="nothing").status_code == 404
    assert call("GET", "/schema").json()["title"] == "dromikon-rule/1"
    found = {r["rule"]: [f["check"] for f in r["findings"]] for r in call("GET", "/checks").json()}
    assert found["vault-forced"] == ["not-tested"]


def test_a_file_that_is_too_large_is_refused_in_words(call):
    assert "larger than 4 MB" in call("POST", "/import", b" " * 5_000_000).json()["problems"][0]["message"]
    answer = call("POST", "/import", b" " * 6_000_000)
    assert answer.status_code == 413 and "larger" in answer.json()["error"]


def test_a_starting_rule_is_bound_and_nothing_is_saved(call):
    offered = {s["id"]: s for s in call("GET", "/starting").json()}
    suggested = offered["door-forced"]["suggested"]
    assert len(offered) == 20 and suggested["doors"][0] == {"id": "open", "name": "which doors"}
    count = Rule.objects.count()
    bindings = {**suggested, "doors": [{"id": "vault-door", "name": "Vault door"}]}
    bound = call("POST", "/starting/door-forced", json.dumps({"bindings": bindings}))
    assert bound.json()["sentence"].startswith("When Vault door is forced") and Rule.objects.count() == count
    open_ = call("POST", "/starting/door-forced", json.dumps({"bindings": {}}))
    assert open_.status_code == 422 and {p["path"] for p in open_.json()["problems"]} == {"places.doors", "places.who"}


def test_a_trial_call_goes_to_the_outbox(call):
    place = next(
        i for i, s in enumerate(Rule.objects.get(id="vault-forced").document["response"]) if s["do"] == "webhook"
    )
    run = call("POST", f"/rules/vault-forced/steps/{place}/trial").json()["run"]
    step = Step.objects.get(run=run)
    assert (step.action, step.status, step.target) == ("webhook", "due", "host:127.0.0.1")
    assert call("POST", "/rules/vault-forced/steps/0/trial").status_code == 422


def test_a_session_takes_a_file_over_and_is_refused_with_places(as_, client):
    client.force_login(as_("ines").person)
    at = f"/api/v1/rulebook/import?site={GARDENS}"
    file = f"/api/v1/rulebook/export?site={GARDENS}"
    text = client.get(f"{file}&syntax=yaml").content
    assert client.post(f"{at}&trial=true", text, content_type="application/octet-stream").json()["changed"] == []
    bad = client.post(at, b"{", content_type="application/octet-stream")
    assert bad.status_code == 422 and bad.json()["problems"][0]["path"] == "line 1"
    large = client.post(at, b"x" * 4_100_000, content_type="application/octet-stream")
    assert large.status_code == 422 and "larger" in large.json()["problems"][0]["message"]
    client.force_login(as_("vera").person)
    assert client.get(file).status_code == 403


def test_the_editor_begins_with_a_starting_rule(as_, client):
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/rulebook/new").content.decode()
    assert "?from=freezer-warm" in page
    assert "Freezer temperature" in client.get(f"/s/{GARDENS}/rulebook/new?from=freezer-warm").content.decode()
