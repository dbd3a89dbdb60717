"""What stands on desks and displays when rules put cameras up."""

from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.showing import PutUp, shown

S = 1_000


def cameras(cells, usual, put_up, now):
    return [c.camera for c in shown(cells, usual, put_up, now).cells]


def test_nothing_put_up_is_what_is_there_usually_and_empty_places():
    assert cameras(4, ["a", "b"], [], 0) == ["a", "b", "", ""]


def test_a_camera_is_put_up_in_a_free_place_and_what_was_there_returns():
    put_up = [PutUp("x", 10 * S, 40 * S)]
    assert cameras(2, ["a", "b"], put_up, 9 * S) == ["a", "b"]
    assert cameras(2, ["a", "b"], put_up, 10 * S) == ["a", "x"]
    assert cameras(2, ["a", "b"], put_up, 40 * S) == ["a", "b"]
    assert shown(2, ["a", "b"], put_up, 10 * S).until == 40 * S


def test_a_camera_that_is_there_usually_is_marked_where_it_stands():
    there = shown(2, ["a", "b"], [PutUp("a", 0, 9 * S)], 0)
    assert [(c.camera, c.put_up is not None) for c in there.cells] == [("a", True), ("b", False)]


def test_the_more_urgent_displaces_at_once_and_the_displaced_comes_back():
    put_up = [PutUp("x", 0, 60 * S, rank=2, at_least=30 * S), PutUp("y", 5 * S, 20 * S, rank=0)]
    assert cameras(1, ["a"], put_up, 5 * S) == ["y"]
    assert [w.camera for w in shown(1, ["a"], put_up, 5 * S).waiting] == ["x"]
    assert cameras(1, ["a"], put_up, 20 * S) == ["x"]
    assert cameras(1, ["a"], put_up, 60 * S) == ["a"]


def test_its_like_displaces_only_what_has_had_its_least_time():
    put_up = [PutUp("x", 0, 60 * S, at_least=10 * S), PutUp("y", 5 * S, 60 * S, at_least=10 * S)]
    assert cameras(1, [], put_up, 9 * S) == ["x"]
    assert shown(1, [], put_up, 9 * S).until == 10 * S
    assert cameras(1, [], put_up, 10 * S) == ["y"]
    # The older one does not take its place back while the newer is there.
    assert cameras(1, [], put_up, 30 * S) == ["y"]


def test_the_less_urgent_waits_for_a_free_place_and_has_its_least_time_then():
    put_up = [PutUp("x", 0, 20 * S, rank=0), PutUp("y", 1 * S, 21 * S, rank=3, at_least=10 * S)]
    assert cameras(1, [], put_up, 19 * S) == ["x"]
    assert cameras(1, [], put_up, 20 * S) == ["y"]
    assert cameras(1, [], put_up, 29 * S) == ["y"]
    assert cameras(1, [], put_up, 30 * S) == [""]


def test_what_waits_in_vain_until_its_end_is_never_shown():
    put_up = [PutUp("x", 0, 60 * S, rank=0), PutUp("y", 1 * S, 21 * S, rank=3)]
    assert shown(1, [], put_up, 30 * S).waiting == ()


def test_the_same_camera_stands_once_for_its_most_urgent_reason():
    put_up = [PutUp("x", 0, 60 * S, rank=3, title="one"), PutUp("x", 1 * S, 30 * S, rank=1, title="two")]
    there = shown(4, [], put_up, 2 * S)
    assert [c.put_up.title for c in there.cells if c.put_up] == ["two"]
    assert cameras(4, [], put_up, 45 * S).count("x") <= 1


PUT_UPS = st.lists(
    st.builds(
        lambda camera, since, lasts, rank, least: PutUp(camera, since, since + lasts, rank, least),
        st.sampled_from("uvwxyz"),
        st.integers(0, 50),
        st.integers(1, 40),
        st.integers(0, 3),
        st.integers(0, 20),
    ),
    max_size=12,
)


@given(PUT_UPS, st.integers(1, 5), st.integers(0, 130))
def test_whatever_is_put_up(put_up, cells, now):
    there = shown(cells, ["a", "b"], put_up, now)
    assert len(there.cells) == cells
    up = [c.put_up for c in there.cells if c.put_up]
    assert len({p.camera for p in up}) == len(up), "a camera stands in one place only"
    waiting = [w for w in there.waiting if w.camera not in {p.camera for p in up}]
    if waiting:
        assert len(up) == cells, "nothing waits while a place is free"
        assert min(w.rank for w in waiting) >= max(p.rank for p in up), "nothing waits behind what is less urgent"
    assert all(p.since <= now for p in up)
    assert there.until is None or there.until > now
    if there.until is not None:
        assert shown(cells, ["a", "b"], put_up, there.until - 1).cells == there.cells or any(
            now < p.since < there.until for p in put_up
        ), "nothing changes before it is said to"


@given(PUT_UPS, st.integers(1, 5))
def test_in_the_end_everything_is_as_it_was(put_up, cells):
    assert all(c.put_up is None for c in shown(cells, ["a"], put_up, 10_000).cells)
