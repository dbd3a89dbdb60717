"""Forgetting by age, by room and never what is held; erasing a person; the audit trail's anchors."""

import contextlib
from collections import namedtuple

import pytest
from django.core.exceptions import PermissionDenied
from django.db import connection

from dromikon import config
from dromikon.authoring.services import save
from dromikon.clock import now_ms
from dromikon.daybook.models import EventRow, Journal, RunRow, Step, VerdictRow
from dromikon.desk.models import Alarm, Evidence
from dromikon.desk.services import answer
from dromikon.engine.engine import Engine
from dromikon.facts import facts_from_json, facts_of
from dromikon.installation.settings import keep_setting
from dromikon.intake import inbox
from dromikon.journaled import chain_before
from dromikon.keeping import classes, forgetting
from dromikon.keeping.classes import CLASSES, GONE
from dromikon.keeping.erasing import erase_entry
from dromikon.keeping.models import Hold
from dromikon.keeping.policy import Keeping
from dromikon.keeping.trail import keep_anchor
from dromikon.lists.models import WatchList
from dromikon.lists.services import set_entries
from dromikon.people import audit
from dromikon.people.access import Everywhere
from dromikon.people.models import Anchor, AuditEntry, Person
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule
from dromikon.setup import changes
from dromikon.setup.registry import SORTS
from dromikon.sources.models import Unclaimed
from tests.conftest import GARDENS

DAY = 86_400_000
ALL = {name: 10 for name in Keeping.model_fields if name != "room"}


@pytest.fixture(autouse=True)
def quick(monkeypatch):
    monkeypatch.setattr(forgetting, "BREATH", 0)


@pytest.fixture
def lived(bench, as_):
    """An alarm of twenty days ago with a still, answered; and one of today."""
    bench.engine.clock = lambda: now_ms() - 20 * DAY
    old = now_ms() - 20 * DAY
    bench.http(kind="sensor.reading", point="wind", phase="reading", fields={"value": 3}, at=old)
    bench.cross(at=old + 1000)
    bench.http(kind="no.such", point="nowhere", at=old + 2000)
    bench.run()
    alarm = Alarm.objects.get()
    answer(as_("oskar"), alarm.pk, "Seen.", at=old + 60_000)
    bench.engine.clock = now_ms
    bench.run()
    still = Evidence.objects.filter(alarm=alarm).first()
    Evidence.objects.filter(pk=still.pk).update(file=f"{alarm.pk}/1.jpg", sha256="x", at=old)
    path = config.data() / "evidence" / str(alarm.pk) / "1.jpg"
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(b"x")
    Step.objects.filter(status__in=("due", "sending")).update(status="done")
    bench.cross(at=now_ms())
    bench.run()
    keep_setting(Everywhere(None), Keeping(**ALL, room=0))
    return path


def left():
    return {
        "events": EventRow.objects.count(), "verdicts": VerdictRow.objects.count(), "runs": RunRow.objects.count(),
        "alarms": Alarm.objects.count(), "unclaimed": Unclaimed.objects.count(),
    }  # fmt: skip


