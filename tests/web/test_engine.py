"""The engine: exactly once, in one transaction, and never stopped by what it is given."""

import json

import pytest
from django.db import OperationalError, transaction

from dromikon.archive.models import Bookmark
from dromikon.authoring.services import delete, save, switch
from dromikon.clock import now_ms
from dromikon.core.alarms.states import AlarmState
from dromikon.core.devices.catalogue import topics_of
from dromikon.daybook import storage
from dromikon.daybook.models import (
    ActRow,
    EnginePosition,
    EvaluatorRow,
    EventRow,
    Feed,
    Journal,
    RunRow,
    Step,
    VerdictRow,
)
from dromikon.daybook.services import record_act
from dromikon.desk.models import Alarm, Evidence, Showing
from dromikon.desk.services import answer
from dromikon.engine.engine import Engine, Superseded
from dromikon.intake import inbox
from dromikon.rulebook.models import Rule
from dromikon.sources.models import Device, Point, Unclaimed
from tests.conftest import GARDENS

pytestmark = pytest.mark.django_db


def session(device, state, reason="timeout", at=None):
    body = {"state": state, "reason": reason, "message": "m", "clock_offset_ms": 0}
    return inbox.Message(at or now_ms(), "session", device, "{}", json.dumps(body).encode())


def digital(on, operation="Changed", at=None, device_at=""):
    xml = (
        '<wsnt:NotificationMessage xmlns:wsnt="http://docs.oasis-open.org/wsn/b-2" xmlns:tt="http://www.onvif.org/ver10/schema" xmlns:tns1="http://www.onvif.org/ver10/topics">'
        f'<wsnt:Topic>tns1:Device/Trigger/DigitalInput</wsnt:Topic><wsnt:Message><tt:Message UtcTime="{device_at}" PropertyOperation="{operation}">'
        f'<tt:Source><tt:SimpleItem Name="InputToken" Value="gate-contact"/></tt:Source><tt:Data><tt:SimpleItem Name="LogicalState" Value="{str(on).lower()}"/></tt:Data>'
        "</tt:Message></wsnt:Message></wsnt:NotificationMessage>"
    )
    return inbox.Message(at or now_ms(), "onvif", "cam-yard", '{"clock_offset_ms": 3400}', xml.encode())


def test_one_crossing_becomes_event_verdict_run_alarm_bookmark_popup_and_evidence(bench):
    bench.cross()
    bench.run()
    event = EventRow.objects.get()
    run = RunRow.objects.get(rule="jetty-closed")
    assert run.event == event.seq and run.rule_name == "Somebody on the closed jetty"
    alarm, bookmark = Alarm.objects.get(), Bookmark.objects.get()
    assert (alarm.state, alarm.priority, alarm.title, alarm.cameras) == (
        "unacknowledged",
        "high",
        "Somebody on the jetty",
        ["jetty"],
    )
    assert (bookmark.zero - bookmark.start, bookmark.end - bookmark.zero, bookmark.tags) == (10_000, 25_000, ["jetty"])
    assert Showing.objects.get().camera == "jetty"
    assert Evidence.objects.count() == Step.objects.filter(action="evidence", status="due").count() == 6
    outcomes = dict(VerdictRow.objects.filter(event=event.seq).values_list("rule", "outcome"))
    assert outcomes["jetty-closed"] == "fired" and outcomes["jetty-geese"] == "not_provided"
    assert {f.topic for f in Feed.objects.all()} >= {"event", "run", "alarm", "bookmark", "showing"}


def test_a_second_crossing_within_the_hold_off_is_told_as_such(bench):
    bench.cross()
    bench.cross()
    bench.run()
    assert list(VerdictRow.objects.filter(rule="jetty-closed").order_by("id").values_list("outcome", flat=True)) == [
        "fired",
        "held_off",
    ]
    assert Alarm.objects.count() == 1


def test_the_journal_is_one_order_whose_time_never_runs_back(bench):
    now = now_ms()
    for at in (now, now - 50_000, now + 10, now - 100_000):
        bench.cross(at=at)
    bench.run()
    rows = list(Journal.objects.order_by("seq").values_list("seq", "at"))
    assert [s for s, _ in rows] == list(range(1, len(rows) + 1))
    assert [a for _, a in rows] == sorted(a for _, a in rows)
    assert EventRow.objects.order_by("seq").last().occurred_at == now - 100_000, "what happened keeps its own time"


