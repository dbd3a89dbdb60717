"""Taught decoders at work: saved, tried on what really came, and read by the engine from the next message on."""

import json
from datetime import UTC, datetime

import pytest

from dromikon.daybook.models import EventRow
from dromikon.intake import inbox
from dromikon.intake.listener import sort_of
from dromikon.setup import changes
from dromikon.setup.registry import SORTS
from dromikon.sources.models import Device, Point, Unclaimed
from dromikon.sources.offers import kinds_of, taught_kinds
from tests.conftest import GARDENS

pytestmark = [pytest.mark.django_db, pytest.mark.timeless]
ALARM = {"till": 3, "alarm": {"what": "WATER", "spot": "by the pumps", "level": "7"}}
DOCUMENT = {
    "name": "Water at the till", "intake": {"id": "kiosk"}, "kind": "input.active", "when": [{"path": "$.till", "value": "3"}],
    "phase_path": "$.alarm.what", "begins": ["WATER"], "ends": ["DRY"], "point_path": "$.alarm.spot",
    "points": [{"said": "by the pumps", "point": {"id": "leak"}}],
}  # fmt: skip


@pytest.fixture
def came(bench):
    """`came(content)`: a message to the kiosk's intake, as it is kept; the engine has read it."""

    def put(content, type="application/json"):
        body = content if isinstance(content, bytes) else json.dumps(content).encode()
        meta = json.dumps({"content_type": type})
        id = bench.put(inbox.Message(bench.engine.clock(), "http", "kiosk", meta, body))
        bench.run()
        return id

    return put


def events():
    return list(EventRow.objects.filter(kind="input.active").order_by("seq").values_list("point", "phase"))


@pytest.mark.parametrize(
    ("type", "envelope"), [("application/cloudevents+json", {}), ("application/json", {"ce-specversion": "1.0"})]
)
def test_a_cloudevent_of_another_shape_is_taught_as_well(as_, bench, type, envelope):
    changes.save(SORTS["decoders"], as_("ines"), None, DOCUMENT)
    bench.run()
    adapter, meta = sort_of("POST", "", {"content-type": type, **envelope})
    bench.put(inbox.Message(bench.engine.clock(), adapter, "kiosk", json.dumps(meta), json.dumps(ALARM).encode()))
    bench.run()
    assert adapter == "cloudevent" and events() == [("leak", "begin")]


def test_from_the_next_message_on_it_is_an_event_at_its_point(came, as_, bench):
    came(ALARM)
    assert "kind: Field required" in Unclaimed.objects.get().reason and events() == []
    saved = changes.save(SORTS["decoders"], as_("ines"), None, DOCUMENT)
    bench.run()
    came(ALARM)
    came({**ALARM, "alarm": {**ALARM["alarm"], "what": "DRY"}})
    assert events() == [("leak", "begin"), ("leak", "end")]
    came({**ALARM, "alarm": {**ALARM["alarm"], "what": "FIRE"}})
    assert Unclaimed.objects.first().reason == "Water at the till: “FIRE” says neither that it begins nor that it ends."
    came({**ALARM, "alarm": {**ALARM["alarm"], "spot": "attic"}})
    assert Unclaimed.objects.first().reason == "Water at the till: The site has no point “attic”."
    came({"kind": "button.pressed", "point": "gate-help", "phase": "pulse"})
    assert EventRow.objects.get(kind="button.pressed").point == "gate-help", "what it does not fit is read as before"
    SORTS["decoders"].retire(as_("ines"), saved.id)
    bench.run()
    came(ALARM)
    assert len(events()) == 2


def test_it_is_tried_on_all_that_came_and_on_what_is_pasted(came, as_, client):
    fits = came(ALARM)
    other = came({"till": 4})
    broken = came(b"<a", "text/xml")
    lost = came({**ALARM, "alarm": {**ALARM["alarm"], "spot": "attic"}})
    client.force_login(as_("ines").person)
    ask = lambda **content: client.post(f"/api/v1/decoders/trial?site={GARDENS}", content, "application/json")
    pasted = "<m><till>3</till><alarm><what>DRY</what><spot>by the pumps</spot></alarm></m>"
    tried = {one["id"]: one for one in ask(document=DOCUMENT, message=pasted).json()}
    assert {id: one["outcome"] for id, one in tried.items()} == {
        0: "read",
        fits: "read",
        other: "other",
        broken: "failed",
        lost: "failed",
    }
    assert [(e["point"], e["name"], e["phase"]) for e in tried[fits]["events"]] == [("leak", "Leak sensor", "begin")]
    assert tried[0]["events"][0]["phase"] == "end" and tried[lost]["why"] == "There is no point “attic” here."
    refused = ask(document={**DOCUMENT, "point_path": "spot"})
    assert refused.status_code == 422 and refused.json()["problems"][0]["path"] == "point_path"
    client.force_login(as_("oskar").person)
    assert ask(document=DOCUMENT).status_code == 403


