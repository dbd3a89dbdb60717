"""Drafts of rules that are on, revisions, several rules at once, how a rule is begun, and what it is measured by."""

import io
import json
import zipfile
from csv import reader

import pytest
from django.core.exceptions import PermissionDenied

from dromikon.authoring.beginnings import begin, what_can_happen
from dromikon.authoring.examples import MOST, mark
from dromikon.authoring.explaining import explain_event
from dromikon.authoring.files import import_rules
from dromikon.authoring.listing import matrix_of, rules_of
from dromikon.authoring.rehearsal import rehearse_draft, report_json
from dromikon.authoring.revisions import revisions_of
from dromikon.authoring.seen import values_seen
from dromikon.authoring.services import drop_draft, put_live, save, switch
from dromikon.authoring.several import do_to_several
from dromikon.authoring.sheets import WIDTHS, table_of
from dromikon.authoring.tables import csv_of, xlsx_of
from dromikon.authoring.trace import lately_of
from dromikon.daybook.models import EventRow, RunRow, VerdictRow
from dromikon.facts import facts_of
from dromikon.people.models import AuditEntry
from dromikon.refusals import Overtaken, Refused
from dromikon.rulebook.models import Example, Rule
from tests.conftest import GARDENS

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]
G = f"/api/v1/rules/{{}}?site={GARDENS}"


@pytest.fixture
def rule(garden):
    return Rule.objects.get(id="jetty-closed")


def with_confidence(document, value):
    one, two, three = document["provided"]["of"]
    return {**document, "provided": {"test": "all", "of": [one, {**two, "value": value}, three]}}


# -- drafts ----------------------------------------------------------------------------------------------------------------


def test_a_draft_leaves_the_live_rule_as_it_is_until_it_is_put_live(bench, as_, rule):
    ines = as_("ines")
    strict = with_confidence(rule.document, 95)
    drafted = save(ines, {**strict, "name": "Stricter"}, rule, 1, live=False)
    assert (drafted.revision, drafted.draft, drafted.name) == (1, 2, "Somebody on the closed jetty")
    bench.run()
    bench.cross()
    bench.run()
    assert RunRow.objects.get(rule=rule.id).revision == 1
    with pytest.raises(Overtaken, match="revision 2"):
        save(as_("ada"), strict, rule, 1, live=False)
    live = put_live(ines, drafted)
    assert (live.revision, live.draft, live.name) == (2, None, "Stricter")
    bench.run()
    bench.cross()
    bench.run()
    assert VerdictRow.objects.filter(rule=rule.id).latest("id").outcome == "not_provided"
    with pytest.raises(Refused, match="no draft"):
        put_live(ines, live)
    assert [e.verb for e in AuditEntry.objects.filter(subject=f"rule:{rule.id}")][-2:] == ["drafted change", "put live"]


def test_a_draft_with_an_error_is_kept_but_not_put_live_and_its_number_is_not_used_again(as_, rule):
    broken = {**rule.document, "response": [{"do": "alarm", "title": "x"}]}
    drafted = save(as_("ines"), broken, rule, live=False)
    with pytest.raises(Refused, match="Nobody receives"):
        put_live(as_("ines"), drafted)
    dropped = drop_draft(as_("ines"), drafted)
    assert (dropped.revision, dropped.draft) == (1, None)
    again = save(as_("ines"), with_confidence(rule.document, 60), dropped, live=False)
    assert again.draft == 3 and rule.revisions.count() == 3
    with pytest.raises(PermissionDenied):
        put_live(as_("oskar"), again)


def test_a_rule_that_is_off_has_no_drafts(as_, rule):
    off = switch(as_("ines"), rule, False)
    saved = save(as_("ines"), with_confidence(off.document, 60), off, live=False)
    assert (saved.revision, saved.draft) == (2, None)


def test_revisions_say_what_changed_and_which_counts(as_, rule):
    save(as_("ines"), with_confidence(rule.document, 70), rule)
    save(as_("ines"), with_confidence(rule.document, 80), Rule.objects.get(pk=rule.pk), live=False)
    newest, live, first = revisions_of(Rule.objects.get(pk=rule.pk), facts_of(rule.site))
    assert (newest.draft, live.live, first.changes) == (True, True, [])
    assert "at least 70 %" in newest.changes[0].before and "at least 80 %" in newest.changes[0].after
    assert "at least 55 %" in live.changes[0].before