def test_device_time_is_corrected_by_the_measured_offset(bench):
    now = now_ms()
    device_at = "2026-01-01T00:00:00Z"
    bench.put(digital(True, at=now, device_at=device_at))
    from dromikon.core.instants import iso

    bench.put(digital(False, at=now, device_at=iso(now + 3_400 - 120)))
    bench.run()
    wild, right = EventRow.objects.order_by("seq")
    assert wild.occurred_at == now and wild.device_at is not None, "a clock that is a year off is not believed"
    assert right.occurred_at == now - 120


def test_what_nobody_understands_is_kept_with_the_reason(bench):
    bench.put(inbox.Message(now_ms(), "http", "garden-gateway", "{}", b"not json"))
    bench.put(
        inbox.Message(
            now_ms(), "http", "garden-gateway", "{}", b'{"kind": "input.active", "point": "\\ud800", "phase": "begin"}'
        )
    )
    bench.put(inbox.Message(now_ms(), "onvif", "cam-yard", "{}", b"<broken"))
    bench.cross(point="no-such-point")
    bench.cross(confidence=float("nan"))
    bench.put(inbox.Message(now_ms(), "http", "gone", "{}", b"{}"))
    bench.cross()
    bench.run()
    reasons = list(Unclaimed.objects.order_by("inbox").values_list("reason", flat=True))
    assert len(reasons) == 5 and "not JSON" in reasons[0] and "no point" in reasons[3]
    assert EventRow.objects.count() == 1, "and the engine goes on"


def test_a_point_of_another_site_is_not_reached(bench):
    bench.cross(point="yard-gate-line")
    bench.run()
    assert not EventRow.objects.exists() and Unclaimed.objects.count() == 1


def test_a_first_told_state_is_initial_a_changed_one_late_a_known_one_nothing(bench):
    bench.put(
        digital(False, "Initialized"),
        digital(False, "Initialized"),
        digital(True, "Initialized"),
        digital(True, "Initialized"),
    )
    bench.run()
    assert list(EventRow.objects.order_by("seq").values_list("phase", "initial", "late")) == [
        ("end", True, False),
        ("begin", False, True),
    ]


def test_a_lost_device_shows_in_its_health_and_as_an_event(bench):
    bench.put(session("cam-gate", "online", ""), session("cam-gate", "lost"), session("cam-gate", "lost", "refused"))
    bench.run()
    device = Device.objects.get(id="cam-gate")
    assert (device.state, device.reason) == ("lost", "refused")
    events = EventRow.objects.filter(kind="device.lost").order_by("seq")
    assert list(events.values_list("phase", "initial")) == [("end", True), ("begin", False)]


def test_a_camera_lost_for_twenty_seconds_raises_an_alarm_that_returns_with_it(bench):
    now = now_ms()
    bench.put(session("cam-gate", "online", "", now - 90_000), session("cam-gate", "lost", at=now - 60_000))
    bench.run()
    alarm = Alarm.objects.get(rule="camera-lost")
    assert (alarm.state, alarm.lasting, alarm.raised_at) == ("unacknowledged", True, now - 40_000)
    bench.put(session("cam-gate", "online", ""))
    bench.run()
    alarm.refresh_from_db()
    assert alarm.state == "returned" and alarm.ended_at
    assert RunRow.objects.get(rule="camera-lost").ended_at == alarm.ended_at


def test_an_answered_alarm_whose_state_goes_on_closes_only_when_it_ends(bench, as_):
    now = now_ms()
    bench.put(session("cam-gate", "online", "", now - 90_000), session("cam-gate", "lost", at=now - 60_000))
    bench.run()
    assert answer(as_("oskar"), Alarm.objects.get().pk, "going there").state == AlarmState.ACKNOWLEDGED
    bench.put(session("cam-gate", "online", ""))
    bench.run()
    assert Alarm.objects.get().state == AlarmState.CLOSED


def test_catalogues_bring_names_topics_and_waiting_times(bench):
    content = {
        "information": {"model": "M"},
        "events": [{"topic": "tns1:A/B", "state": False, "source": {}, "data": {}}],
        "detectors": [{"name": "Loading bay", "type": "t", "parameters": {}, "waits": 25.0, "channel": "vsc0"}],
    }
    bench.put(inbox.Message(now_ms(), "catalogue", "cam-yard", "{}", json.dumps(content).encode()))
    bench.run()
    device = Device.objects.get(id="cam-yard")
    assert device.information == {"model": "M"} and topics_of(device.catalogue) == ["tns1:A/B"]
    waits = {p.id: p.waits for p in bench.engine.sites["quillmere-nursery"].facts.points}
    assert waits["loading-bay"] == 25.0, "and rules know it at once"