def test_it_goes_out_as_a_file_and_its_bench_has_it(as_, client):
    saved = changes.save(SORTS["decoders"], as_("ines"), None, DOCUMENT)
    client.force_login(as_("ines").person)
    answer = client.get(f"/api/v1/decoders/{saved.id}/document?site={GARDENS}")
    assert f"decoder-{saved.id}.json" in answer["Content-Disposition"]
    again = changes.save(SORTS["decoders"], as_("ines"), None, {**answer.json(), "name": "Again"})
    kept = {r.id: r.document for r in SORTS["decoders"].rows(as_("ines"))}
    assert kept[again.id].model_dump(exclude={"name"}) == kept[saved.id].model_dump(exclude={"name"})
    page = client.get(f"/s/{GARDENS}/sources/intake/kiosk/teach?decoder={saved.id}").content.decode()
    assert f"/api/v1/decoders/{saved.id}/document" in page and "Begin with" in page


def test_it_is_of_this_site(as_):
    from dromikon.refusals import Refused

    for wrong in ({"intake": {"id": "elsewhere"}}, {"points": [{"said": "x", "point": {"id": "yard-gate"}}]}):
        with pytest.raises(Refused):
            changes.save(SORTS["decoders"], as_("ines"), None, {**DOCUMENT, **wrong})


def test_the_bench_shows_every_value_to_those_who_may_see_it(came, as_, client):
    id = came(ALARM)
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/sources/intake/kiosk/teach?message={id}").content.decode()
    assert '"path": "$.alarm.spot"' in page and f'"opened": {id}' in page
    client.force_login(as_("oskar").person)
    assert client.get(f"/s/{GARDENS}/sources/intake/kiosk/teach").status_code == 403


def test_what_is_alike_stands_together_and_the_oldest_are_too_many_at_last(came, as_, client, bench, monkeypatch):
    for level in range(3):
        came({**ALARM, "alarm": {**ALARM["alarm"], "level": str(level)}})
    came({"other": 1})
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/sources").content.decode()
    assert page.count("data-unclaimed") == 2 and "3 alike" in page
    monkeypatch.setattr("dromikon.engine.upkeep.MOST_UNCLAIMED", 3)
    newest = list(Unclaimed.objects.values_list("inbox", flat=True)[:3])
    bench.engine.tidy()
    assert list(Unclaimed.objects.values_list("inbox", flat=True)) == newest


def test_a_message_means_what_all_say_that_let_others_read_it(came, as_, bench):
    ines = as_("ines")
    changes.save(SORTS["decoders"], ines, None, {**DOCUMENT, "goes_on": True, "order": 1})
    rings = {
        **DOCUMENT,
        "name": "Rings",
        "kind": "button.pressed",
        "phase": "pulse",
        "phase_path": "",
        "begins": [],
        "points": [],
        "point_path": "$.alarm.spot",
    }
    changes.save(
        SORTS["decoders"],
        ines,
        None,
        {**rings, "order": 2, "goes_on": True, "points": [{"said": "by the pumps", "point": {"id": "gate-help"}}]},
    )
    changes.save(SORTS["decoders"], ines, None, {**rings, "name": "Nowhere", "order": 3})
    changes.save(SORTS["decoders"], ines, None, {**rings, "name": "Never asked", "order": 4})
    bench.run()
    came(ALARM)
    assert events() == [("leak", "begin")] and EventRow.objects.get(kind="button.pressed").point == "gate-help"
    assert Unclaimed.objects.get().reason == "Nowhere: The site has no point “by the pumps”."


# -- devices ---------------------------------------------------------------------------------------------------------------

CALL = {
    "name": "Somebody rings", "device": {"id": "cam-jetty"}, "kind": "button.pressed", "point": {"id": "gate-help"},
    "when": [{"path": "$.topic", "value": "mk:Call/State"}, {"path": "$.data.State", "value": "Ringing"}],
}  # fmt: skip


