"""Registers of Modbus devices: few requests, and values as they are written."""

import math
import struct

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from dromikon.core.modbus.registers import MOST_WORDS, WORDS, NoValue, RegisterPart, blocks, value_of


def register(number=0, table="holding", **more):
    return RegisterPart(point={"id": "a"}, number=number, table=table, **more)


@pytest.mark.parametrize(
    ("more", "words", "value"),
    [({"form": "i16", "scale": 0.1}, [0xFF38], -20.0), ({"form": "u16", "scale": 0.1, "offset": -40}, [655], 25.5), ({"form": "u32"}, [1, 2], 65_538),
     ({"form": "u32", "swapped": True}, [2, 1], 65_538), ({"form": "i32"}, [0xFFFF, 0xFFFE], -2), ({"form": "f32"}, [0x4148, 0], 12.5),
     ({"form": "f32"}, [0x3DCC, 0xCCCD], 0.1)],
)  # fmt: skip
def test_words_become_the_value_that_was_written(more, words, value):
    assert value_of(register(5, **more), {("holding", 5 + i): w for i, w in enumerate(words)}) == value


@pytest.mark.parametrize(
    ("inverted", "bit", "on"), [(False, 1, True), (False, 0, False), (True, 0, True), (True, 1, False)]
)
def test_an_input_is_on_or_off(inverted, bit, on):
    assert value_of(register(3, "discrete", inverted=inverted), {("discrete", 3): bit}) is on


@pytest.mark.parametrize(
    ("more", "words"),
    [({}, {}), ({"form": "f32"}, {5: 0x7FC0, 6: 0}), ({"form": "f32"}, {5: 0x7F80, 6: 0}), ({"form": "u32"}, {5: 1})],
)
def test_what_is_no_value_is_said(more, words):
    with pytest.raises(NoValue):
        value_of(register(5, **more), {("holding", n): w for n, w in words.items()})


@pytest.mark.parametrize(
    ("more", "said"),
    [({"kind": "call.rung", "table": "coil"}, "does not begin and end"), ({"kind": "input.active"}, "has no value"), ({"kind": "nothing"}, "no kind"),
     ({"number": 65_535, "form": "f32"}, "end at")],
)  # fmt: skip
def test_what_cannot_be_read_so_is_refused(more, said):
    with pytest.raises(ValidationError, match=said):
        register(**{"number": 1, **more})


parts = st.lists(
    st.builds(register, st.integers(0, 900), st.sampled_from(["holding", "input", "coil", "discrete"]), form=st.sampled_from(["i16", "f32"])), min_size=1, max_size=40
)  # fmt: skip


@given(parts)
def test_every_register_is_asked_for_once_in_requests_that_are_allowed(wanted):
    asked = [(b.table, b.start + i) for b in blocks(wanted) for i in range(b.count)]
    assert len(asked) == len(set(asked))
    assert {(p.table, p.number + i) for p in wanted for i in range(p.size)} <= set(asked)
    assert all(b.count <= MOST_WORDS for b in blocks(wanted) if b.table in WORDS)


@given(st.floats(allow_nan=False, allow_infinity=False, width=32))
def test_floating_point_numbers_come_back_as_exact_as_they_were(value):
    words = dict(zip((("input", 0), ("input", 1)), struct.unpack(">HH", struct.pack(">f", value)), strict=True))
    told = value_of(register(0, "input", form="f32"), words)
    assert math.isclose(told, value, rel_tol=1e-6, abs_tol=1e-44)
