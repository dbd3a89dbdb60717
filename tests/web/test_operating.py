"""What people at desks do: commands by hand, buttons, calls, rules paused, the shift."""

import json

import pytest
from django.core.exceptions import PermissionDenied

from dromikon.clock import now_ms
from dromikon.core.at_hand import at_hand
from dromikon.daybook.models import EventRow, Feed, Step, VerdictRow
from dromikon.desk.buttons import NotNow, buttons, press
from dromikon.desk.models import Alarm, AlarmAct, Call, Handover
from dromikon.desk.services import answer
from dromikon.facts import names_of
from dromikon.operating.calls import TooLate, answer_call, end_call, going_on
from dromikon.operating.commands import command, offered, outcome
from dromikon.operating.pauses import concerning, pause, paused, resume
from dromikon.operating.shift import hand_over, log_of, shift_began, state_of, take_over, write_note
from dromikon.people.models import AuditEntry
from dromikon.refusals import Refused
from dromikon.sites.models import Site
from dromikon.sources.models import Point
from tests.conftest import GARDENS

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]


@pytest.fixture
def alarm(bench):
    """Somebody on the jetty."""
    bench.cross()
    bench.run()
    return Alarm.objects.get()


# -- commands by hand ---------------------------------------------------------------------------------------------------


def test_a_place_offers_what_its_points_take_itself_first(as_):
    facts = names_of(Site.objects.get(id=GARDENS))
    vault = at_hand(facts, "vault-door")
    assert vault[0].point.id == "vault-door" and [o.short for o in vault[0].offers] == ["open once", "lock"]
    jetty = {one.point.id: [o.short for o in one.offers] for one in at_hand(facts, "jetty-line")}
    assert "storm-light" in jetty and "gate-lights" not in jetty, "nothing of another area"
    assert at_hand(facts, "nothing") == []
    assert offered(as_("vera"), "vault-door") == [], "a viewer tells nothing anything"


def test_a_command_goes_into_the_outbox_once_with_its_end_and_is_told_of_everywhere(alarm, as_):
    run = command(as_("oskar"), "jetty-line", "hold300:storm-light", alarm_id=alarm.pk)
    on, off = Step.objects.filter(run=run).order_by("due")
    assert (on.payload["state"], on.delivery, on.expires - on.due) == ("on", "once_only", 5_000), "never late"
    assert (off.payload["state"], off.release, off.due - on.due, off.expires) == ("off", True, 300_000, None)
    assert on.lane == off.lane == "device:cam-jetty"
    assert AuditEntry.objects.get(verb="commanded").detail["words"] == "switch on Storm light for 5 min"
    [act] = AlarmAct.objects.all()
    assert (act.act, act.name, act.why) == ("did", "Oskar Lindwater", "switch on Storm light for 5 min")
    assert outcome(as_("oskar"), run)["status"] == "due"


def test_a_door_is_opened_once_and_a_siren_silenced_though_a_rule_holds_it(as_):
    run = command(as_("oskar"), "vault-door", "release:vault-door")
    assert [s.payload["verb"] for s in Step.objects.filter(run=run)] == ["release"]
    run = command(as_("oskar"), "vault-door", "silence:vault-siren")
    sent = [
        (s.payload["output"], s.payload["state"], s.delivery) for s in Step.objects.filter(run=run).order_by("part")
    ]
    siren = Point.objects.get(pk="vault-siren").siren
    assert sent == [(siren[part], "off", "repeatable") for part in ("light", "sound")], (
        "all that it has, whatever signal it gives"
    )
    assert AuditEntry.objects.filter(verb="commanded").last().detail["words"] == "silence Vault siren"
    assert not Step.objects.filter(run=run, release=True).exists(), "it goes off whoever holds it"