def test_the_api_drafts_puts_live_and_tells_the_document_as_text(client, as_, rule):
    client.force_login(as_("ines").person)

    def call(method, path, content=None):
        data = json.dumps(content) if content is not None else ""
        return getattr(client, method)(G.format(path), data, content_type="application/json")

    changed = with_confidence(rule.document, 90)
    kept = call("put", rule.id, {"document": changed, "revision": 1, "live": False}).json()
    assert (kept["revision"], kept["draft"]) == (1, 2)
    preview = call("post", "preview", {"document": changed, "rule": rule.id}).json()
    assert [c["part"] for c in preview["changes"]] == ["provided"] and preview["words"][
        "cause"
    ] == "Jetty line is crossed"
    assert [a["anchor"] for a in preview["plan"]["axes"]] == ["start"]
    assert call("post", f"{rule.id}/live").json()["revision"] == 2
    assert call("get", f"{rule.id}/revisions/1").json()["document"]["provided"]["of"][1]["value"] == 55
    assert call("get", f"{rule.id}/revisions/9").status_code == 404
    text = call("post", "text", {"document": changed}).json()["text"]
    assert call("post", "read", {"text": text}).json() == {"document": changed, "problems": []}
    [wrong, *_] = call("post", "read", {"text": text.replace("op: is\n", "op: like\n", 1)}).json()["problems"]
    assert text.splitlines()[wrong["line"] - 1].strip() in ("- test: field", "op: is", "value: human"), wrong


# -- what it is measured by ------------------------------------------------------------------------------------------------


def test_marked_events_measure_every_later_draft(bench, as_, rule):
    for confidence, way in ((90.0, "in"), (60.0, "in"), (90.0, "out")):
        bench.cross(confidence=confidence, direction=way)
        bench.run()
    fired, held, out = list(EventRow.objects.filter(kind="scene.line_crossed").order_by("seq"))
    ines = as_("ines")
    for event, fires in ((fired, True), (out, True), (held, False)):
        mark(ines, rule, event.seq, fires)
    report = report_json(rehearse_draft(ines, rule.document, rule))
    assert {e["event"]: (e["fires"], e["held"]) for e in report["examples"]} == {
        str(fired.seq): (True, True), str(out.seq): (True, False), str(held.seq): (False, True),
    }  # fmt: skip
    assert {a["event"]: a["outcome"] for a in report["away"]} == {
        str(held.seq): "held off", str(out.seq): "conditions not met"
    }  # fmt: skip
    strict = report_json(rehearse_draft(ines, with_confidence(rule.document, 95), rule))
    assert [e["held"] for e in strict["examples"] if e["event"] == str(fired.seq)] == [False]
    EventRow.objects.filter(seq=out.seq).delete()
    gone = report_json(rehearse_draft(ines, rule.document, rule))
    assert [e["held"] for e in gone["examples"] if e["event"] == str(out.seq)] == [None], "nothing can be said of it"
    mark(ines, rule, fired.seq, None)
    assert Example.objects.count() == 2
    with pytest.raises(Refused, match="no such event"):
        mark(ines, rule, 10**9, True)
    with pytest.raises(PermissionDenied):
        mark(as_("opal"), rule, fired.seq, True)
    Example.objects.bulk_create(
        Example(rule=rule, event=-n, zero=n, fires=True, at=n) for n in range(1, MOST - 1)
    )  # fmt: skip
    with pytest.raises(Refused, match=f"at most {MOST}"):
        mark(ines, rule, fired.seq, True)


def test_a_draft_explains_what_it_makes_of_one_event(bench, as_, rule):
    bench.cross(direction="out")
    bench.cross()
    bench.cross()
    bench.run()
    out, first, again = list(EventRow.objects.filter(kind="scene.line_crossed").order_by("seq"))
    ines = as_("ines")
    told = explain_event(ines, rule.document, out.seq, rule.id)
    assert told["outcome"] == "not_provided" and [x["label"] for x in told["lines"] if x["held"] is False] == [
        "direction"
    ]
    assert explain_event(ines, rule.document, first.seq, rule.id)["outcome"] == "fired"
    assert explain_event(ines, rule.document, again.seq)["outcome"] == "held_off", "what came before counts"
    other = {**rule.document, "cause": {**rule.document["cause"], "where": {"points": [{"id": "gate-line"}]}}}
    assert explain_event(ines, other, first.seq)["outcome"] == ""


def test_the_rules_page_hears_what_it_made_of_the_latest_events(bench, as_, rule, client):
    bench.cross(direction="out")
    bench.cross()
    bench.run()
    fired, away = lately_of(rule, facts_of(rule.site))
    assert (fired.outcome, fired.point, fired.steps > 0) == ("fired", "Jetty line", True)
    assert (away.outcome, away.why) == ("not_provided", "direction: out, is in")
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/rulebook/{rule.id}/lately").content.decode()
    assert f'data-event="{fired.event}"' in page and "direction: out" in page


# -- all of them -----------------------------------------------------------------------------------------------------------


