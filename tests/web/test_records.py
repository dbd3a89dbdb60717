"""Records: taken up as they come and as they change, found by words and facets by those who may, kept, exported, forgotten."""

import csv
import io
import json
import sqlite3
from contextlib import closing

import pytest

from dromikon.archive.models import Bookmark
from dromikon.clock import now_ms
from dromikon.core.records.entry import Entry
from dromikon.core.records.search import DAY, Search
from dromikon.daybook.models import EventRow, LineRow
from dromikon.desk.models import Alarm
from dromikon.desk.services import answer
from dromikon.keeping.erasing import erase_person
from dromikon.people.access import Everywhere
from dromikon.people.models import Person
from dromikon.records import index, services
from dromikon.records.follow import follow, forget_gone
from dromikon.records.models import KeptSearch
from dromikon.records.services import all_of, drop_search, find, keep_search, kept_by
from dromikon.refusals import Refused
from tests.conftest import GARDENS, NURSERY

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture(autouse=True)
def _own_file(tmp_path, monkeypatch):
    from dromikon import config

    (tmp_path / "own").mkdir()
    monkeypatch.setattr(config, "data", lambda: tmp_path / "own")


@pytest.fixture
def crossed(bench):
    """Somebody has crossed the jetty's line, and an alarm was raised."""
    bench.cross()
    bench.run()
    return Alarm.objects.get()


def titles(page):
    return [row.title for row in page.records if row.title]


def sorts(page):
    return [row.sort for row in page.records]


def test_what_happened_is_found_by_its_words_and_leads_back(crossed, as_):
    page = find(as_("ines"), Search(words="jetty", sort=("event", "alarm", "run")))
    assert set(sorts(page)) == {"event", "alarm", "run"} and page.left == 0
    assert {row.point for row in page.records} == {"jetty-line"} and len({row.seq for row in page.records}) == 1
    event = next(row for row in page.records if row.sort == "event")
    assert event.kind == "scene.line_crossed" and "human" in event.more
    assert find(as_("ines"), Search(words="jetty nowhere")).records == []
    assert find(as_("ines", NURSERY), Search(words="jetty")).records == [], "each site has its own"


def test_an_answer_is_found_by_what_was_said_and_who_said_it(crossed, as_):
    before = find(as_("oskar"), Search(sort=("alarm",)))
    assert before.records[0].outcome == "unacknowledged"
    answer(as_("oskar"), crossed.pk, "A heron, no human being", ("heron",), outcome="false")
    page = find(as_("oskar"), Search(words="heron being", sort=("alarm",)))
    assert [(row.person, row.outcome) for row in page.records] == [(as_("oskar").person.shown_name, "false")]
    assert dict(page.facets["outcome"]) == {"false": 1}
    assert page.records[0].id == before.records[0].id, "it keeps its place"


def test_who_may_not_see_it_does_not_find_it(crossed, as_):
    assert "act" not in sorts(find(as_("oskar"), Search())), "the audit trail is not for operators"
    answer(as_("oskar"), crossed.pk, "seen to")
    assert "act" in sorts(find(as_("dara"), Search()))
    Alarm.objects.update(groups=["nobody"], groups_text="|nobody|")
    with closing(index.connect()) as opened:
        index.empty(opened)
    assert "alarm" not in sorts(find(as_("oskar"), Search())) and "alarm" in sorts(find(as_("ines"), Search()))


