"""The desk: answering alarms, notes and tags, two operators at once."""

import json
from concurrent.futures import ThreadPoolExecutor

import pytest
from django.db import connection

from dromikon.archive.models import Bookmark
from dromikon.archive.services import find_bookmarks, mark
from dromikon.daybook.models import ActRow, Feed
from dromikon.desk.board import load_of
from dromikon.desk.models import Alarm
from dromikon.desk.services import AlreadyAnswered, answer, visible_alarms, waiting
from dromikon.people.access import access
from dromikon.people.models import AuditEntry, Person
from dromikon.refusals import Refused
from tests.conftest import GARDENS

pytestmark = pytest.mark.django_db


@pytest.fixture
def alarm(bench):
    bench.cross()
    bench.run()
    return Alarm.objects.get()


def test_answering_closes_a_momentary_alarm_and_its_bookmark_carries_the_words(bench, alarm, as_):
    answer(as_("oskar"), alarm.pk, "  A visitor, called back. ", ["#Visitor", "jetty", "visitor"])
    alarm.refresh_from_db()
    assert (alarm.state, alarm.note, alarm.tags, alarm.acknowledged_name) == (
        "closed",
        "A visitor, called back.",
        ["jetty", "visitor"],
        "Oskar Lindwater",
    )
    bookmark = Bookmark.objects.get()
    assert (bookmark.note, bookmark.tags) == ("A visitor, called back.", ["jetty", "visitor"])
    entry = AuditEntry.objects.get(verb="acknowledged")
    assert entry.subject == f"alarm:{alarm.pk}" and entry.detail["note"] == "A visitor, called back."
    assert Feed.objects.filter(topic="alarm").last().data["by"] == "Oskar Lindwater"


def test_a_needed_note_is_asked_for_at_its_place_and_nothing_changes(alarm, as_):
    with pytest.raises(Refused) as refused:
        answer(as_("oskar"), alarm.pk, "   ")
    assert refused.value.problems[0].path == "note"
    alarm.refresh_from_db()
    assert (
        alarm.state == "unacknowledged"
        and not AuditEntry.objects.filter(verb="acknowledged").exists()
        and not ActRow.objects.filter(type="acknowledged").exists()
    )


def test_the_second_operator_is_told_who_was_first(alarm, as_):
    answer(as_("oskar"), alarm.pk, "mine")
    with pytest.raises(AlreadyAnswered, match="Oskar Lindwater"):
        answer(as_("opal"), alarm.pk, "mine too")
    alarm.refresh_from_db()
    assert alarm.note == "mine"


@pytest.mark.django_db(transaction=True)
def test_of_many_at_the_same_moment_exactly_one_answers(bench, alarm):
    people = [access(Person.objects.get(username=u), GARDENS) for u in ("oskar", "opal", "dara", "ines")]

    def attempt(found):
        try:
            answer(found, alarm.pk, f"by {found.person.username}")
            return True
        except AlreadyAnswered:
            return False
        finally:
            connection.close()

    with ThreadPoolExecutor(8) as pool:
        results = list(pool.map(attempt, people * 3))
    assert results.count(True) == 1
    assert AuditEntry.objects.filter(verb="acknowledged").count() == 1


def test_the_page_says_the_same_as_the_service(client, alarm):
    client.force_login(Person.objects.get(username="opal"))
    post = lambda **c: client.post(
        f"/api/v1/alarms/{alarm.pk}/acknowledge?site={GARDENS}", json.dumps(c), content_type="application/json"
    )
    assert post(note="").json()["problems"][0]["path"] == "note"
    assert post(note="x", tags="no list").json()["problems"][0]["path"] == "tags"
    assert post(note="x", tags=["a" * 41]).status_code == 422
    assert post(note="seen").status_code == 200
    again = post(note="again")
    assert again.status_code == 409 and "Opal Reywood has already answered" in again.json()["error"]


def test_a_viewer_sees_the_alarm_but_cannot_answer(client, alarm):
    client.force_login(Person.objects.get(username="vera"))
    page = client.get(f"/s/{GARDENS}/desk").content.decode()
    assert "Somebody on the jetty" in page and "data-answer=" not in page
    assert (
        client.post(
            f"/api/v1/alarms/{alarm.pk}/acknowledge?site={GARDENS}", '{"note":"x"}', content_type="application/json"
        ).status_code
        == 403
    )


def test_alarms_go_to_their_recipients_only(bench, as_):
    bench.cross(point="gate-line", at=None)
    bench.run()
    bench.cross()
    bench.run()
    Alarm.objects.update(groups=["operators"], groups_text="|operators|")
    assert [a.rule for a in waiting(as_("oskar"))] == ["jetty-closed"]
    assert list(visible_alarms(as_("dara"))) == [], "the duty manager is not among the operators"
    assert visible_alarms(as_("ines")).count() == visible_alarms(as_("vera")).count() == 1
    with pytest.raises(Alarm.DoesNotExist):
        answer(as_("dara"), Alarm.objects.get().pk, "x")


def test_the_most_urgent_comes_first_and_what_is_answered_last(bench, as_):
    from dromikon.desk.buttons import press

    bench.cross()
    bench.run()
    press(as_("opal"), "gate-help")
    bench.run()
    assert [a.priority for a in waiting(as_("oskar"))] == ["critical", "high"]


def test_the_load_figure_counts_what_was_raised(alarm, as_):
    load = load_of(as_("oskar"))
    assert load["last"] == 1 and load["level"] == "calm" and load["counts"] == [0] * 11 + [1]


def test_an_answer_before_the_bookmark_comes_is_taken_over_by_it(bench, as_):
    from dromikon.authoring.services import save, switch

    document = {
        "name": "Late bookmark",
        "cause": {"cause": "button", "where": {"points": [{"id": "gate-help"}]}},
        "response": [
            {"do": "alarm", "title": "t", "groups": [{"id": "operators"}]},
            {"do": "bookmark", "after": 30, "tags": ["own"]},
        ],
    }
    rule = switch(as_("ines"), save(as_("ines"), document), True)
    bench.run()
    from dromikon.desk.buttons import press

    press(as_("opal"), "gate-help")
    bench.run()
    answer(as_("oskar"), Alarm.objects.get(rule=rule.id).pk, "words", ["asked"])
    bench.engine.clock = lambda: bench.engine.at + 60_000
    bench.run()
    bookmark = Bookmark.objects.get(words__contains="#own")
    assert (bookmark.note, bookmark.tags) == ("words", ["asked", "own"])


@pytest.mark.parametrize(
    ("text", "tag", "count"),
    [
        ("", "", 1),
        ("visitor CALLED", "", 1),
        ("visitor wolf", "", 0),
        ("", "#Jetty", 1),
        ("", "jet", 0),
        ("%", "", 0),
        ("", "jetty.", 0),
    ],
)
def test_bookmarks_are_found_by_words_and_whole_tags(alarm, as_, text, tag, count):
    answer(as_("oskar"), alarm.pk, "Visitor called back")
    assert find_bookmarks(as_("vera"), text, tag).count() == count


def test_a_bookmark_by_hand(as_):
    made = mark(as_("oskar"), "jetty", 1_000, 9_000, " Odd boat ", ["Boat", "boat"])
    assert (made.title, made.tags, made.by.username) == ("Odd boat", ["boat"], "oskar")
    with pytest.raises(Refused):
        mark(as_("oskar"), "jetty", 9_000, 1_000, "x", [])
