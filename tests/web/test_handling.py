"""What is done with alarms: taken on, shelved and back, answered one by one or together; and all of it told afterwards."""

import json

import pytest
from django.core.exceptions import PermissionDenied

from dromikon.authoring.services import save
from dromikon.clock import now_ms
from dromikon.daybook.models import Feed
from dromikon.desk.handling import history_of, leave, put_on_shelf, shelved, take_off_shelf, take_on
from dromikon.desk.models import Alarm, AlarmAct
from dromikon.desk.services import Answer, answer, answer_several, waiting
from dromikon.keeping.erasing import erase_person
from dromikon.people.access import Everywhere
from dromikon.people.models import AuditEntry, Person
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule
from tests.conftest import GARDENS

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]


@pytest.fixture
def alarm(bench):
    """Somebody on the jetty; nobody has answered."""
    bench.cross()
    bench.run()
    return Alarm.objects.get()


def again(alarm):
    return Alarm.objects.get(pk=alarm.pk)


def test_one_operator_takes_it_and_the_other_sees_whose_it_is(alarm, as_):
    taken = take_on(as_("oskar"), alarm.pk)
    assert (taken.taken_name, taken.state) == ("Oskar Lindwater", "unacknowledged")
    with pytest.raises(Refused, match="Somebody else deals with it"):
        take_on(as_("opal"), alarm.pk)
    with pytest.raises(Refused, match="You do not deal"):
        leave(as_("opal"), alarm.pk)
    assert take_on(as_("opal"), alarm.pk, over_from=True).taken_name == "Opal Reywood"
    assert leave(as_("opal"), alarm.pk).taken_name == ""
    assert [a.act for a in AlarmAct.objects.all()] == ["taken", "taken", "left"]
    with pytest.raises(PermissionDenied):
        take_on(as_("vera"), alarm.pk)


def test_a_shelved_alarm_is_away_and_comes_back_by_itself_with_its_sound(bench, alarm, as_):
    for why, minutes, words in (("", 15, "Say why"), ("x" * 301, 15, "at most 300"), ("painting", 0, "twelve hours"), ("painting", 800, "twelve hours")):  # fmt: skip
        with pytest.raises(Refused, match=words):
            put_on_shelf(as_("oskar"), alarm.pk, minutes, why)
    put_on_shelf(as_("oskar"), alarm.pk, 15, "The jetty is being painted.")
    assert waiting(as_("opal")) == [] and [a.pk for a in shelved(as_("opal"))] == [alarm.pk]
    bench.engine.clock = lambda: now_ms() + 14 * 60_000
    bench.engine.beat()
    assert again(alarm).state == "shelved"
    Feed.objects.all().delete()
    bench.engine.clock = lambda: now_ms() + 16 * 60_000
    bench.engine.beat()
    assert again(alarm).state == "unacknowledged" and [a.pk for a in waiting(as_("opal"))] == [alarm.pk]
    [told] = [f.data for f in Feed.objects.filter(topic="alarm")]
    assert (told["state"], told["sound"]) == ("unacknowledged", "call")
    bench.engine.beat()
    assert AlarmAct.objects.filter(act="back").count() == 1, "it comes back once"


def test_a_shelved_alarm_is_had_back_or_answered(alarm, as_):
    put_on_shelf(as_("oskar"), alarm.pk, 60, "known")
    assert take_off_shelf(as_("opal"), alarm.pk).state == "unacknowledged"
    with pytest.raises(Refused, match="on no shelf"):
        take_off_shelf(as_("opal"), alarm.pk)
    put_on_shelf(as_("oskar"), alarm.pk, 60, "known")
    assert answer(as_("opal"), alarm.pk, "painters").state == "closed"
    with pytest.raises(Refused, match="already been answered"):
        put_on_shelf(as_("oskar"), alarm.pk, 60, "again")