def test_rules_are_listed_by_purpose_area_and_kind_and_those_taken_out_apart(bench, as_, rule):
    bench.cross()
    bench.run()
    ines = as_("ines")
    by_area = {line.rule.id: line for line in rules_of(ines, "area", 0, 100).lines}
    assert by_area["jetty-closed"].group == "Boathouse and Lake"
    assert (by_area["jetty-closed"].total, by_area["jetty-closed"].average) == (1, pytest.approx(1 / 7))
    assert by_area["jetty-closed"].last and by_area["jetty-geese"].last is None
    assert {line.group for line in rules_of(ines, "kind", 0, 100).lines if line.rule.id == "jetty-closed"} == {
        "Line crossed"
    }
    first = rules_of(ines, "purpose", 0, 1)
    assert first.following == 1 and first.count == len(by_area)
    assert [line.group for line in rules_of(ines, "purpose", 0, 100).lines] == sorted(
        (line.group for line in rules_of(ines, "purpose", 0, 100).lines), key=str.casefold
    )
    do_to_several(ines, ["jetty-geese"], "retire")
    assert [line.rule.id for line in rules_of(ines, "purpose", 0, 100, retired=True).lines] == ["jetty-geese"]


def test_several_rules_are_switched_tagged_and_taken_out_and_what_is_refused_is_said(bench, as_, rule):
    ines = as_("ines")
    broken = save(ines, {**rule.document, "name": "Broken", "response": [{"do": "alarm", "title": "x"}]})
    done = do_to_several(ines, [broken.id, "jetty-geese", "nowhere"], "on")
    assert (
        done.done == ["jetty-geese"]
        and "Nobody receives" in done.refused[broken.id]
        and "no such" in done.refused["nowhere"]
    )
    assert not do_to_several(ines, ["jetty-closed", "jetty-geese"], "tag", "winter").refused
    assert not do_to_several(ines, ["jetty-geese"], "untag", "winter").refused
    tags = {r.id: r.document.get("tags", []) for r in Rule.objects.filter(id__startswith="jetty-")}
    assert tags["jetty-closed"] == ["winter"] and tags["jetty-geese"] == []
    revisions = Rule.objects.get(id="jetty-geese").revision
    do_to_several(ines, ["jetty-geese"], "untag", "winter")
    assert Rule.objects.get(id="jetty-geese").revision == revisions, "nothing to change, no revision"
    save(ines, with_confidence(rule.document, 60), Rule.objects.get(pk=rule.pk), live=False)
    assert "has a draft" in do_to_several(ines, [rule.id], "tag", "summer").refused[rule.id]
    assert Rule.objects.get(pk=rule.pk).draft, "nobody's draft is lost by a tag"
    do_to_several(ines, ["jetty-geese"], "retire")
    assert do_to_several(ines, ["jetty-geese"], "restore").done == ["jetty-geese"]
    assert not Rule.objects.get(id="jetty-geese").deleted
    with pytest.raises(PermissionDenied):
        do_to_several(as_("opal"), ["jetty-geese"], "off")


def test_the_matrix_is_a_table_without_formulas(as_, rule, client):
    save(as_("ines"), {**rule.document, "name": "=1+1"})
    made = matrix_of(as_("ines"))
    rows = list(reader(io.StringIO(csv_of(table_of(made)))))
    assert rows[0][:3] == ["Rule", "On", "Cause"] and len(rows) == len(made.rows) + 1
    assert "'=1+1" in [row[0] for row in rows]
    [jetty] = [row for row in rows if row[0] == "Somebody on the closed jetty"]
    assert jetty[rows[0].index("Alarm")] == "high" and jetty[rows[0].index("Bookmark")] == "×"
    book = zipfile.ZipFile(io.BytesIO(xlsx_of(table_of(made), "Matrix", WIDTHS)))
    strings = book.read("xl/sharedStrings.xml").decode()
    assert "Somebody on the closed jetty" in strings and "<f>" not in book.read("xl/worksheets/sheet1.xml").decode()
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/rulebook/matrix").content.decode()
    assert "Somebody on the closed jetty" in page and page.count("data-row") == len(made.rows)
    assert client.get(f"/api/v1/rulebook/matrix?site={GARDENS}&form=xlsx")["Content-Disposition"].endswith('.xlsx"')


# -- beginnings ------------------------------------------------------------------------------------------------------------


