"""What follows as journal entries of its own: times, modes, counters, derived events; and what hold-offs make of
repeats. Each is evaluated once, and a rehearsal finds it as it was."""

import pytest

from dromikon.authoring.replay import entries
from dromikon.authoring.services import save, switch
from dromikon.clock import now_ms
from dromikon.core.rules.rehearse import Stage, rehearse
from dromikon.daybook.models import EventRow, Journal, LineRow, RunRow, Step, VerdictRow
from dromikon.desk.models import Alarm, Notice
from dromikon.desk.services import answer
from dromikon.engine.engine import Engine
from dromikon.rulebook.models import Rule
from dromikon.situation import set_counter, set_mode, situation_of
from tests.conftest import GARDENS

pytestmark = pytest.mark.django_db

CROSSED = {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": {"points": [{"id": "gate-line"}]}}
RAISED = {"cause": "event", "kind": "rule.raised", "phase": "pulse", "where": {"points": [{"id": "gate-line"}]}}


@pytest.fixture
def rule(as_, bench):
    """`rule(cause, *steps, **parts)`: such a rule, live."""

    def make(cause, *steps, name="R", **parts):
        made = save(as_("ines"), {"name": name, "cause": cause, "response": list(steps), **parts})
        switch(as_("ines"), made, True)
        bench.run()
        return made

    return make


def again(site=GARDENS):
    """Every run of the site as a rehearsal makes it from the journal alone."""
    kinds, points = {"scene.line_crossed", "rule.raised"}, {"gate-line"}
    (result,) = rehearse(entries(site, 0, now_ms() + 1000, kinds, points), [Stage(None, 0, now_ms() + 1000)])
    return [r.ref for r in result.runs]


def test_a_mode_set_by_a_rule_is_seen_by_the_next_event_and_by_a_rehearsal(bench, rule):
    closed = {"test": "mode", "modes": ["closed"]}
    only = rule(CROSSED, {"do": "line", "text": "closed"}, provided=closed)
    rule(CROSSED, {"do": "mode", "mode": "closed"}, name="Close")
    for _ in range(2):
        bench.cross(point="gate-line")
        bench.run()
    assert list(VerdictRow.objects.filter(rule=only.id).values_list("outcome", flat=True)) == ["not_provided", "fired"]
    assert situation_of(Rule.objects.get(pk=only.pk).site)["mode"] == "closed"
    refs = list(RunRow.objects.filter(point="gate-line").order_by("id").values_list("ref", flat=True))
    assert [r for r in again() if r in refs] == refs


def test_modes_and_counters_set_by_hand(bench, as_):
    set_mode(as_("dara"), "works")
    set_counter(as_("dara"), "deliveries", 7)
    bench.run()
    now = situation_of(as_("dara").site)
    assert now["mode"] == "works" and now["counters"][0] == {
        "id": "deliveries",
        "name": "Deliveries today",
        "room": 0,
        "value": 7,
    }
    assert {j.body["act"] for j in Journal.objects.filter(type="act")} == {"mode", "counter"}


def test_a_counter_counts_and_never_goes_below_zero(bench, rule):
    up = {"do": "counter", "counter": {"id": "deliveries"}}
    rule(CROSSED, {**up, "by": 2})
    rule(
        CROSSED,
        {**up, "change": "down", "by": 5, "after": 0},
        name="Down",
        provided={"test": "field", "field": "class", "op": "is", "value": "animal"},
    )
    values = []
    for class_ in ("human", "human", "animal"):
        bench.cross(point="gate-line", **{"class": class_})
        bench.run()
        values.append(situation_of(Rule.objects.first().site)["counters"][0]["value"])
    assert values == [2, 4, 1]


def test_a_derived_event_sets_other_rules_off_with_its_chain(bench, rule):
    first = rule(CROSSED, {"do": "derive", "name": "seen", "text": "{class}"})
    second = rule(RAISED, {"do": "line", "text": "{name}: {text}"}, {"do": "derive", "name": "more"}, name="Second")
    bench.cross(point="gate-line")
    bench.run()
    assert LineRow.objects.get().text == "seen: human"
    chains = list(EventRow.objects.filter(kind="rule.raised").order_by("seq").values_list("chain", flat=True))
    assert chains == [[first.id], [first.id, second.id]]
    outcomes = list(VerdictRow.objects.filter(rule=second.id).order_by("id").values_list("outcome", flat=True))
    assert outcomes == ["fired", "circular"], "it was about its own event, and stopped"
    assert len(set(again())) == len(again())


def test_a_time_makes_an_event_of_the_site_once_also_over_a_restart(bench, rule):
    start = now_ms()
    made = rule({"cause": "at", "time": "12:00"}, {"do": "line", "text": "noon {time}"})
    later = start
    engine = Engine(clock=lambda: later)
    engine.load()
    for day in (1, 1, 2):
        later = start + day * 86_400_000
        while engine.turn():
            pass
        engine.turn()
    engine.close()
    runs = list(RunRow.objects.filter(rule=made.id).order_by("id"))
    assert len(runs) == 2 and runs[1].at - runs[0].at in (23 * 3_600_000, 86_400_000, 25 * 3_600_000)
    events = list(EventRow.objects.filter(kind="time.reached"))
    assert [(e.point, e.fields) for e in events] == [("", {"clock": "12:00"})] * 2
    assert not Journal.objects.filter(seq__in=[e.seq for e in events], type="event").exists(), "its tick is its entry"
    assert {x.text for x in LineRow.objects.all()} == {"noon 12:00:00"}


def test_repeats_are_joined_to_the_open_alarm_until_it_is_answered(bench, rule, as_):
    alarm = {"do": "alarm", "title": "Somebody", "groups": [{"id": "operators"}]}
    made = rule(CROSSED, alarm, hold_off={"seconds": 600, "then": "join"})
    for _ in range(3):
        bench.cross(point="gate-line")
        bench.run()
    first = Alarm.objects.get(rule=made.id)
    assert first.count == 3 and first.last_at >= first.raised_at
    answer(as_("oskar"), first.pk, "seen")
    bench.run()
    bench.cross(point="gate-line")
    bench.run()
    assert sorted(Alarm.objects.filter(rule=made.id).values_list("count", flat=True)) == [1, 3]


def test_a_notice_is_for_its_group_and_passes(bench, rule, client, as_):
    rule(CROSSED, {"do": "notice", "text": "{class|capital} at the gate", "groups": [{"id": "duty"}], "seconds": 60})
    bench.cross(point="gate-line")
    bench.run()
    assert Notice.objects.get().text == "Human at the gate"
    for user, shown in (("dara", 1), ("oskar", 0)):
        client.force_login(as_(user).person)
        assert len(client.get(f"/api/v1/desk?site={GARDENS}").json()["notices"]) == shown


def test_what_is_dropped_is_told_in_the_trace(bench, rule, as_):
    made = rule(CROSSED, {"do": "line", "text": "later", "after": 600})
    bench.cross(point="gate-line")
    bench.run()
    switch(as_("ines"), made, False)
    bench.run()
    (step,) = Step.objects.filter(action="line")
    assert step.status == "dropped" and "changed or switched off" in step.answer


def test_a_clock_set_back_moves_nothing_back(bench, rule):
    rule(CROSSED, {"do": "line", "text": "x"})
    at = now_ms()
    for offset in (0, -7_200_000, 1_000):
        bench.cross(point="gate-line", at=at + offset)
    bench.run()
    moments = list(EventRow.objects.order_by("seq").values_list("at", flat=True))
    assert moments == sorted(moments) and RunRow.objects.filter(rule__startswith="").count() >= 3


def test_counters_count_in_and_out_reach_a_limit_once_and_begin_anew(bench, as_):
    """In, out and inside: two steps of one rule, by direction; another rule is about the limit."""
    steps = [
        {"do": "counter", "counter": {"id": "visitors"}, "change": change,
         "provided": {"test": "field", "field": "direction", "op": "is", "value": way}}
        for change, way in (("up", "in"), ("down", "out"))
    ]  # fmt: skip
    line = {
        "cause": "event",
        "kind": "scene.line_crossed",
        "phase": "pulse",
        "where": {"points": [{"id": "gate-line"}]},
    }
    limit = {"cause": "limit", "counter": {"id": "visitors"}, "value": 2}
    full = [{"do": "line", "text": "{counter}: {value|round}"}]
    anew = [{"do": "counter", "counter": {"id": "visitors"}, "change": "set", "by": 0}]
    rules = {"Count": (line, steps), "Full": (limit, full), "Empty": ({**limit, "way": "down", "value": 0}, full)}
    for name, (cause, response) in rules.items():
        switch(as_("ines"), save(as_("ines"), {"name": name, "cause": cause, "response": response}), True)
    bench.run()
    for way in ("in", "in", "in", "out", "in", "out", "out", "in"):
        bench.cross("gate-line", direction=way)
    bench.run()
    assert [x.text for x in LineRow.objects.order_by("id")] == ["Visitors inside: 2"] * 2
    assert bench.engine.sites[GARDENS].counter("visitors") == 2
    set_counter(as_("dara"), "visitors", 0)
    bench.run()
    assert LineRow.objects.order_by("-id").first().text == "Visitors inside: 0"
    # A rule that counts because of its own counting is stopped.
    document = {"name": "Circle", "cause": {**limit, "value": 1}, "response": anew}
    switch(as_("ines"), save(as_("ines"), document), True)
    bench.run()
    bench.cross("gate-line", direction="in")
    bench.run()
    assert bench.engine.sites[GARDENS].counter("visitors") == 0