def notification(state, operation="Changed", at="2026-11-26T12:00:00Z"):
    return (
        '<wsnt:NotificationMessage xmlns:wsnt="http://docs.oasis-open.org/wsn/b-2" xmlns:tt="http://www.onvif.org/ver10/schema" '
        'xmlns:mk="urn:a-maker"><wsnt:Topic>mk:Call/State</wsnt:Topic><wsnt:Message>'
        f'<tt:Message UtcTime="{at}" PropertyOperation="{operation}"><tt:Source><tt:SimpleItem Name="Bell" Value="front"/></tt:Source>'
        f'<tt:Data><tt:SimpleItem Name="State" Value="{state}"/></tt:Data></tt:Message></wsnt:Message></wsnt:NotificationMessage>'
    ).encode()


@pytest.fixture
def told(bench):
    """`told(state)`: what the jetty's camera says in a topic of its maker's own; the engine has read it."""

    def put(*said, source="cam-jetty", offset=0):
        meta = json.dumps({"clock_offset_ms": offset})
        id = bench.put(inbox.Message(bench.engine.clock(), "onvif", source, meta, notification(*said)))
        bench.run()
        return id

    return put


def test_a_device_s_own_topic_is_taught_and_other_devices_stay_as_they_are(told, as_, bench):
    told("Ringing")
    assert "No decoder knows the topic mk:Call/State" in Unclaimed.objects.get().reason
    changes.save(SORTS["decoders"], as_("ines"), None, CALL)
    bench.run()
    told("Ringing")
    told("Idle")
    told("Ringing", source="cam-gate")
    (event,) = EventRow.objects.filter(kind="button.pressed")
    assert event.point == "gate-help" and Unclaimed.objects.count() == 3


def test_what_a_device_tells_on_request_starts_nothing_and_its_clock_is_set_right(told, as_, bench):
    changes.save(SORTS["decoders"], as_("ines"), None, CALL)
    bench.run()
    now = bench.engine.clock()
    stamp = datetime.fromtimestamp((now + 60_000 - 700) / 1000, UTC).isoformat()
    told("Ringing", "Initialized")
    told("Ringing", "Changed", stamp, offset=60_000)
    asked, happened = EventRow.objects.filter(kind="button.pressed").order_by("seq")
    assert asked.initial and not happened.initial
    assert 690 <= happened.received_at - happened.occurred_at < 1_500


def test_its_bench_shows_what_the_device_told_and_tries_the_decoder_on_it(told, as_, client):
    rings, idle = told("Ringing"), told("Idle")
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/sources/device/cam-jetty/teach?message={rings}").content.decode()
    assert "$.data.State" in page and "Jetty camera" in page
    tried = client.post(f"/api/v1/decoders/trial?site={GARDENS}", {"document": CALL}, "application/json").json()
    assert {one["id"]: one["outcome"] for one in tried} == {rings: "read", idle: "other"}
    assert f"/sources/device/cam-jetty/teach?message={idle}" in client.get(f"/s/{GARDENS}/sources").content.decode()


@pytest.mark.parametrize(
    ("change", "said"),
    [({"device": None}, "whose messages"), ({"intake": {"id": "kiosk"}}, "whose messages"), ({"device": {"id": "x"}}, "no such device")],
)  # fmt: skip
def test_a_decoder_reads_one_intake_or_one_device(as_, client, change, said):
    client.force_login(as_("ines").person)
    answer = client.post(f"/api/v1/setup/decoders?site={GARDENS}", {"document": {**CALL, **change}}, "application/json")
    assert answer.status_code == 422 and said in answer.content.decode()


def test_rules_are_offered_what_was_taught(as_, bench):
    document = {**CALL, "kind": "call.rung", "point": {"id": "wicket"}}
    Point.objects.filter(pk="wicket").update(device="cam-jetty", token="call")
    Device.objects.filter(pk="cam-jetty").update(catalogue={"events": [{"topic": "mk:Call/State"}]})
    wicket = Point.objects.select_related("device").get(pk="wicket")
    assert [k.name for k in kinds_of(wicket, taught_kinds(GARDENS))] == []
    changes.save(SORTS["decoders"], as_("ines"), None, document)
    assert [k.name for k in kinds_of(wicket, taught_kinds(GARDENS))] == ["call.rung"]
