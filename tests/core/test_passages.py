"""Readings as passages, and passages as who was there on which day."""

from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.passages import AWAY, GAP, Passage, Reading, passages, presences

same = lambda one, other: one == other


def read(at, value="a", point="gate", sure=90.0, event=0):
    return Reading(event, at, point, value, sure)


def test_several_readings_of_one_passage_make_one_the_surest():
    (one,) = passages([read(0, sure=70, event=1), read(5_000, sure=95, event=2), read(9_000, sure=80, event=3)], same)
    assert (one.best.event, one.first, one.last, one.count) == (2, 0, 9_000, 3)


def test_who_comes_again_and_who_passes_elsewhere_or_beside_has_passed_on_their_own():
    found = passages([read(0), read(1_000, "b"), read(2_000), read(2_500, point="vault"), read(3_000 + GAP)], same)
    assert [(p.best.value, p.best.point, p.count) for p in found] == [
        ("a", "gate", 2), ("b", "gate", 1), ("a", "vault", 1), ("a", "gate", 1)
    ]  # fmt: skip


@given(
    st.lists(
        st.tuples(st.integers(0, 40 * GAP), st.sampled_from("ab"), st.sampled_from(["gate", "vault"])), max_size=60
    )
)
def test_no_reading_is_lost_or_told_twice(rows):
    readings = [read(at, value, point) for at, value, point in sorted(rows)]
    found = passages(readings, same)
    assert sum(p.count for p in found) == len(readings)
    assert all(p.first <= p.best.at <= p.last for p in found)


def test_a_day_has_its_first_and_last_and_the_gaps_between():
    passage = lambda at, point="gate": Passage(read(at, point=point), at, at)
    day = lambda at: at // 86_400_000 * 86_400_000
    hours = 3_600_000
    seen = [("Clio", passage(8 * hours)), ("Clio", passage(17 * hours, "vault")), ("Clio", passage(9 * hours)), ("Emmet", passage(30 * hours))]  # fmt: skip
    clio, emmet = presences(seen, day)
    assert (clio.first, clio.last, clio.count, clio.places) == (8 * hours, 17 * hours, 3, ("gate", "vault"))
    assert clio.gaps == ((9 * hours, 17 * hours),) and 9 * hours - 8 * hours < AWAY
    assert (emmet.day, emmet.gaps) == (24 * hours, ())
