"""Backups: made while everything runs, verified, restored into an empty folder, upgraded from every release."""

import os
import shutil
import sqlite3
import subprocess
import sys
import threading
import time
from contextlib import closing
from pathlib import Path

import pytest

from dromikon import config, start
from dromikon.backup import make, restore
from dromikon.backup.packing import BackupUnusable, verify
from dromikon.backup.snapshot import snapshot
from dromikon.backup.upgrade import known_upgrades, later_ones
from dromikon.installation.settings import keep_setting
from dromikon.keeping.backups import BackupPlan, back_up
from dromikon.keeping.jobs import Job
from dromikon.keeping.main import do, due
from dromikon.people.access import Everywhere

pytestmark = [pytest.mark.django_db, pytest.mark.present]

RELEASES = sorted((Path(__file__).parents[1] / "releases").glob("*.dromikon"))


@pytest.fixture
def folder(tmp_path, monkeypatch):
    """A data folder with two small databases and a still."""
    monkeypatch.setenv("DROMIKON_DATA", str(tmp_path / "data"))
    with closing(sqlite3.connect(config.database_path())) as database, database:
        database.execute("CREATE TABLE django_migrations (id INTEGER PRIMARY KEY, app, name)")
        database.execute("INSERT INTO django_migrations VALUES (1, 'sites', '0001_initial')")
        database.execute("CREATE TABLE django_session (session_key)")
        database.execute("INSERT INTO django_session VALUES ('somebody')")
        database.execute("CREATE TABLE desk_evidence (file TEXT)")
        database.execute("CREATE TABLE archive_snapshot (file TEXT)")
        database.execute("INSERT INTO desk_evidence VALUES ('7/1.jpg'), ('')")
        database.execute("CREATE TABLE cases_piece (case_id, file, original)")
        database.execute("INSERT INTO cases_piece VALUES (3, '1-hidden.webm', '1.webm'), (3, '', '')")
        database.execute("CREATE TABLE daybook_step (id, status, delivery, release, action, done_at, answer)")
        for row in STEPS:
            database.execute("INSERT INTO daybook_step VALUES (?, ?, ?, ?, ?, NULL, '')", row)
        database.execute("CREATE TABLE filling (content)")
        database.execute("INSERT INTO filling VALUES (randomblob(400000))")
    with closing(sqlite3.connect(config.inbox_path())) as inbox, inbox:
        inbox.execute("CREATE TABLE message (id INTEGER PRIMARY KEY)")
    for name in ("evidence/7/1.jpg", "cases/3/1.webm", "cases/3/1-hidden.webm"):
        kept = config.data() / name
        kept.parent.mkdir(parents=True, exist_ok=True)
        kept.write_bytes(b"a picture")
    start.keep_key_mark()
    return tmp_path


#: id, status, delivery, release, action; and what becomes of it.
STEPS = (
    ("door", "due", "once_only", False, "relay"),
    ("half-sent", "sending", "once_only", False, "relay"),
    ("mail", "due", "repeatable", False, "webhook"),
    ("light-off", "due", "repeatable", True, "relay"),
    ("still", "due", "repeatable", False, "evidence"),
    ("done", "done", "once_only", False, "relay"),
)
BECOMES = {
    "door": "expired", "half-sent": "unconfirmed", "mail": "expired", "light-off": "due", "still": "due", "done": "done",
}  # fmt: skip


def into(monkeypatch, tmp_path, name="empty"):
    monkeypatch.setenv("DROMIKON_DATA", str(tmp_path / name))
    config.data()