@pytest.mark.parametrize(
    ("key", "words", "problem"),
    [
        ("hold5:gate-lights", "", "cannot be done here"), ("nothing", "", "cannot be done here"),
        ("say:jetty-speaker", " ", "Write what"), ("say:jetty-speaker", "x" * 301, "At most 300"),
    ],
)  # fmt: skip
def test_what_a_place_does_not_take_is_refused_where_it_is_wrong(as_, key, words, problem):
    with pytest.raises(Refused, match=problem):
        command(as_("oskar"), "jetty-line", key, words)
    assert not Step.objects.exists()


def test_nobody_commands_at_an_alarm_that_is_not_theirs(alarm, as_):
    Alarm.objects.update(groups=["duty"], groups_text="|duty|")
    with pytest.raises(Alarm.DoesNotExist):
        command(as_("oskar"), "jetty-line", "hold5:storm-light", alarm_id=alarm.pk)
    with pytest.raises(PermissionDenied):
        command(as_("vera"), "jetty-line", "hold5:storm-light")
    assert not Step.objects.filter(action="relay").exists()


def test_words_are_spoken_as_they_are_written(as_):
    run = command(as_("oskar"), "jetty-line", "say:jetty-speaker", " Please come back. ")
    assert Step.objects.get(run=run).payload == {"sound": "spoken", "text": "Please come back."}


# -- buttons ------------------------------------------------------------------------------------------------------------


def set_button(id, **part):
    Point.objects.filter(pk=id).update(button=part)


def test_the_camera_a_button_is_pressed_at_is_the_source(bench, as_):
    set_button("gate-help", cameras=[{"id": "gate"}, {"id": "entry"}])
    press(as_("opal"), "gate-help", "entry")
    bench.run()
    event = EventRow.objects.get(kind="button.pressed")
    assert event.fields == {"person": "Opal Reywood", "camera": "Visitor gate, from above", "pressed_at": "entry"}
    assert Alarm.objects.get().cameras == ["entry"], "the alarm shows the camera it was pressed at"
    with pytest.raises(Refused, match="does not stand under"):
        press(as_("opal"), "gate-help", "jetty")


def test_two_positions_are_a_state_that_everybody_sees_and_two_people_do_not_undo(bench, as_):
    set_button("lake-patrol", positions="two", on="out", off="ashore")
    assert press(as_("opal"), "lake-patrol", on=True).word == "Lake patrol: out"
    with pytest.raises(NotNow, match="“out” already"):
        press(as_("oskar"), "lake-patrol", on=True)
    bench.run()
    [begun] = EventRow.objects.filter(kind="button.on")
    assert (begun.phase, begun.fields["position"]) == ("begin", "out")
    assert [b.on for b in buttons(as_("oskar")) if b.id == "lake-patrol"] == [True]
    press(as_("oskar"), "lake-patrol")
    bench.run()
    assert EventRow.objects.filter(kind="button.on", phase="end").count() == 1
    assert EventRow.objects.filter(kind="button.pressed", point="lake-patrol").count() == 2
    assert Feed.objects.filter(topic="button").count() == 2


def test_a_button_is_for_its_groups_in_its_hours(as_, time_machine):
    set_button("gate-help", groups=[{"id": "duty"}])
    assert "gate-help" not in [b.id for b in buttons(as_("oskar"))]
    with pytest.raises(Point.DoesNotExist):
        press(as_("oskar"), "gate-help")
    assert press(as_("dara"), "gate-help").name == "Help at gate"
    set_button("gate-help", hours={"id": "staff-hours"})
    time_machine.move_to("2026-06-01T23:00:00+01:00")
    with pytest.raises(NotNow, match="staff hours"):
        press(as_("oskar"), "gate-help")
    time_machine.move_to("2026-06-01T12:00:00+01:00")
    assert press(as_("oskar"), "gate-help").name == "Help at gate"
    with pytest.raises(PermissionDenied):
        press(as_("vera"), "gate-help")


# -- calls --------------------------------------------------------------------------------------------------------------


