"""Alarm states after IEC 62682: what follows from the facts, whatever was done in whichever order."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.alarms.states import (
    LONGEST_SHELF,
    OPEN_TO_ANSWER,
    SHORTEST_SHELF,
    AlarmState,
    NotPossible,
    Standing,
    acknowledge,
    bring_forward,
    end,
    give_back,
    shelve,
    suppress,
    take,
    unshelve,
)

NOW = 1_000_000
MOMENTARY, LASTING = Standing(), Standing(lasting=True)
HOUR = 3_600_000


def test_an_alarm_is_answered_and_over_in_either_order():
    assert MOMENTARY.state(NOW) is AlarmState.UNACKNOWLEDGED
    assert acknowledge(MOMENTARY).state(NOW) is AlarmState.CLOSED, "a momentary cause has no end to wait for"
    assert acknowledge(LASTING).state(NOW) is AlarmState.ACKNOWLEDGED
    assert end(LASTING).state(NOW) is AlarmState.RETURNED
    assert end(acknowledge(LASTING)).state(NOW) is acknowledge(end(LASTING)).state(NOW) is AlarmState.CLOSED
    with pytest.raises(NotPossible, match="already been answered"):
        acknowledge(acknowledge(LASTING))


def test_the_shelf_gives_back_what_would_have_been_without():
    away = shelve(LASTING, NOW + HOUR, NOW)
    assert away.state(NOW) is away.state(NOW + HOUR - 1) is AlarmState.SHELVED
    assert away.state(NOW + HOUR) is AlarmState.UNACKNOWLEDGED
    assert end(away).state(NOW) is AlarmState.SHELVED and end(away).state(NOW + HOUR) is AlarmState.RETURNED
    assert unshelve(away, NOW).state(NOW) is AlarmState.UNACKNOWLEDGED
    assert acknowledge(away).state(NOW) is AlarmState.ACKNOWLEDGED, "an answer takes it off the shelf"
    for until in (NOW + SHORTEST_SHELF - 1, NOW + LONGEST_SHELF + 1, NOW - HOUR):
        with pytest.raises(NotPossible, match="twelve hours"):
            shelve(LASTING, until, NOW)
    with pytest.raises(NotPossible, match="on no shelf"):
        unshelve(away, NOW + HOUR)


def test_one_person_deals_with_it_until_they_leave_it():
    mine = take(MOMENTARY, "oskar")
    assert take(mine, "oskar") == mine
    with pytest.raises(NotPossible, match="Somebody else"):
        take(mine, "opal")
    assert take(mine, "opal", over_from=True).taken_by == "opal"
    with pytest.raises(NotPossible, match="do not deal"):
        give_back(mine, "opal")
    assert give_back(mine, "oskar") == MOMENTARY
    for act in (lambda a: take(a, "opal"), lambda a: give_back(a, "oskar"), lambda a: shelve(a, NOW + HOUR, NOW)):
        with pytest.raises(NotPossible):
            act(acknowledge(mine))


def test_what_a_mode_suppresses_is_told_if_it_lasts_and_closed_unheard_if_not():
    assert suppress(LASTING).state(NOW) is AlarmState.SUPPRESSED
    assert bring_forward(suppress(LASTING)).state(NOW) is AlarmState.UNACKNOWLEDGED
    assert bring_forward(suppress(MOMENTARY)).state(NOW) is AlarmState.CLOSED
    assert end(suppress(LASTING)).state(NOW) is AlarmState.CLOSED, "it has passed while nobody was to hear of it"
    assert bring_forward(end(suppress(LASTING))).state(NOW) is AlarmState.CLOSED
    assert acknowledge(suppress(LASTING)).state(NOW) is AlarmState.ACKNOWLEDGED, "whoever finds it may answer"
    mine = take(LASTING, "oskar")
    assert suppress(mine) == mine and suppress(acknowledge(LASTING)) == acknowledge(LASTING)
    assert bring_forward(LASTING) == LASTING
    with pytest.raises(NotPossible, match="closed"):
        acknowledge(bring_forward(suppress(MOMENTARY)))


ACTS = st.sampled_from(["answer", "end", "take", "take over", "leave", "shelve", "unshelve", "wait"])


@given(st.booleans(), st.lists(st.tuples(ACTS, st.sampled_from("ab"), st.integers(1, 3)), max_size=25))
def test_whatever_is_done_an_answer_is_final_and_nothing_is_lost_on_the_shelf(lasting, acts):
    alarm, now, answered, over = Standing(lasting=lasting), NOW, False, False
    for act, who, hours in acts:
        before = alarm
        try:
            match act:
                case "answer":
                    alarm = acknowledge(alarm)
                    answered = True
                case "end":
                    alarm, over = end(alarm), True
                case "take":
                    alarm = take(alarm, who)
                case "take over":
                    alarm = take(alarm, who, over_from=True)
                case "leave":
                    alarm = give_back(alarm, who)
                case "shelve":
                    alarm = shelve(alarm, now + hours * HOUR, now)
                case "unshelve":
                    alarm = unshelve(alarm, now)
                case "wait":
                    now += hours * HOUR
        except NotPossible:
            assert alarm == before, "what is refused changes nothing"
        state = alarm.state(now)
        assert (state in (AlarmState.ACKNOWLEDGED, AlarmState.CLOSED)) is answered
        if answered:
            assert state is (AlarmState.ACKNOWLEDGED if lasting and not over else AlarmState.CLOSED)
        else:
            later = alarm.state(now + LONGEST_SHELF)
            assert later in OPEN_TO_ANSWER and (later is AlarmState.RETURNED) is over


MODES = st.sampled_from(["suppress", "bring forward", "end", "answer", "take", "wait"])


@given(st.booleans(), st.lists(MODES, max_size=20))
def test_whatever_modes_come_and_go_what_lasts_is_never_lost(lasting, acts):
    alarm, answered, over = Standing(lasting=lasting), False, False
    for act in acts:
        try:
            match act:
                case "suppress":
                    alarm = suppress(alarm)
                case "bring forward":
                    alarm = bring_forward(alarm)
                case "end":
                    alarm, over = end(alarm), True
                case "answer":
                    alarm = acknowledge(alarm)
                    answered = True
                case "take":
                    alarm = take(alarm, "a")
        except NotPossible:
            pass
        if lasting and not over and not answered:
            forward = bring_forward(alarm).state(NOW)
            assert forward is AlarmState.UNACKNOWLEDGED, "once no mode suppresses it, it is put before people"
        if answered:
            assert alarm.state(NOW) in (AlarmState.ACKNOWLEDGED, AlarmState.CLOSED)