def test_what_goes_in_comes_out_and_nothing_old_is_carried_out(folder, monkeypatch):
    made = make.make_backup()
    into(monkeypatch, folder)
    assert restore.restore(made).files.keys() == {
        "dromikon.sqlite3", "inbox.sqlite3", "evidence/7/1.jpg", "cases/3/1.webm", "cases/3/1-hidden.webm",
    }  # fmt: skip
    assert (config.data() / "evidence/7/1.jpg").read_bytes() == b"a picture" and start.key_fits()
    with closing(sqlite3.connect(config.database_path())) as database:
        assert dict(database.execute("SELECT id, status FROM daybook_step")) == BECOMES
        assert database.execute("SELECT COUNT(*) FROM django_session").fetchone() == (0,)
    assert not list(config.data().glob(".restoring-*")) and not list(made.parent.glob(".backup-*"))
    with pytest.raises(BackupUnusable, match="has an installation in it"):
        restore.restore(made)


@pytest.mark.parametrize("share", [0.1, 0.6, 0.98, 0.9999])
def test_one_that_was_cut_short_is_refused_and_the_folder_stays_empty(folder, monkeypatch, share):
    made = make.make_backup()
    whole = made.read_bytes()
    made.write_bytes(whole[: int(len(whole) * share)])
    into(monkeypatch, folder)
    with pytest.raises(BackupUnusable, match="cut short"):
        restore.restore(made)
    assert not list(config.data().iterdir())


def test_one_that_was_changed_is_refused(folder, monkeypatch):
    monkeypatch.setattr(make, "verify", lambda path: None)
    real = make._files

    def changed(*args):
        yield from real(*args)
        yield "evidence/9/extra.jpg", Path(__file__)

    monkeypatch.setattr(make, "_files", changed)
    made = make.make_backup()
    manifest = verify(made)
    manifest.files.pop("evidence/9/extra.jpg")
    monkeypatch.setattr("dromikon.backup.packing._read_manifest", lambda content: manifest)
    with pytest.raises(BackupUnusable, match="extra.jpg differs"):
        verify(made)


@pytest.mark.parametrize("name", ["../outside", "evidence/../../x", "secret.key", "evidence/a/b/c.jpg", "/etc/passwd"])
def test_nothing_leaves_the_folder_by_its_name(folder, monkeypatch, name):
    monkeypatch.setattr(make, "verify", lambda path: None)
    monkeypatch.setattr(make, "_files", lambda *_: iter([(name, Path(__file__))]))
    made = make.make_backup()
    into(monkeypatch, folder)
    with pytest.raises(BackupUnusable, match="something that no backup has"):
        restore.restore(made)
    assert not list(config.data().iterdir())


def test_one_with_another_key_is_refused_unless_that_is_said(folder, monkeypatch):
    made = make.make_backup()
    into(monkeypatch, folder)
    monkeypatch.setattr(start, "key_mark", lambda: "another")
    with pytest.raises(BackupUnusable, match="another key") as error:
        restore.restore(made)
    assert "--other-key" in str(error.value) and not list(config.data().iterdir())
    restore.restore(made, other_key=True)
    assert start.key_fits(), "the folder belongs to this key from now on"


def test_one_of_a_later_release_is_refused(folder, monkeypatch):
    with closing(sqlite3.connect(config.database_path())) as database, database:
        database.execute("INSERT INTO django_migrations VALUES (2, 'sites', '9999_from_the_future')")
    made = make.make_backup()
    into(monkeypatch, folder)
    with pytest.raises(BackupUnusable, match="later release"):
        restore.restore(made)
    assert later_ones(["gone_app.0001_initial", *sorted(known_upgrades())]) == []


def test_a_copy_is_of_one_instant_though_it_is_written_to(tmp_path):
    source = tmp_path / "busy.sqlite3"
    with closing(sqlite3.connect(source)) as database:
        database.execute("PRAGMA journal_mode=WAL")
        database.execute("CREATE TABLE pair (a INTEGER, b INTEGER, filling)")
        database.execute("INSERT INTO pair VALUES (0, 0, zeroblob(8000000))")
        database.commit()
    stop = threading.Event()

    def write() -> None:
        with closing(sqlite3.connect(source, timeout=10)) as database:
            while not stop.is_set():
                with database:
                    database.execute("INSERT INTO pair SELECT MAX(a) + 1, MAX(a) + 1, zeroblob(1000) FROM pair")

    writer = threading.Thread(target=write)
    writer.start()
    try:
        snapshot(source, tmp_path / "copy.sqlite3")
    finally:
        stop.set()
        writer.join()
    with closing(sqlite3.connect(tmp_path / "copy.sqlite3")) as copy:
        most, wrong = copy.execute("SELECT MAX(a), SUM(a != b) FROM pair").fetchone()
    with closing(sqlite3.connect(source)) as database:
        assert database.execute("SELECT MAX(a) FROM pair").fetchone()[0] > most and wrong == 0


