"""Health: the same measures on the page, under /metrics and in the log; and that only those who may see them do."""

import json
import logging
import logging.handlers

import pytest
from prometheus_client.parser import text_string_to_metric_families

from dromikon import logs
from dromikon.clock import now_ms
from dromikon.daybook.models import EventRow, Resting, RunRow, Step
from dromikon.health.measures import measure
from dromikon.health.troubles import troubles_of
from dromikon.keeping.models import Done
from dromikon.people.models import Person
from dromikon.people.tokens import make_token
from dromikon.sources.models import Device, Intake, IntakeCount
from tests.conftest import GARDENS


@pytest.fixture
def well(bench, monkeypatch):
    """An installation in which nothing is wrong."""
    bench.run()
    bench.engine.beat()
    Device.objects.update(state="online")
    Done.objects.create(job="backup", began_at=now_ms(), ended_at=now_ms(), good_at=now_ms(), said="one")
    return bench


def refused_some(bench):
    day = now_ms() // 86_400_000
    IntakeCount.objects.create(intake_id="garden-gateway", day=day, outcome="token", count=3, last_at=now_ms())


def words():
    return " | ".join(trouble.what for trouble in troubles_of(measure()))


def test_where_nothing_is_wrong_nothing_is_said(well):
    assert words() == "" and measure().engine_runs


@pytest.mark.parametrize(
    ("spoil", "said"),
    [
        (
            lambda bench: setattr(bench.engine, "clock", lambda: now_ms() - 9_000) or bench.engine.beat(),
            "engine does not run",
        ),
        (lambda bench: bench.put(bench_message(now_ms() - 60_000)), "1 messages wait, the oldest for 60 s"),
        (
            lambda bench: Device.objects.filter(pk="cam-jetty").update(state="lost", message="No answer."),
            "Jetty camera",
        ),
        (lambda bench: Device.objects.filter(pk="cam-jetty").update(clock_offset_ms=95_000), "is off by 95 s"),
        (
            lambda bench: Intake.objects.filter(pk="orchid-broker").update(
                enabled=True, state="lost", state_message="It does not answer."
            ),
            "Orchid house sensors (Quillmere Gardens) does not reach what it fetches from: It does not answer.",
        ),
        (refused_some, "refused messages: 3 × another token"),
        (
            lambda bench: Done.objects.update(well=False, said="the disk is full"),
            "backup did not work: the disk is full",
        ),
        (lambda bench: Done.objects.update(good_at=now_ms() - 3 * 86_400_000), "last good backup is too old"),
        (
            lambda bench: Resting.objects.create(
                lane="mail",
                site=GARDENS,
                target="person:7",
                action="mail",
                since=1,
                tries_at=2,
                failures=5,
                answer="gone",
            ),
            "The mail server does not answer since 00:00 UTC: gone",
        ),
        (lambda bench: failed_step(), "1 × webhook to hooks.example did not arrive in the last day: 500"),
    ],
)
def test_what_is_wrong_is_told_with_what_to_do(well, spoil, said):
    spoil(well)
    assert said in words()
    assert all(trouble.do for trouble in troubles_of(measure()))


def bench_message(at):
    from dromikon.intake.inbox import Message

    return Message(at, "http", "garden-gateway", "{}", b"{}")


def failed_step():
    Step.objects.create(
        run="1.x", site=GARDENS, step=0, action="webhook", target="hooks.example", delivery="repeatable", status="failed",
        due=now_ms(), done_at=now_ms(), answer="500",
    )  # fmt: skip


def test_the_page_is_for_administrators_of_the_installation(client, well):
    for user, status in (("ada", 200), ("ines", 403)):
        client.force_login(Person.objects.get(username=user))
        assert client.get("/health").status_code == status
    client.force_login(Person.objects.get(username="ada"))
    page = client.get("/health").content.decode()
    Device.objects.filter(pk="cam-jetty").update(state="lost", message="No answer.")
    assert f'href="/s/{GARDENS}/sources/device/cam-jetty"' in client.get("/health").content.decode()
    assert "everything runs as it should" in page and "Events with their traces" in page


def test_metrics_can_be_read_as_the_format_wants_it(client, well, monkeypatch):
    monkeypatch.setenv("DROMIKON_METRICS", "127.0.0.0/8, 10.1.0.0/16")
    text = client.get("/metrics").content.decode()
    found = {
        (sample.name, *sample.labels.values()): sample.value
        for family in text_string_to_metric_families(text)
        for sample in family.samples
    }
    assert found["dromikon_engine_up",] == 1 and found["dromikon_queue_length", "messages"] == 0
    assert found["dromikon_devices", "online"] == Device.objects.count() and found["dromikon_disk_free_bytes",] > 0
    assert found["dromikon_job_last_success_timestamp_seconds", "backup"] == pytest.approx(now_ms() / 1000, abs=60)


def test_metrics_are_for_allowed_addresses_and_administrators_tokens(client, well, monkeypatch):
    monkeypatch.delenv("DROMIKON_METRICS", raising=False)
    assert client.get("/metrics").status_code == 403
    for user, status in (("ada", 200), ("ines", 403)):
        _, token = make_token(Person.objects.get(username=user), "watch", scope="read")
        answer = client.get("/metrics", headers={"authorization": f"Bearer {token}"})
        assert answer.status_code == status
    monkeypatch.setenv("DROMIKON_METRICS", "10.0.0.0/8")
    assert client.get("/metrics").status_code == 403


# -- the log -----------------------------------------------------------------------------------------------------------


@pytest.fixture
def lines(tmp_path, monkeypatch):
    """What a part would write into its file."""
    monkeypatch.setenv(logs.PART, "engine")
    made = logs.configuration(str(tmp_path))
    handler = logging.handlers.RotatingFileHandler(tmp_path / "engine.log", delay=True)
    formatter = dict(made["formatters"]["json"])
    handler.setFormatter(formatter.pop("()")(**formatter))
    logs.flow.addHandler(handler)
    logs.flow.setLevel(logging.INFO)
    yield lambda: [json.loads(line) for line in (tmp_path / "engine.log").read_text().splitlines()]
    logs.flow.removeHandler(handler)


def test_a_message_has_one_id_from_its_coming_to_the_steps_that_it_set_off(bench, lines):
    from dromikon.engine.effects.base import Sent
    from dromikon.engine.ledger import Outcome, write_group

    number = bench.cross()
    bench.run()
    event, run = EventRow.objects.get(inbox=number), RunRow.objects.get(rule="jetty-closed")
    step = Step.objects.filter(run=run.ref, action="evidence").first()
    (claimed,) = write_group([step.pk], []).values()
    write_group([], [Outcome(step.pk, Sent("done", "sha256 abc"), now_ms(), claimed)])
    told = [line for line in lines() if line["correlation"] == f"m{number}"]
    assert [line["event"] for line in told] == ["run", "step"]
    assert told[0]["rule"] == "jetty-closed" and told[0]["event_number"] == event.seq
    assert (told[1]["run"], told[1]["action"], told[1]["outcome"]) == (run.ref, "evidence", "done")
    assert told[1]["timestamp"].endswith("Z")


def test_each_part_has_a_rotated_file_of_its_own_and_none_is_written_by_what_is_no_part(tmp_path, monkeypatch):
    monkeypatch.setenv(logs.PART, "intake")
    handler = logs.configuration(str(tmp_path))["handlers"]["file"]
    assert handler["filename"].endswith("/intake.log") and handler["backupCount"] == logs.KEPT
    monkeypatch.setenv(logs.PART, "")
    assert "file" not in logs.configuration(str(tmp_path))["handlers"]