def test_its_history_is_complete_and_in_order(alarm, as_):
    take_on(as_("oskar"), alarm.pk)
    put_on_shelf(as_("oskar"), alarm.pk, 60, "known")
    take_off_shelf(as_("opal"), alarm.pk)
    answer(as_("oskar"), alarm.pk, "A walker.", ["stray"], outcome="real")
    lines = history_of(again(alarm))
    assert [(x.words, x.name) for x in lines] == [
        ("raised", ""), ("taken on", "Oskar Lindwater"), ("shelved", "Oskar Lindwater"),
        ("taken off the shelf", "Opal Reywood"), ("answered", "Oskar Lindwater"),
    ]  # fmt: skip
    assert lines[2].why == "known" and lines[2].until and lines[4].why == "A walker."
    verbs = list(AuditEntry.objects.filter(subject=f"alarm:{alarm.pk}").order_by("id").values_list("verb", flat=True))
    assert verbs == ["taken alarm", "shelved alarm", "unshelved alarm", "acknowledged"]


def test_an_outcome_is_asked_for_where_the_rule_wants_it(bench, as_):
    rule = Rule.objects.get(id="jetty-closed")
    first, *rest = rule.document["response"]
    save(as_("ines"), {**rule.document, "response": [{**first, "outcome_required": True}, *rest]}, rule)
    bench.run()
    bench.cross()
    bench.run()
    waits = Alarm.objects.get()
    with pytest.raises(Refused, match="real, false, a test"):
        answer(as_("oskar"), waits.pk, "x")
    with pytest.raises(Refused, match="An outcome is one of"):
        answer(as_("oskar"), waits.pk, "x", outcome="perhaps")
    assert answer(as_("oskar"), waits.pk, "x", outcome="own").outcome == "own"


def test_several_are_answered_alike_but_for_those_that_want_to_be_answered_by_themselves(bench, as_, client):
    for point in ("jetty-line", "gate-line"):
        bench.cross(point)
    bench.run()
    alarms = list(Alarm.objects.all())
    assert alarms
    Alarm.objects.filter(pk=alarms[0].pk).update(alone=True)
    ids = [a.pk for a in alarms]
    done, refused = answer_several(as_("oskar"), [*ids, 999_999], Answer.of("Seen to.", ["round"], "real"))
    assert done == ids[1:] and refused == {
        ids[0]: "This alarm is answered by itself.",
        999_999: "There is no such alarm.",
    }
    client.force_login(as_("oskar").person)
    told = {"alarms": ids, "note": "Again."}
    found = client.post(
        f"/api/v1/alarms/acknowledge?site={GARDENS}", json.dumps(told), content_type="application/json"
    ).json()
    assert set(found["refused"]) == {str(id) for id in ids}
    with pytest.raises(PermissionDenied):
        answer_several(as_("vera"), ids, Answer())


def test_the_desk_shows_the_shelf_and_whose_an_alarm_is(alarm, as_, client):
    client.force_login(as_("oskar").person)
    take_on(as_("opal"), alarm.pk)
    card = client.get(f"/s/{GARDENS}/desk/alarm/{alarm.pk}").content.decode()
    assert "Opal Reywood deals with it" in card and f'data-taken="{as_("opal").person.pk}"' in card
    assert "What happened to it" in card and "taken on" in card
    put_on_shelf(as_("oskar"), alarm.pk, 60, "Painters")
    away = client.get(f"/s/{GARDENS}/desk/alarm/{alarm.pk}").content.decode()
    assert "has shelved it until" in away and "data-unshelve" in away and "data-answer" not in away
    page = client.get(f"/s/{GARDENS}/desk").content.decode()
    assert "1 alarm on the shelf" in page and "Painters" in page and f'data-alarm="{alarm.pk}"' not in page
    history = client.get(f"/api/v1/alarms/{alarm.pk}/history?site={GARDENS}").json()
    assert [h["words"] for h in history] == ["raised", "taken on", "shelved"] and history[2]["until"]


def test_whoever_is_erased_is_erased_from_what_they_did_with_alarms(alarm, as_):
    take_on(as_("opal"), alarm.pk)
    put_on_shelf(as_("opal"), alarm.pk, 60, "Opal Reywood knows why")
    erase_person(Everywhere(Person.objects.get(username="ada")), as_("opal").person)
    left = again(alarm)
    told = json.dumps(
        [left.taken_name, left.shelved_name, left.shelved_why, *AlarmAct.objects.values_list("name", "why")]
    )
    assert "Reywood" not in told