def test_a_full_disk_is_told_in_words_and_leaves_nothing_behind(folder, monkeypatch):
    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(make, "pack", full)
    with pytest.raises(BackupUnusable, match="the disk is full"):
        make.make_backup()
    assert list(make.folder().iterdir()) == []


def test_as_many_as_planned_are_kept_and_those_of_other_reasons_left_alone(folder, monkeypatch):
    keep_setting(Everywhere(None), BackupPlan(keep=2))
    other = make.make_backup(why="by-hand")
    names = []
    for second in range(4):
        monkeypatch.setattr(make, "now_ms", lambda second=second: 1_795_000_000_000 + second * 1000)
        names.append(back_up().split(",")[0])
    assert sorted(p.name for p in make.folder().glob("*-planned*")) == names[2:] and other.exists()


def test_a_job_that_fails_is_told_and_tried_again_sooner(folder):
    def fails():
        raise BackupUnusable("no room")

    job = Job("backup", lambda: 3_600_000, fails, again=60_000)
    kept = do(job)
    assert (kept.well, kept.said, kept.good_at) == (False, "no room", None)
    assert not due(job, 0, kept.began_at + 59_000) and due(job, 0, kept.began_at + 60_000)
    assert not due(Job("backup", lambda: None, fails), 0, kept.began_at + 10**9), "one that is switched off"
    assert due(Job("new", lambda: 10**9, fails), 0, 120_000) and not due(Job("new", lambda: 10**9, fails), 0, 119_000)


# -- the command line --------------------------------------------------------------------------------------------------


def dromikon(folder, *words, key=None, **more):
    environment = {**os.environ, "DROMIKON_DATA": str(folder), "DROMIKON_KEY_FILE": str(key or folder.parent / "key")}
    environment.pop("DROMIKON_DEV", None)
    command = [sys.executable, "-m", "dromikon", *words]
    return subprocess.run(command, env={**environment, **more}, capture_output=True, text=True, timeout=60)


@pytest.mark.parametrize("backup", RELEASES, ids=lambda path: path.stem)
def test_a_backup_of_every_release_is_restored_upgraded_and_sound(tmp_path, backup):
    key = shutil.copy(backup.with_suffix(".key"), tmp_path / "key")
    data = tmp_path / "data"
    assert "restored" in dromikon(data, "restore", str(backup), key=key).stdout
    refused = dromikon(data, "check", key=key)
    assert refused.returncode == 78 and "`dromikon migrate` upgrades it" in refused.stderr
    upgraded = dromikon(data, "migrate", key=key)
    assert upgraded.returncode == 0 and "of this release now" in upgraded.stdout, upgraded.stderr
    assert len(list((data / "backups").glob("*-before-upgrade.dromikon"))) == 1
    checked = dromikon(data, "check", key=key)
    assert checked.returncode == 0, checked.stdout + checked.stderr
    assert "all open with it" in dromikon(data, "keys", key=key).stdout
    with closing(sqlite3.connect(data / "dromikon.sqlite3")) as database:
        assert database.execute("SELECT COUNT(*) FROM desk_alarm").fetchone() == (1,)
        assert database.execute("SELECT username FROM people_person WHERE is_superuser").fetchall() == [("ada",)]
    assert dromikon(tmp_path / "new", "migrate", key=key).returncode == 0
    assert tables_of(data) == tables_of(tmp_path / "new"), "upgrades lead to what a new installation begins with"