def test_a_restart_goes_on_where_it_was(bench):
    bench.cross()
    bench.run()
    again = Engine()
    again.load()
    assert (again.seq, again.inbox_position, again.act_position) == (
        bench.engine.seq,
        bench.engine.inbox_position,
        bench.engine.act_position,
    )
    bench.engine = again
    bench.cross()
    bench.run()
    assert VerdictRow.objects.filter(rule="jetty-closed").order_by("id").last().outcome == "held_off", (
        "the hold-off survived"
    )
    assert EvaluatorRow.objects.filter(rule="jetty-closed", key="hold|jetty-line").exists()


def test_a_failed_transaction_leaves_nothing_and_is_done_again(bench, monkeypatch):
    bench.cross()

    def full(*args, **kwargs):
        raise OperationalError("database or disk is full")

    with monkeypatch.context() as m:
        m.setattr(storage.FEED, "insert", full)
        for _ in range(3):
            with pytest.raises(OperationalError):
                bench.engine.turn()
    assert not EventRow.objects.exists() and not Alarm.objects.exists()
    bench.run()
    assert EventRow.objects.count() == Alarm.objects.count() == 1


def test_a_second_engine_is_noticed_and_writes_nothing(bench):
    other = Engine()
    other.load()
    bench.cross()
    bench.run()
    bench.cross()
    with pytest.raises(Superseded), transaction.atomic():
        other.turn()
    assert EventRow.objects.count() == 1


def test_a_message_that_breaks_us_is_set_aside_and_the_rest_goes_on(bench, monkeypatch):
    from dromikon.engine import engine as module

    real = module.ingest

    def fragile(stored, directory):
        if b"poison" in stored.message.body:
            raise RuntimeError("a fault of ours")
        return real(stored, directory)

    monkeypatch.setattr(module, "ingest", fragile)
    for i in range(6):
        bench.cross(at=now_ms() + i) if i != 3 else bench.put(
            inbox.Message(now_ms(), "http", "garden-gateway", "{}", b"poison")
        )
    for _ in range(40):
        bench.engine.turn()
    assert EventRow.objects.count() == 5
    assert "could not be worked off" in Unclaimed.objects.get().reason


def test_a_rule_switched_off_releases_what_it_holds_and_says_so(bench, as_):
    document = {
        "name": "Light",
        "cause": {
            "cause": "event",
            "kind": "scene.line_crossed",
            "phase": "pulse",
            "where": {"points": [{"id": "jetty-line"}]},
        },
        "response": [
            {"do": "relay", "target": {"point": {"id": "storm-light"}}, "held": 600},
            {"do": "bookmark", "after": 300},
        ],
    }
    rule = switch(as_("ines"), save(as_("ines"), document), True)
    bench.run()
    bench.cross()
    bench.run()
    assert Step.objects.filter(action="relay", release=False).count() == 1
    switch(as_("ines"), rule, False)
    bench.run()
    release = Step.objects.get(action="relay", release=True)
    assert release.delivery == "release" and release.expires is None
    bench.cross()
    bench.run()
    assert RunRow.objects.filter(rule=rule.id).count() == 1


def test_a_new_revision_decides_from_the_next_event_and_traces_keep_theirs(bench, as_):
    bench.cross(class_="x")
    bench.run()
    rule = Rule.objects.get(id="jetty-closed")
    document = {
        **rule.document,
        "name": "Only vehicles",
        "provided": {"test": "field", "field": "class", "op": "is", "value": "vehicle"},
    }
    save(as_("ines"), document, rule)
    bench.run()
    bench.cross()
    bench.run()
    rows = VerdictRow.objects.filter(rule="jetty-closed").order_by("id").values_list("revision", "outcome")
    assert list(rows) == [(1, "fired"), (2, "not_provided")]
    delete(as_("ines"), Rule.objects.get(id="jetty-closed"))
    bench.run()
    bench.cross()
    bench.run()
    assert VerdictRow.objects.filter(rule="jetty-closed").count() == 2


def test_a_pressed_button_is_an_event_with_who_pressed_it(bench, as_):
    from dromikon.desk.buttons import press

    press(as_("opal"), "gate-help")
    bench.run()
    assert EventRow.objects.get(kind="button.pressed").fields == {"person": "Opal Reywood"}
    assert Alarm.objects.get().priority == "critical"


def test_acts_and_positions_move_together(bench, as_):
    bench.cross()
    bench.run()
    answer(as_("oskar"), Alarm.objects.get().pk, "seen")
    bench.run()
    position = EnginePosition.objects.get()
    assert position.act == ActRow.objects.order_by("-id").first().pk
    assert (
        Journal.objects.filter(type="act", site=GARDENS).get().body["run"]
        == RunRow.objects.get(rule="jetty-closed").ref
    )