@pytest.fixture
def rings(bench):
    """Somebody rings at the wicket."""

    def ring(kind="call.rung"):
        bench.http(kind=kind, point="wicket", phase="pulse", fields={})
        bench.run()

    return ring


def test_a_call_is_answered_by_one_operator_and_kept_as_a_bookmark(bench, rings, as_):
    from dromikon.archive.models import Bookmark

    rings()
    [call] = going_on(as_("oskar"))
    assert (call["state"], call["name"], call["rings"]) == ("ringing", "Staff wicket", 1)
    assert call["place"][0]["id"] == "wicket-strike", "what opens there stands first"
    rings()
    assert going_on(as_("oskar"))[0]["rings"] == 2, "ringing again is the same call"
    answer_call(as_("oskar"), int(call["id"]))
    with pytest.raises(TooLate, match="Oskar Lindwater"):
        answer_call(as_("opal"), int(call["id"]))
    bench.run()
    assert EventRow.objects.get(kind="call.answered").fields == {"person": "Oskar Lindwater"}, "rules hear of it"
    with pytest.raises(TooLate, match="speaks with them"):
        end_call(as_("opal"), int(call["id"]))
    end_call(as_("oskar"), int(call["id"]))
    with pytest.raises(TooLate, match="over"):
        end_call(as_("oskar"), int(call["id"]))
    bench.run()
    assert EventRow.objects.filter(kind="call.ended").count() == 1, "two who end it at once make one event"
    assert Call.objects.get().state == "ended" and going_on(as_("oskar")) == []
    assert {b.title for b in Bookmark.objects.filter(words__contains="#call")} == {"Call, answered by Oskar Lindwater"}
    with pytest.raises(TooLate, match="over"):
        end_call(as_("oskar"), int(call["id"]))
    assert going_on(as_("vera")) == [], "calls ring for those who may answer"


def test_nobody_answers_and_it_is_missed_by_itself(bench, rings):
    rings()
    bench.engine.clock = lambda: now_ms() + 59_000
    bench.engine.beat()
    assert Call.objects.get().state == "ringing"
    bench.engine.clock = lambda: now_ms() + 61_000
    bench.engine.beat()
    assert Call.objects.get().state == "missed"
    assert Feed.objects.filter(topic="call").last().data["state"] == "missed"
    bench.engine.clock = now_ms
    rings()
    assert [c.state for c in Call.objects.order_by("id")] == ["missed", "ringing"]


def test_a_call_answered_and_ended_at_the_place_itself_rings_no_more(rings):
    rings()
    rings("call.answered")
    assert Call.objects.get().state == "talking"
    rings("call.ended")
    rings("call.ended")
    assert [(c.state, c.answered_name) for c in Call.objects.all()] == [("ended", "")]


# -- rules paused -------------------------------------------------------------------------------------------------------


def test_a_paused_rule_counts_no_more_at_that_camera_until_its_end(bench, as_):
    assert "jetty-closed" in [r.id for r in concerning(as_("dara"), "jetty")]
    assert "jetty-closed" not in [r.id for r in concerning(as_("dara"), "gate")]
    pause(as_("dara"), "jetty-closed", "jetty", 15)
    bench.run()
    bench.cross()
    bench.run()
    assert not Alarm.objects.exists()
    assert [v.outcome for v in VerdictRow.objects.filter(rule="jetty-closed")] == ["paused"]
    assert list(paused(Site.objects.get(id=GARDENS))) == [("jetty-closed", "jetty")]
    resume(as_("dara"), "jetty-closed", "jetty")
    bench.run()
    bench.cross()
    bench.run()
    assert Alarm.objects.count() == 1
    assert list(AuditEntry.objects.filter(verb__in=("paused rule", "resumed rule")).values_list("verb", flat=True)) == ["paused rule", "resumed rule"]  # fmt: skip