def tables_of(folder):
    """Columns and indexes by table, whatever their order and the indexes' names."""
    with closing(sqlite3.connect(folder / "dromikon.sqlite3")) as database:
        names = [name for (name,) in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        columns = {n: sorted(row[1:4] for row in database.execute(f"PRAGMA table_info({n})")) for n in names}
        indexes = {
            n: sorted(
                (unique, partial, [row[2] for row in database.execute(f"PRAGMA index_info('{index}')")])
                for _, index, unique, _, partial in database.execute(f"PRAGMA index_list({n})")
            )
            for n in names
        }
    return columns, indexes


def test_a_folder_of_a_later_release_and_what_else_cannot_be_is_one_clear_line(tmp_path):
    data = tmp_path / "data"
    assert dromikon(data, "migrate").returncode == 0
    made = dromikon(data, "backup", str(tmp_path / "one.dromikon"))
    assert made.returncode == 0 and "verified" in made.stdout
    again = dromikon(data, "backup", str(tmp_path / "one.dromikon"))
    assert (again.returncode, again.stderr.strip()) == (1, f"{tmp_path / 'one.dromikon'} is there already.")
    nothing = dromikon(tmp_path / "other", "restore", "nowhere.dromikon")
    assert (nothing.returncode, nothing.stderr.strip()) == (1, "There is no file nowhere.dromikon.")
    with closing(sqlite3.connect(data / "dromikon.sqlite3")) as database, database:
        database.execute(
            "INSERT INTO django_migrations (app, name, applied) VALUES ('sites', '9999_later', '2030-01-01')"
        )
    for words in (["start"], ["backup"]):
        said = dromikon(data, *words)
        lines = said.stderr.strip().splitlines()
        assert said.returncode == 78 and len(lines) == 1 and "is of a later release (sites.9999_later)" in lines[0]


def test_persons_are_made_and_given_passwords_on_the_command_line():
    from click.testing import CliRunner

    from dromikon.commands import dromikon as command
    from dromikon.people.models import Person

    def say(*words):
        return CliRunner().invoke(command, ["person", *words])

    create = ("create", "greta", "--name", "Greta Moorcombe", "--administrator", "--password")
    short = say(*create, "short")
    assert short.exit_code == 1 and "at least 10 characters" in short.stderr and not Person.objects.exists()
    assert say(*create, "heather and peat").stdout == "greta can log in.\n"
    assert "already" in say(*create, "heather and peat").stderr
    assert say("password", "greta", "--password", "another long one").exit_code == 0
    assert Person.objects.get().check_password("another long one") and Person.objects.get().is_superuser
    assert "nobody called" in say("password", "mallory", "--password", "x" * 12).stderr


def test_it_starts_tells_the_code_and_stops_within_ten_seconds(tmp_path):
    from tools.ports import free_ports

    web, intake = free_ports(2)
    ports = {"DROMIKON_PORT": str(web), "DROMIKON_INTAKE_PORT": str(intake)}
    environment = {
        **os.environ, **ports, "DROMIKON_DATA": str(tmp_path / "data"), "DROMIKON_KEY_FILE": str(tmp_path / "key"),
    }  # fmt: skip
    command = [sys.executable, "-m", "dromikon", "start"]
    with subprocess.Popen(
        command, env=environment, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
    ) as running:
        try:
            said = "".join(running.stdout.readline() for _ in range(4))
            assert "begin with this code: " in said
            second = dromikon(tmp_path / "data", "start", key=tmp_path / "key", **ports)
            assert second.returncode == 78 and second.stderr.count("\n") == 1 and "another Dromikon" in second.stderr
            elsewhere = dromikon(tmp_path / "elsewhere", "start", **ports)
            assert elsewhere.returncode == 78 and f"port {web}" in elsewhere.stderr or "is in use" in elsewhere.stderr
        finally:
            began = time.monotonic()
            running.terminate()
            assert running.wait(12) == 0 and time.monotonic() - began < 10
        assert "Traceback" not in running.stderr.read()