def test_a_rule_begins_from_a_point_a_device_or_another_rule(as_, rule):
    ines, facts = as_("ines"), facts_of(rule.site)
    forced = begin(ines, facts, {"point": "vault-door", "kind": "door.forced"})
    assert (
        forced.document["cause"]["where"]["points"][0]["id"] == "vault-door"
        and forced.asks[0]["label"] == "who sees it"
    )
    begin_nowhere = begin(ines, facts, {"point": "nowhere", "kind": "door.forced"})
    assert begin_nowhere.document["response"] == [] and not begin_nowhere.asks
    copied = begin(ines, facts, {"copy": rule.id}).document
    assert copied["name"] == "Somebody on the closed jetty (copy)" and copied["cause"] == rule.document["cause"]
    doors = begin(ines, facts, {"from": "door-forced", "device": "door-controller"})
    named = {p["id"] for p in doors.document["cause"]["where"]["points"]}
    assert named == {p.id for p in facts.points if p.kind == "door" and p.device == "door-controller"}
    assert [a["label"] for a in doors.asks] == ["who sees it"], "which doors is answered by the device"
    assert begin(ines, facts, {"from": "no such"}).document["response"] == []


def test_what_can_happen_at_a_point_is_what_it_sends_what_came_lately_first(bench, as_, client):
    bench.cross()
    bench.run()
    point, sends = what_can_happen(as_("ines"), "jetty-line")
    assert sends[0].kind.name == "scene.line_crossed" and sends[0].count == 1 and "jetty-closed" in sends[0].rules
    assert what_can_happen(as_("ines"), "nowhere") is None
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/rulebook/new?point=jetty-line").content.decode()
    assert "What can happen at Jetty line?" in page and "kind=scene.line_crossed" in page


def test_a_proposal_for_a_device_is_turned_down_and_offered_again(as_, client):
    client.force_login(as_("ines").person)
    place = f"/api/v1/devices/door-controller/proposals/door-forced?site={GARDENS}"

    def turn(declined):
        return client.put(place, json.dumps({"declined": declined}), content_type="application/json").status_code

    def page():
        return client.get(f"/s/{GARDENS}/sources/device/door-controller").content.decode()

    assert "from=door-forced" in page()
    assert turn(True) == 204 and "from=door-forced" not in page() and "Offer it again" in page()
    assert turn(False) == 204 and "from=door-forced" in page()
    wrong = place.replace("door-forced", "nothing")
    assert client.put(wrong, '{"declined": true}', content_type="application/json").status_code == 422


def test_what_a_file_names_and_the_site_has_not_is_bound_on_the_way_in(as_, client, garden):
    cause = {
        "cause": "event",
        "kind": "door.forced",
        "phase": "pulse",
        "where": {"points": [{"id": "bay", "name": "Bay door"}]},
    }
    alarm = {"do": "alarm", "title": "x", "groups": [{"id": "guards", "name": "Night guards"}]}
    content = {"name": "From elsewhere", "cause": cause, "response": [alarm]}
    tried = import_rules(as_("ines"), json.dumps(content).encode(), trial=True)
    assert [(m.what, m.id, m.rules) for m in tried.missing] == [
        ("point", "bay", ["From elsewhere"]), ("group", "guards", ["From elsewhere"])
    ]  # fmt: skip
    assert ("vault-door", "Vault door") in tried.missing[0].options
    client.force_login(as_("ines").person)
    asked = f"/api/v1/rulebook/import?site={GARDENS}&bind=point:bay=vault-door&bind=group:guards=duty"
    done = client.post(asked, json.dumps(content), content_type="application/json").json()
    assert done["missing"] == [] and done["made"] == ["From elsewhere"]
    made = Rule.objects.get(name="From elsewhere").document
    assert made["cause"]["where"]["points"] == [{"id": "vault-door", "name": "Vault door"}]
    assert made["response"][0]["groups"][0]["id"] == "duty"
    bad = client.post(asked.replace("=vault-door", ""), json.dumps(content), content_type="application/json")
    assert bad.status_code == 422 and "what:id=id here" in bad.content.decode()


def test_values_that_were_seen_lately_are_offered_but_nothing_personal(bench, as_):
    for way in ("in", "in", "out"):
        bench.cross(direction=way)
    bench.http(
        kind="vehicle.plate_read", point="plate-reader", phase="pulse", fields={"plate": "QG12 ABC", "confidence": 90.0}
    )
    bench.run()
    assert values_seen(as_("ines"), "scene.line_crossed")["direction"] == ["in", "out"]
    assert values_seen(as_("ines"), "no.such.kind") == {}
    with pytest.raises(PermissionDenied):
        values_seen(as_("opal"), "scene.line_crossed")


def test_the_form_of_a_sort_of_thing_is_told_to_whoever_may_make_one(client, as_):
    client.force_login(as_("ines").person)
    told = client.get(f"/api/v1/setup/hours/form?site={GARDENS}").json()
    assert told["form"]["root"] == "HoursForm" and told["label"] == "Add hours"
    client.force_login(as_("opal").person)
    assert client.get(f"/api/v1/setup/hours/form?site={GARDENS}").status_code == 403