def test_a_pause_ends_by_itself_also_after_a_restart(bench, as_):
    pause(as_("dara"), "jetty-closed", "jetty", 15)
    bench.run()
    bench.engine.load()
    bench.engine.clock = lambda: now_ms() + 16 * 60_000
    bench.run()
    assert not bench.engine.sites[GARDENS]._paused["jetty-closed"]


def test_only_those_who_may_pause_and_only_what_concerns_the_camera(as_):
    with pytest.raises(PermissionDenied):
        pause(as_("oskar"), "jetty-closed", "jetty", 15)
    for rule, camera, minutes, words in (("jetty-closed", "gate", 15, "concerns"), ("jetty-closed", "jetty", 0, "a minute"), ("jetty-closed", "jetty", 721, "twelve")):  # fmt: skip
        with pytest.raises(Refused, match=words):
            pause(as_("dara"), rule, camera, minutes)


# -- the shift ----------------------------------------------------------------------------------------------------------


def test_the_log_is_made_from_what_happened_and_handed_over_as_it_was(bench, alarm, as_):
    write_note(as_("oskar"), "Painters on the jetty from ten.")
    answer(as_("oskar"), alarm.pk, "A painter.", outcome="own")
    began = shift_began(as_("oskar"))
    lines = log_of(as_("oskar"), began, now_ms() + 1)
    assert {line.sort for line in lines} == {"note", "alarm", "act"}
    assert "answered “Somebody on the jetty”" in [line.words for line in lines]
    state = state_of(as_("oskar"), began, now_ms() + 1)
    assert (state["alarms"]["raised"], state["alarms"]["answered"], state["open"]) == (1, 1, [])
    made = hand_over(as_("oskar"), "Quiet.")
    write_note(as_("opal"), "Later.")
    kept = Handover.objects.get()
    assert [line["words"] for line in kept.body["log"]].count("Later.") == 0, "it stays as it was"
    assert shift_began(as_("opal")) == made.at
    assert take_over(as_("opal"), made.pk).taken_name == "Opal Reywood"
    with pytest.raises(Refused, match="Opal Reywood has taken"):
        take_over(as_("dara"), made.pk)


def test_a_note_has_words_and_those_who_only_look_write_none(as_):
    for text, words in ((" ", "Write what"), ("x" * 2001, "2000")):
        with pytest.raises(Refused, match=words):
            write_note(as_("oskar"), text)
    with pytest.raises(PermissionDenied):
        hand_over(as_("vera"))


@pytest.mark.parametrize("who", ["oskar", "ines", "vera"])
@pytest.mark.parametrize(
    "page",
    [
        "desk",
        "desk/quality",
        "desk/quality?days=1&desks=3",
        "daybook/shift",
        "desk/camera/jetty",
        "desk/cards",
        "desk/shelf",
    ],
)
def test_the_pages_open_for_whoever_may_look(client, alarm, as_, who, page):
    client.force_login(as_(who).person)
    assert client.get(f"/s/{GARDENS}/{page}").status_code == 200


def test_an_alarm_in_front_of_somebody_has_the_place_and_what_went_before(client, bench, alarm, as_):
    answer(as_("oskar"), alarm.pk, "A goose again.", outcome="false")
    bench.engine.clock = lambda: now_ms() + 120_000
    bench.cross(at=now_ms() + 90_000)
    bench.run()
    client.force_login(as_("oskar").person)
    latest = Alarm.objects.order_by("-id").first()
    page = client.get(f"/s/{GARDENS}/moment/{latest.run}").content.decode()
    for words in ("Storm light", "A goose again.", "Line crossed", "data-outlines"):
        assert words in page, words


def test_the_api_tells_of_calls_all_that_pages_carry(client, rings, as_):
    client.force_login(as_("oskar").person)
    Point.objects.filter(pk="bell").update(told={"heard": True})
    rings()
    for address in ("calls", "desk"):
        [told] = client.get(f"/api/v1/{address}?site={GARDENS}").json()["calls"]
        [carried] = going_on(as_("oskar"))
        assert told == carried and told["heard"] is (told["camera"] == "bell")