def test_tidying_deletes_what_pages_have_long_heard(bench):
    bench.cross()
    bench.run()
    Feed.objects.update(at=now_ms() - 8 * 86_400_000)
    bench.engine.tidy()
    assert not Feed.objects.exists()


def access(topic, source, **data):
    items = lambda part: "".join(f'<tt:SimpleItem Name="{n}" Value="{v}"/>' for n, v in part.items())
    xml = (
        '<wsnt:NotificationMessage xmlns:wsnt="http://docs.oasis-open.org/wsn/b-2" xmlns:tt="http://www.onvif.org/ver10/schema" '
        f'xmlns:tns1="http://www.onvif.org/ver10/topics"><wsnt:Topic>{topic}</wsnt:Topic><wsnt:Message><tt:Message UtcTime="">'
        f"<tt:Source>{items(source)}</tt:Source><tt:Data>{items(data)}</tt:Data></tt:Message></wsnt:Message></wsnt:NotificationMessage>"
    )
    return inbox.Message(now_ms(), "onvif", "door-controller", "{}", xml.encode())


def test_an_access_point_is_known_by_the_door_that_it_leads_to(bench):
    doors = [{"token": "vault", "name": "Vault door", "can": [], "access": ["reader-7"]}]
    bench.put(inbox.Message(now_ms(), "catalogue", "door-controller", "{}", json.dumps({"doors": doors}).encode()))
    bench.run()
    granted = {"CredentialToken": "Q-1041", "CredentialHolderName": "Agnes Marlowe"}
    bench.put(access("tns1:AccessControl/AccessGranted/Credential", {"AccessPointToken": "reader-7"}, **granted))
    bench.put(access("tns1:AccessControl/AccessGranted/Credential", {"AccessPointToken": "reader-9"}, **granted))
    bench.run()
    event = EventRow.objects.get(kind="access.granted")
    assert (event.point, event.fields) == ("vault-door", {"card": "Q-1041", "person": "Agnes Marlowe"})
    assert "no point “access/reader-9”" in Unclaimed.objects.get().reason


def test_what_has_ended_does_not_end_again(bench):
    alarm = lambda state: access("tns1:Door/State/DoorAlarm", {"DoorToken": "vault"}, State=state)
    bench.put(access("tns1:Door/State/DoorAlarm", {"DoorToken": "vault"}, State="Normal"))
    for state in ("DoorForcedOpen", "Normal", "DoorOpenTooLong", "Normal", "Normal"):
        bench.put(alarm(state))
    bench.run()
    held = list(EventRow.objects.filter(kind="door.held_open").order_by("seq").values_list("phase", flat=True))
    assert held == ["end", "begin", "end"], "the first one tells how it stands"
    assert EventRow.objects.filter(kind="door.forced").count() == 1


def test_a_topic_of_a_makers_own_comes_to_the_point_that_stands_for_it(bench):
    message = access("tnsmk:Rack/Opened", {"Rack": "2"}, Side="rear")
    bench.put(message)
    bench.run()
    assert Unclaimed.objects.count() == 1, "nobody stands for it yet"
    Point.objects.create(
        id="rack",
        site_id=GARDENS,
        device_id="door-controller",
        kind="topic",
        name="Rack",
        token="topic/tnsmk:Rack/Opened",
    )
    record_act(GARDENS, "facts", now_ms())
    bench.put(access("tnsmk:Rack/Opened", {"Rack": "2"}, Side="rear"))
    bench.run()
    event = EventRow.objects.get(kind="device.own")
    assert (event.point, event.fields["items"]) == ("rack", "Rack=2, Side=rear")


def test_a_clock_that_goes_wrong_and_why_a_device_is_lost_are_events(bench):
    def told(state, reason="", offset=0):
        body = {"state": state, "reason": reason, "message": "", "clock_offset_ms": offset}
        bench.put(inbox.Message(now_ms(), "session", "cam-gate", "{}", json.dumps(body).encode()))
        bench.run()

    told("online")
    told("lost", "refused")
    told("online", offset=3_600_000)
    told("lost", "timeout")
    told("online", offset=800)
    happened = EventRow.objects.filter(point="gate", initial=False).order_by("seq")
    assert [(e.kind, e.phase, e.fields) for e in happened] == [
        ("device.lost", "begin", {"reason": "refused"}),
        ("device.lost", "end", {}),
        ("device.clock_wrong", "begin", {"seconds": 3600.0}),
        ("device.lost", "begin", {"reason": "timeout"}),
        ("device.lost", "end", {}),
        ("device.clock_wrong", "end", {"seconds": 0.8}),
    ]