def test_pages_follow_each_other_without_gaps_either_way(bench, as_):
    for i in range(23):
        bench.cross(at=now_ms() - 1_000 + i // 3, confidence=50.0 + i)
    bench.run()
    search = Search(sort=("event",))
    for order in ("newest", "oldest"):
        wanted = search.model_copy(update={"order": order})
        seen, beyond = [], None
        while True:
            page = find(as_("ines"), wanted, 5, beyond)
            seen += [row.id for row in page.records]
            beyond = page.beyond
            if beyond is None:
                break
        assert len(seen) == 23 and seen == sorted(seen, reverse=order == "newest")
    assert find(as_("ines"), search).count == 23


def test_facets_count_what_would_be_found(bench, as_):
    for cls in ("human", "human", "vehicle"):
        bench.cross(**{"class": cls})
    bench.http(kind="button.pressed", point="gate-help", phase="pulse", fields={})
    bench.run()
    search = Search(sort=("event",))
    page = find(as_("ines"), search)
    assert dict(page.facets["kind"]) == {"scene.line_crossed": 3, "button.pressed": 1}
    chosen = find(as_("ines"), search.toggled("kind", "button.pressed"))
    assert sorts(chosen) == ["event"] and dict(chosen.facets["kind"]) == dict(page.facets["kind"])
    assert dict(chosen.facets["point"]) == {"gate-help": 1}
    both = search.toggled("kind", "button.pressed").toggled("kind", "scene.line_crossed")
    assert find(as_("ines"), both).count == 4
    assert find(as_("ines"), both.model_copy(update={"words": "vehicle"})).count == 1


def test_a_range_in_time_is_kept_to(bench, as_):
    start = now_ms() - 60_000
    LineRow.objects.bulk_create(LineRow(site=GARDENS, at=start + i * 1_000, text=f"line {i}") for i in range(10))
    page = find(as_("ines"), Search(start=start + 3_000, end=start + 6_000, order="oldest"))
    assert titles(page) == ["line 3", "line 4", "line 5"]
    assert find(as_("ines"), Search(words="line", start=start + 3_000, end=start + 6_000)).count == 3
    assert find(as_("ines"), Search(last=DAY, sort=("line",))).count == 10


def test_what_is_changed_or_gone_is_so_in_the_records(bench, as_):
    made = Bookmark(site_id=GARDENS, camera="jetty", start=1, end=2, zero=now_ms(), title="A swan", made_at=now_ms())
    made.save()
    LineRow.objects.create(site=GARDENS, at=now_ms() - 5_000, text="a line of old")
    assert find(as_("ines"), Search(words="swan")).count == 1
    LineRow.objects.all().delete()
    assert sum(forget_gone(now_ms())) == 1
    assert titles(find(as_("ines"), Search(sort=("line", "bookmark")))) == ["A swan"]


def test_following_goes_on_where_it_was_left(bench, as_, monkeypatch):
    from dromikon.records import follow as following

    LineRow.objects.bulk_create(LineRow(site=GARDENS, at=now_ms(), text=f"line {i}") for i in range(25))
    monkeypatch.setattr(following, "PORTION", 10)
    assert follow(0.0) > 0
    page = services.find(as_("ines"), Search(sort=("line",)))
    assert page.count == 25 and follow() == 0
    assert find(as_("ines"), Search(sort=("line",))).count == 25, "nothing twice"


def test_records_of_one_millisecond_each_have_a_place(tmp_path):
    with closing(index.connect()) as opened, index.writing(opened):
        index.put(
            opened, [Entry(GARDENS, "line", str(i), 1_000, title="x").found_by() for i in range(index.A_MOMENT + 2)]
        )
        ids = [id for (id,) in opened.execute("SELECT id FROM record ORDER BY id")]
    assert len(ids) == index.A_MOMENT + 2 and index.at_of(ids[0]) == 1_000 and index.at_of(ids[-1]) == 1_001


def test_who_is_erased_is_found_no_more(crossed, as_):
    person = as_("oskar").person
    answer(as_("oskar"), crossed.pk, "seen to")
    name = person.shown_name
    assert find(as_("ines"), Search(words=name)).count > 0
    erase_person(Everywhere(Person.objects.get(username="ada")), person)
    assert find(as_("ines"), Search(words=name)).records == []
    assert find(as_("ines"), Search(words="seen to")).count > 0, "what happened stays"


def test_an_index_that_is_broken_is_made_anew(crossed, as_, tmp_path):
    assert find(as_("ines"), Search(words="jetty")).count > 0
    broken = tmp_path / "own" / index.FILE
    for beside in ("-wal", "-shm"):
        broken.with_name(broken.name + beside).unlink(missing_ok=True)
    broken.write_bytes(b"this is no database, whatever it is called" * 50)
    assert find(as_("ines"), Search(words="jetty")).count > 0


def test_an_index_that_cannot_be_read_says_so(as_, monkeypatch):
    def locked(*_):
        raise sqlite3.OperationalError("database is locked")

    monkeypatch.setattr(services, "follow", locked)
    with pytest.raises(Refused, match="cannot be read just now: database is locked"):
        find(as_("ines"), Search())


def test_searches_are_kept_for_oneself_or_everybody(as_):
    search = Search(words="vault", sort=("alarm",)).model_dump(mode="json")
    keep_search(as_("oskar"), "  Vault  alarms ", search)
    keep_search(as_("ines"), "Vault", search, everybody=True)
    assert [one.name for one in kept_by(as_("oskar"))] == ["Vault", "Vault alarms"]
    assert [one.name for one in kept_by(as_("vera"))] == ["Vault"]
    with pytest.raises(KeptSearch.DoesNotExist):
        drop_search(as_("vera"), KeptSearch.objects.get(name="Vault alarms").pk)
    for name, content in (("", search), ("x", {"words": 1, "colour": "red"})):
        with pytest.raises(Refused):
            keep_search(as_("oskar"), name, content)
    drop_search(as_("ines"), KeptSearch.objects.get(name="Vault").pk)
    assert kept_by(as_("vera")) == []


def test_the_page_shows_rows_that_lead_on_and_keeps_what_was_asked(crossed, client):
    client.login(username="ines", password="quillmere-demo")
    page = client.get(f"/s/{GARDENS}/records?words=jetty&sort=event").content.decode()
    assert 'data-record="event-' in page and "/archive?camera=jetty&amp;at=" in page and "open=event-" in page
    assert 'name="sort" value="event"' in page and "?words=jetty" in page
    empty = client.get(f"/s/{GARDENS}/records?words=zzz").content.decode()
    assert "Nothing fits" in empty
    wrong = client.get(f"/s/{GARDENS}/records?sort=rumour")
    assert wrong.status_code == 200 and b"no records of the sort rumour" in wrong.content
    client.login(username="oskar", password="quillmere-demo")
    page = client.get(f"/s/{GARDENS}/records?sort=alarm").content.decode()
    assert f"/moment/{crossed.run}" in page


def test_over_the_api_they_are_paged_and_taken_away(crossed, client):
    client.login(username="ines", password="quillmere-demo")
    ask = lambda more, path="": client.get(f"/api/v1/records{path}?site={GARDENS}&{more}")
    first = ask("limit=1&sort=event&sort=alarm").json()
    second = ask(f"limit=1&sort=event&sort=alarm&beyond={first['beyond']}").json()
    assert {first["records"][0]["sort"], second["records"][0]["sort"]} == {"event", "alarm"} and second[
        "beyond"
    ] is None
    table = list(csv.reader(io.StringIO(ask("form=csv&sort=event&words=jetty", "/file").content.decode())))
    assert table[0][1] == "What" and table[1][1] == "Event" and table[1][5]
    assert ask("form=xlsx", "/file").content[:2] == b"PK"
    assert json.loads(ask("form=json&sort=alarm", "/file").content)[0]["sort"] == "alarm"
    assert ask("colour=red").status_code == 422 and ask("last=soon").status_code == 422
    kept = client.put(
        f"/api/v1/records/searches?site={GARDENS}", json.dumps({"name": "Jetty", "document": {"words": "jetty"}}),
        content_type="application/json",
    ).json()  # fmt: skip
    assert client.delete(f"/api/v1/records/searches/{kept['id']}?site={GARDENS}").status_code == 204
    assert client.delete(f"/api/v1/records/searches/{kept['id']}?site={GARDENS}").status_code == 404


def test_all_of_a_search_is_read_on_to_its_end(bench, as_, monkeypatch):
    monkeypatch.setattr(services, "PORTION", 4)
    LineRow.objects.bulk_create(LineRow(site=GARDENS, at=now_ms(), text=f"line {i}") for i in range(11))
    search = Search(sort=("line",))
    assert len(list(all_of(as_("ines"), search))) == 11 and len(list(all_of(as_("ines"), search, most=6))) == 6


def test_a_state_that_was_only_learned_did_not_happen(bench, as_):
    EventRow.objects.create(
        seq=900, site=GARDENS, kind="door.forced", point="jetty-line", phase="begin", at=now_ms(), occurred_at=now_ms(),
        received_at=now_ms(), initial=True,
    )  # fmt: skip
    assert find(as_("ines"), Search(sort=("event",))).records == []