def test_the_api_has_what_the_pages_do(client, bench, as_):
    client.force_login(as_("dara").person)

    def send(method, path, content):
        return client.generic(
            method, f"/api/v1/{path}?site={GARDENS}", json.dumps(content), content_type="application/json"
        )

    assert send("POST", "rules/jetty-closed/pause", {"camera": "jetty", "minutes": 5}).status_code == 200
    bench.run()
    desk = client.get(f"/api/v1/desk?site={GARDENS}").json()
    assert desk["paused"] == {"jetty": 1} and desk["calls"] == [] and desk["waiting"] == 0
    assert send("PUT", "desk/own", {"cameras": ["jetty"], "cells": 1}).json()["screen"]["cells"][0]["camera"] == "jetty"
    assert send("POST", "buttons/gate-help/press", {}).json() == {"pressed": "Help at gate", "on": None}
    assert send("POST", "points/jetty-line/commands", {"key": "nothing"}).status_code == 422
    assert client.get(f"/api/v1/alarms-quality?site={GARDENS}&days=7").json()["count"] == 0
    assert send("POST", "calls/77/answer", {}).status_code == 404


# -- suppressed by the site's mode --------------------------------------------------------------------------------------


def test_what_a_mode_suppresses_is_put_before_nobody_and_told_when_the_mode_is_left(bench, as_):
    from dromikon.authoring.services import save, switch
    from dromikon.desk.handling import history_of, suppressed
    from dromikon.desk.services import waiting
    from dromikon.situation import set_mode

    site = Site.objects.get(id=GARDENS)
    quiet = site.modes[-1]
    response = [{"do": "alarm", "title": "Leak", "groups": [{"id": "operators"}], "quiet_in": [quiet]}]
    kinds = {"lasts": ("input.active", "begin", "leak"), "passes": ("button.pressed", "pulse", "gate-help")}
    for name, (kind, phase, point) in kinds.items():
        cause = {"cause": "event", "kind": kind, "phase": phase, "where": {"points": [{"id": point}]}}
        switch(as_("ines"), save(as_("ines"), {"name": name, "cause": cause, "response": response}), True)
    set_mode(as_("dara"), quiet)
    bench.run()
    bench.http(kind="input.active", point="leak", phase="begin", fields={})
    press(as_("opal"), "gate-help")
    bench.run()
    ours = Alarm.objects.filter(title="Leak")
    assert {a.state for a in ours} == {"suppressed"}
    assert not [a for a in waiting(as_("oskar")) if a.title == "Leak"]
    assert len(suppressed(as_("oskar"))) == 2
    assert {f.data["sound"] for f in Feed.objects.filter(topic="alarm", subject__in=[str(a.pk) for a in ours])} == {
        "none"
    }
    set_mode(as_("dara"), site.modes[0])
    bench.run()
    lasting, passed = ours.get(point="leak"), ours.get(point="gate-help")
    assert (lasting.state, passed.state) == ("unacknowledged", "closed")
    assert [line.words for line in history_of(lasting)] == ["raised", "put before people, since the mode was left"]
    assert Feed.objects.filter(topic="alarm", subject=str(lasting.pk)).last().data["sound"] == "chime", "and is heard"
    set_mode(as_("dara"), quiet)
    bench.run()
    assert ours.get(point="leak").state == "suppressed"