def test_what_is_past_keeping_goes_and_what_is_younger_stays(lived, bench):
    before = left()
    assert before["events"] == 3 and before["alarms"] == 2 and lived.exists()
    said = forgetting.forget()
    assert left() == {"events": 1, "verdicts": before["verdicts"] // 2, "runs": 1, "alarms": 1, "unclaimed": 0}
    assert not lived.exists() and not lived.parent.exists()
    assert "1 readings" in said and "1 alarms" in said and forgetting.forget() == "nothing was past keeping"
    assert not Step.objects.exclude(run__in=RunRow.objects.values("ref")).exists(), "no step without its run"
    assert not Journal.objects.filter(type="event").exclude(seq__in=EventRow.objects.values("seq")).exists()
    assert [m.id for m in inbox.after(bench.inbox, 0, 10)] == [4], "messages that were worked off"


def test_what_is_held_stays_whatever_its_age_until_it_is_lifted(lived, as_):
    from dromikon.core.hours import wall_clock

    day = str(wall_clock(now_ms() - 20 * DAY, as_("ada").site.zone).date())
    before = left()
    made = changes.save(SORTS["holds"], as_("ada"), None, {"reason": "Case 7", "first": day, "last": day})
    forgetting.forget()
    after = left()
    assert (after["events"], after["alarms"], after["runs"]) == (before["events"], 2, 2) and lived.exists()
    changes.retire(SORTS["holds"], as_("ada"), made.id)
    forgetting.forget()
    assert left()["events"] == 1 and not lived.exists() and Hold.objects.get().lifted_at
    with pytest.raises(Refused):
        changes.save(SORTS["holds"], as_("ada"), None, {"reason": "x", "first": "2026-02-02", "last": "2026-02-01"})


def test_a_still_goes_before_its_alarm_and_says_so(lived):
    keep_setting(Everywhere(None), Keeping(**{**ALL, "alarms": 100, "runs": 100, "events": 100}, room=0))
    forgetting.forget()
    still = Evidence.objects.filter(missing=GONE).get()
    assert still.file == "" and not lived.exists() and Alarm.objects.count() == 2


def test_a_run_whose_release_is_still_to_come_stays(lived):
    old = RunRow.objects.order_by("zero").first()
    Step.objects.filter(run=old.ref).update(status="due", release=True)
    forgetting.forget()
    assert RunRow.objects.filter(ref=old.ref).exists() and Step.objects.filter(run=old.ref).exists()


def test_facts_that_later_changes_go_on_from_stay(lived, bench, as_):
    """Else the engine would not know what it runs with after its next start."""
    for i in range(3):
        rule = Rule.objects.get(pk="jetty-geese")
        save(as_("ines"), {**rule.document, "purpose": f"P{i}"}, rule)
        bench.run()
    Journal.objects.filter(type="facts").update(at=now_ms() - 30 * DAY)
    forgetting.forget()
    assert facts_from_json(chain_before(GARDENS).body) == facts_of(as_("ines").site)
    again = Engine()
    again.load()
    assert again.sites[GARDENS].facts == bench.engine.sites[GARDENS].facts
    again.close()


def test_when_the_disk_is_short_of_room_the_oldest_goes_before_its_time_but_nothing_of_the_week(lived, monkeypatch):
    keep_setting(Everywhere(None), Keeping(room=10))
    usage, asked = namedtuple("usage", "total used free"), []

    def disk(path):
        asked.append(path)
        return usage(0, 0, 9e9 if EventRow.objects.count() > 1 else 11e9)

    monkeypatch.setattr(forgetting.shutil, "disk_usage", disk)
    forgetting.forget()
    assert EventRow.objects.count() == 1 and Alarm.objects.count() == 2, "alarms do not go for room"
    monkeypatch.setattr(forgetting.shutil, "disk_usage", lambda path: usage(0, 0, 0))
    forgetting.forget()
    assert EventRow.objects.count() == 1


def test_forgetting_goes_in_small_groups(lived, monkeypatch):
    now = now_ms() - 15 * DAY
    EventRow.objects.bulk_create(
        EventRow(
            seq=10_000 + i, site=GARDENS, kind="door.open", point="palm-door", phase="begin", at=now, occurred_at=now + i,
            received_at=now,
        )
        for i in range(classes.GROUP * 2 + 5)
    )  # fmt: skip
    held, turn = [], classes.writer.turn

    @contextlib.contextmanager
    def counted():
        with turn():
            held.append(EventRow.objects.count())
            yield

    monkeypatch.setattr(classes.writer, "turn", counted)
    forgetting.forget()
    steps = [a - b for a, b in zip(held, held[1:], strict=False)]
    assert max(steps) <= classes.GROUP and EventRow.objects.count() == 1


def test_every_class_says_how_much_there_is(lived):
    amounts = {kept.name: kept.amount() for kept in CLASSES}
    assert amounts["events"][0] == 2 and amounts["readings"][0] == 1 and amounts["alarms"][0] == 2
    assert set(amounts) == set(Keeping.model_fields) - {"room"}
    assert amounts["events"][1] < now_ms() - 19 * DAY


def test_a_snapshot_that_another_run_kept_too_stays(lived):
    from dromikon.archive.models import Snapshot

    path = config.data() / "snapshots" / "ab" / "abc.jpg"
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(b"x")
    for run, at in (("1.a", now_ms() - 20 * DAY), ("2.a", now_ms())):
        Snapshot.objects.create(
            site_id=GARDENS, camera="jetty", at=at, title="t", run=run, file="ab/abc.jpg", sha256="x"
        )
    forgetting.forget()
    assert path.exists() and Snapshot.objects.count() == 1
    Snapshot.objects.update(at=now_ms() - 20 * DAY)
    forgetting.forget()
    assert not path.exists() and not path.parent.exists()


def test_a_full_disk_makes_a_still_wait_and_leaves_no_piece_of_it(bench, monkeypatch):
    from pathlib import Path

    from dromikon.archive.stills import keep_still

    def full(self, content):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(Path, "write_bytes", full)
    with pytest.raises(OSError, match="No space"):
        keep_still("evidence", "9/1.jpg", b"x")
    assert list((config.data() / "evidence" / "9").iterdir()) == []


def test_forgetting_on_a_full_disk_is_told_and_tried_again(lived, monkeypatch):
    from django.db import OperationalError

    from dromikon.keeping.jobs import JOBS
    from dromikon.keeping.main import do

    def full(*_):
        raise OperationalError("database or disk is full")

    monkeypatch.setattr(classes, "_do", full)
    done = do(next(job for job in JOBS if job.name == "forgetting"))
    assert not done.well and "disk is full" in done.said


def test_acts_that_are_worked_off_and_contents_that_nothing_names_go(lived, bench, as_):
    from dromikon.daybook.models import ActRow
    from dromikon.lists.models import Content

    plates = WatchList.objects.get(pk="staff-plates")
    for value in ("A1", "B2"):
        set_entries(as_("ines"), plates, [{"value": value}])
        bench.run()
    first = Content.objects.get(entries=[{"value": "A1"}]).pk
    forgetting.forget()
    assert Content.objects.filter(pk=first).exists(), "the journal still names it"
    Journal.objects.filter(type="facts", body__icontains=first).delete()
    set_entries(as_("ines"), plates, [{"value": "C3"}])
    waiting = ActRow.objects.last().pk
    ActRow.objects.update(at=now_ms() - 20 * DAY)
    forgetting.forget()
    assert not Content.objects.filter(pk=first).exists() and Content.objects.filter(pk=plates.content_id).exists()
    assert list(ActRow.objects.filter(pk__gte=waiting).values_list("pk", flat=True)) == [waiting], (
        "it is not worked off yet"
    )


# -- the trail ---------------------------------------------------------------------------------------------------------


def test_an_anchor_spares_walking_and_lets_what_is_before_it_go(lived, as_):
    before = AuditEntry.objects.count()
    assert "unbroken up to entry" in keep_anchor() and keep_anchor() == "nothing new"
    Anchor.objects.update(at=now_ms() - 2000 * DAY)
    save(as_("ines"), Rule.objects.get(pk="jetty-geese").document, Rule.objects.get(pk="jetty-geese"))
    forgetting.forget()
    assert AuditEntry.objects.count() == 2 < before, "what came after the anchor, and that it was forgotten"
    assert audit.first_break() is None and audit.first_break(audit.last_anchor()) is None
    first = AuditEntry.objects.order_by("id").first()
    AuditEntry.objects.filter(pk=first.pk).delete()
    assert audit.first_break() is not None, "one that was not forgotten is missed"


def test_tampering_before_an_anchor_is_found_by_the_whole_walk_and_after_it_by_the_next_anchor(lived, as_):
    keep_anchor()
    old = AuditEntry.objects.order_by("id").first()
    AuditEntry.objects.filter(pk=old.pk).update(verb="never did")
    assert audit.first_break() == old.pk and audit.first_break(audit.last_anchor()) is None
    save(as_("ines"), Rule.objects.get(pk="jetty-geese").document, Rule.objects.get(pk="jetty-geese"))
    new = AuditEntry.objects.order_by("-id").first()
    AuditEntry.objects.filter(pk=new.pk).update(verb="never did")
    with pytest.raises(audit.TrailBroken):
        keep_anchor()


# -- erasing -----------------------------------------------------------------------------------------------------------


def everything() -> str:
    """All text of all tables."""
    with connection.cursor() as cursor:
        tables = connection.introspection.table_names(cursor)
        return "\n".join(repr(row) for table in tables for row in cursor.execute(f"SELECT * FROM {table}").fetchall())


def test_a_person_is_erased_everywhere_and_the_trail_still_verifies(lived, bench, as_):
    from dromikon.desk.buttons import press

    press(as_("opal"), "gate-help")
    bench.run()
    opal = Person.objects.get(username="opal")
    Person.objects.filter(pk=opal.pk).update(email="opal@example.org")
    Hold.objects.create(site_id=GARDENS, start=0, end=1, reason="Asked by Opal Reywood", by="Opal Reywood", made_at=1)
    changes.retire(SORTS["everybody"], Everywhere(as_("ada").person), str(opal.pk), anyway=True)
    assert "Opal Reywood" in everything()
    changes.do(SORTS["everybody"], Everywhere(as_("ada").person), str(opal.pk), "erase")
    bench.run()
    for word in ("Opal", "Reywood", "opal@example.org", "+447700900377", "'opal'"):
        assert word not in everything(), word
    assert audit.first_break() is None
    assert AuditEntry.objects.filter(person=opal, name="erased").exists()


def test_a_list_entry_is_erased_with_its_face_and_pictures(bench, as_):
    known = WatchList.objects.get(pk="garden-staff")
    entry = next(e for e in known.content.entries if e.get("template"))
    fields = {"template": entry["template"], "confidence": 90}
    bench.http(kind="face.seen", point="vault-face", phase="pulse", fields=fields)
    bench.run()
    assert entry["template"] in everything()
    count = erase_entry(as_("ada"), known, entry["value"])
    bench.run()
    assert count == 1 and EventRow.objects.get(kind="face.seen").fields == {"confidence": 90}
    text = everything()
    assert entry["template"] not in text and entry["value"] not in text and audit.first_break() is None


def test_a_plate_that_was_seen_is_erased_with_the_stills_kept_because_of_it(lived, bench, as_):
    known = WatchList.objects.get(pk="staff-plates")
    value = known.content.entries[0]["value"]
    EventRow.objects.filter(kind="scene.line_crossed").update(kind="plate.read", fields={"plate": value})
    assert erase_entry(as_("ada"), known, value) == 2
    assert {e.fields["plate"] for e in EventRow.objects.filter(kind="plate.read")} == {"erased"}
    assert not lived.exists() and Evidence.objects.filter(missing="It was erased.").count() == 1


def test_an_entry_that_is_called_like_a_word_of_the_program_leaves_the_rest_alone(lived, as_):
    known = WatchList.objects.get(pk="staff-plates")
    facts = list(Journal.objects.filter(type="facts").values_list("body", flat=True))
    set_entries(as_("ada"), known, [{"value": "camera"}, {"value": "gate"}, {"value": "id"}])
    for value in ("camera", "gate", "id"):
        erase_entry(as_("ada"), known, value)
    assert list(Journal.objects.filter(type="facts").values_list("body", flat=True))[: len(facts)] == facts


def test_an_entry_is_erased_at_its_site_alone_and_may_come_again(lived, as_):
    known = WatchList.objects.get(pk="staff-plates")
    elsewhere = Hold.objects.create(site_id="quillmere-nursery", start=0, end=1, reason="ZZ99ABC", by="x", made_at=1)
    here = Hold.objects.create(site_id=GARDENS, start=0, end=1, reason="About ZZ99ABC.", by="x", made_at=1)
    set_entries(as_("ada"), known, [{"value": "ZZ99ABC"}])
    erase_entry(as_("ada"), known, "ZZ99ABC")
    elsewhere.refresh_from_db()
    here.refresh_from_db()
    assert (elsewhere.reason, here.reason) == ("ZZ99ABC", "About erased.")
    set_entries(as_("ada"), known, [{"value": "ZZ99ABC"}])
    assert [e["value"] for e in WatchList.objects.get(pk=known.pk).content.entries] == ["ZZ99ABC"]
    with pytest.raises(PermissionDenied):
        erase_entry(as_("ines"), known, "ZZ99ABC")


def test_of_what_nobody_understood_the_newest_are_kept(garden, monkeypatch):
    monkeypatch.setattr(classes, "MOST_UNCLAIMED", 700)
    rows = [Unclaimed(inbox=i, site=garden, source="X", at=now_ms(), reason="?", raw="") for i in range(1, 1_101)]
    Unclaimed.objects.bulk_create(rows)
    messages = next(kept for kept in CLASSES if kept.name == "messages")
    assert sum(messages.forget(1)) == 400
    assert Unclaimed.objects.count() == 700 and Unclaimed.objects.order_by("inbox").first().inbox == 401


@pytest.mark.django_db(transaction=True)
def test_what_takes_long_holds_nothing_else_up():
    import threading

    from dromikon.keeping.jobs import Job
    from dromikon.keeping.main import look

    begun, may_end, done, apart = threading.Event(), threading.Event(), [], {}

    def long():
        begun.set()
        may_end.wait(10)
        return "done"

    slow, quick = Job("slow", lambda: 1, long, apart=True), Job("quick", lambda: 1, lambda: done.append(1) or "done")
    for _ in range(2):
        look(slow, 0, apart)
    assert begun.wait(5)
    look(quick, 0, apart)
    assert done == [1] and apart["slow"].is_alive() and len(apart) == 1
    may_end.set()
    apart["slow"].join(10)
    assert not apart["slow"].is_alive()
