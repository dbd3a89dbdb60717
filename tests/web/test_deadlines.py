"""What is due first is known at once, whatever is set, put off and called off."""

from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.events import Phase
from dromikon.engine.deadlines import Deadlines, Key

KEYS = [Key("s", "sensor.stale", name, Phase.BEGIN) for name in "abcd"]
steps = st.lists(
    st.tuples(st.sampled_from(["set", "cancel", "take", "next"]), st.sampled_from(KEYS), st.integers(0, 9)), max_size=40
)


@given(steps)
def test_the_first_is_the_first_after_any_steps(done):
    deadlines, due = Deadlines(), {}
    for what, key, at in done:
        if what == "set":
            deadlines.set(key, at)
            due[key] = at
        elif what == "cancel":
            deadlines.cancel(key)
            due.pop(key, None)
        elif what == "take":
            wanted = [k for _, k in sorted((d, k) for k, d in due.items() if d <= at)]
            assert deadlines.take(at) == wanted
            due = {k: d for k, d in due.items() if d > at}
        assert deadlines.next() == min(due.values(), default=None)