def test_a_thousand_alarms_are_paged_and_one_is_answered_at_once(client, as_):
    rows = [
        Alarm(
            site_id=GARDENS, run=f"r{i}", rule="flood", point="jetty-line", priority="low", rank=3, title=f"#{i}", groups=["operators"],
            groups_text="|operators|", state="unacknowledged", zero=i, raised_at=i,
        )
        for i in range(1_000)
    ]  # fmt: skip
    Alarm.objects.bulk_create(rows)
    client.force_login(as_("oskar").person)
    page = client.get(f"/s/{GARDENS}/desk").content.decode()
    assert page.count('data-state="unacknowledged"') == 8 and "992 more alarms wait" in page
    assert page.count("data-waits=") == 60 and "932 that stand below" in page
    assert page.index("#999") < page.index("#998"), "the newest of the same urgency first"
    sent = client.post(f"/api/v1/alarms/{Alarm.objects.get(title='#999').pk}/acknowledge?site={GARDENS}", "{}", content_type="application/json")  # fmt: skip
    assert sent.status_code == 200
    assert client.get(f"/api/v1/desk?site={GARDENS}").json()["waiting"] == 999


# -- speaking, sounds, ticks --------------------------------------------------------------------------------------------


def test_a_voice_is_played_at_the_station_and_what_is_no_sound_is_refused(as_):
    import base64

    from dromikon.core.sound import from_wave, to_wave, tones
    from dromikon.operating.voice import speak

    run = speak(as_("oskar"), "wicket", to_wave(tones("chime")))
    payload = Step.objects.get(run=run).payload
    assert payload["sound"] == "voice" and len(from_wave(base64.b64decode(payload["voice"]))) == len(tones("chime"))
    for point, wave, words in (("wicket", b"nothing", "cannot be used"), ("gate", b"", "spoken to"), ("wicket", b"x" * 4_000_001, "at most 20 s")):  # fmt: skip
        with pytest.raises(Refused, match=words):
            speak(as_("oskar"), point, wave)
    with pytest.raises(PermissionDenied):
        speak(as_("vera"), "wicket", b"")


def test_a_sound_of_the_sites_own_is_kept_named_by_alarms_and_fetched(client, bench, as_):
    import base64

    from dromikon.core.sound import to_wave, tones
    from dromikon.setup.sounds import SoundDocument, save_sound

    def address(content):
        return f"data:audio/wav;base64,{base64.b64encode(content).decode()}"

    sound = save_sound(as_("ines"), None, SoundDocument(name="Gong", file=address(to_wave(tones("chime")))))
    assert save_sound(as_("ines"), sound.id, SoundDocument(name="Big gong")).content, (
        "without a file the one that is kept stays"
    )
    for file, words in (("", "Choose a file"), (address(b"MZ..."), "neither WAV"), ("data:,%%", "no file"), (address(b"RIFF" + b"0" * 400_001), "at most 400 kB")):  # fmt: skip
        with pytest.raises(Refused, match=words):
            save_sound(as_("ines"), None, SoundDocument(name="x", file=file))
    client.force_login(as_("oskar").person)
    got = client.get(f"/s/{GARDENS}/desk/sound/{sound.id}")
    assert got["Content-Type"] == "audio/wav" and got.content.startswith(b"RIFF")
    assert client.get("/s/quillmere-nursery/desk/sound/" + sound.id).status_code == 404
    assert names_of(Site.objects.get(id=GARDENS)).sound_by_id[sound.id].name == "Big gong", "rules may name it"


def test_steps_of_an_instruction_are_ticked_off_by_whoever_may_answer(alarm, as_):
    from dromikon.desk.handling import tick

    Alarm.objects.update(instruction="Careful.\n1. Look.\n2. Call.")
    assert tick(as_("oskar"), alarm.pk, 1, True).ticked == [1]
    assert tick(as_("opal"), alarm.pk, 1, True).ticked == [1]
    assert tick(as_("opal"), alarm.pk, 1, False).ticked == []
    assert [(a.act, a.why) for a in AlarmAct.objects.all()] == [("ticked", "Call."), ("unticked", "Call.")]
    with pytest.raises(Refused, match="no such step"):
        tick(as_("oskar"), alarm.pk, 2, True)
    with pytest.raises(PermissionDenied):
        tick(as_("vera"), alarm.pk, 0, True)


def test_quality_counts_what_somebody_may_see_by_the_days_of_the_site(bench, alarm, as_):
    from dromikon.operating.quality import measured

    answer(as_("oskar"), alarm.pk, "Geese.", outcome="false")
    found = measured(as_("oskar"), 7)
    assert (found.quality.count, found.quality.false, len(found.quality.days)) == (1, 1.0, 7)
    assert found.names == {"jetty-closed": "Somebody on the closed jetty"} and found.quality.pace.answered == 1
    Alarm.objects.update(groups=["duty"], groups_text="|duty|")
    assert measured(as_("oskar"), 7).quality.count == 0


def test_what_is_kept_of_calls_shifts_and_commands_is_forgotten_and_names_are_erased(as_, rings, bench):
    from dromikon.keeping.classes import CLASSES
    from dromikon.keeping.erasing import erase_person
    from dromikon.people.access import Everywhere
    from dromikon.people.models import Person

    rings()
    answer_call(as_("oskar"), Call.objects.get().pk)
    write_note(as_("oskar"), "A note by Oskar Lindwater.")
    hand_over(as_("oskar"))
    command(as_("oskar"), "jetty-line", "hold5:storm-light")
    Step.objects.update(status="done")
    erase_person(Everywhere(None), Person.objects.get(username="oskar"))
    told = json.dumps([*Call.objects.values("answered_name"), *Handover.objects.values("name", "body")])
    assert "Lindwater" not in told
    for kept in CLASSES:
        if kept.name in ("alarms", "runs"):
            list(kept.forget(now_ms() + 1_000_000))
    assert (
        not Call.objects.exists()
        and not Handover.objects.exists()
        and not Step.objects.filter(run__startswith="asked-").exists()
    )


def test_a_rule_may_want_a_tag(bench, alarm, as_):
    Alarm.objects.update(tags_required=True)
    with pytest.raises(Refused, match="needs one"):
        answer(as_("oskar"), alarm.pk, "A goose.")
    assert answer(as_("oskar"), alarm.pk, "A goose.", ["#Geese"]).tags == ["geese"]


def test_whose_role_is_taken_away_while_they_look_answers_no_more(client, alarm, as_):
    from dromikon.people.models import Membership

    client.force_login(as_("oskar").person)
    answered = f"/api/v1/alarms/{alarm.pk}/acknowledge?site={GARDENS}"
    known = Membership.objects.filter(site=GARDENS, person__username="oskar")
    known.update(role="viewer")
    told = client.post(answered, "{}", content_type="application/json")
    assert told.status_code == 403 and "may not do this" in told.json()["error"]
    assert client.get(f"/api/v1/desk?site={GARDENS}").json()["calls"] == []
    known.delete()
    assert client.post(answered, "{}", content_type="application/json").status_code == 404
    assert client.get(f"/s/{GARDENS}/desk").status_code == 404
    assert again_unanswered(alarm)


def again_unanswered(alarm):
    return Alarm.objects.get(pk=alarm.pk).acknowledged_at is None


def test_neither_log_nor_hand_over_shows_alarms_that_are_not_for_their_reader(client, alarm, as_):
    answer(as_("oskar"), alarm.pk, "A walker by the rails.")
    made = hand_over(as_("ines"))
    Alarm.objects.update(groups=["operators"], groups_text="|operators|")
    for who, sees in (("oskar", True), ("ines", True), ("dara", False)):
        client.force_login(as_(who).person)
        shown = client.get(f"/s/{GARDENS}/daybook/shift/{made.pk}").content.decode()
        assert ("A walker by the rails." in shown) is sees, who
        assert ("answered “Somebody on the jetty”" in shown) is sees, who
    began = made.start
    assert [x.words for x in log_of(as_("oskar"), began, made.at) if x.sort == "act"]
    assert not [x.words for x in log_of(as_("dara"), began, made.at) if "jetty" in x.words]
