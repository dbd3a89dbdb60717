"""What is read of a Modbus device, as a document: each register or input with the point that it is, and how its words become a
value (Modbus Application Protocol 1.1b3; numbers count from 0, as on the wire)."""

import math
import struct
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field, model_validator

from dromikon.core.kinds import KINDS
from dromikon.core.rules.controls import Choice, Flag, Name, Number, Pick, When, Words
from dromikon.core.rules.parts import Part, Ref
from dromikon.core.words import N_

Table = Literal["holding", "input", "coil", "discrete"]
TABLES: dict[str, str] = {
    "holding": N_("holding register"), "input": N_("input register"), "coil": N_("coil"), "discrete": N_("discrete input"),
}  # fmt: skip
WORDS = ("holding", "input")
Form = Literal["u16", "i16", "u32", "i32", "f32"]
FORMS: dict[str, str] = {
    "u16": N_("16 bits"), "i16": N_("16 bits with sign"), "u32": N_("32 bits"), "i32": N_("32 bits with sign"),
    "f32": N_("floating point, 32 bits"),
}  # fmt: skip
_CODES = {"u16": ">H", "i16": ">h", "u32": ">I", "i32": ">i", "f32": ">f"}
LAST = 65_535
#: One request asks for so many at most, and rather for some too many than twice.
MOST_WORDS, MOST_BITS, GAP = 120, 1_000, 8
READING, STATE = "sensor.reading", "input.active"


class RegisterPart(Part):
    """One register, or two, or one input, and the point that it is."""

    point: Annotated[Ref, Pick(N_("Point"), of="point")]
    table: Annotated[Table, Choice(N_("Read as"), words=TABLES)] = "holding"
    number: Annotated[int, Field(ge=0, le=LAST), Number(N_("Number"), hint=N_("counted from 0"))] = 0
    form: Annotated[Form, Choice(N_("Written as"), words=FORMS, when=When("table", WORDS))] = "i16"
    swapped: Annotated[bool, Flag(N_("Low word first"), when=When("form", ("u32", "i32", "f32")))] = False
    scale: Annotated[float, Field(gt=-1e9, lt=1e9), Number(N_("Times"), when=When("table", WORDS))] = 1.0
    offset: Annotated[float, Field(gt=-1e9, lt=1e9), Number(N_("plus"), when=When("table", WORDS))] = 0.0
    unit: Annotated[str, Field(max_length=12), Words(N_("Unit"), when=When("table", WORDS))] = ""
    inverted: Annotated[bool, Flag(N_("On when it is 0"), when=When("table", WORDS, negated=True))] = False
    kind: Annotated[str, Name(N_("Kind"), of="kind", hint=N_("none: a reading, or a contact that is on"))] = ""

    @property
    def is_state(self) -> bool:
        return self.table not in WORDS

    @property
    def becomes(self) -> str:
        """The kind of its events."""
        return self.kind or (STATE if self.is_state else READING)

    @property
    def size(self) -> int:
        """How many registers or inputs it takes."""
        return 1 if self.is_state or self.form in ("u16", "i16") else 2

    @model_validator(mode="after")
    def _fits_its_kind(self) -> "RegisterPart":
        kind = KINDS.get(self.becomes)
        if kind is None:
            raise ValueError(f"There is no kind {self.kind}.")
        if self.is_state and not kind.is_state:
            raise ValueError(f"{kind.called} does not begin and end, as an input does.")
        if not self.is_state and "reading" not in kind.phases:
            raise ValueError(f"{kind.called} has no value, as a register does.")
        if self.number + self.size - 1 > LAST:
            raise ValueError(f"Registers end at {LAST}.")
        return self


@dataclass(frozen=True, slots=True)
class Block:
    """What one request asks for: so many from a number on."""

    table: Table
    start: int
    count: int


def blocks(parts: Sequence[RegisterPart]) -> list[Block]:
    """As few requests as cover everything."""
    found: list[Block] = []
    for part in sorted(parts, key=lambda p: (p.table, p.number)):
        last = found[-1] if found else None
        ends = part.number + part.size
        most = MOST_BITS if part.is_state else MOST_WORDS
        if (
            last
            and last.table == part.table
            and part.number - (last.start + last.count) <= GAP
            and ends - last.start <= most
        ):
            found[-1] = Block(last.table, last.start, max(last.count, ends - last.start))
        else:
            found.append(Block(part.table, part.number, part.size))
    return found


Words_ = Mapping[tuple[str, int], int]


class NoValue(ValueError):
    """What a device answered is no value; the message says why."""


def value_of(part: RegisterPart, words: Words_) -> float | bool:
    """What a part reads, of words by table and number; for an input whether it is on. Raises NoValue."""
    try:
        found = [words[part.table, part.number + i] for i in range(part.size)]
    except KeyError as error:
        raise NoValue("The device did not answer with it.") from error
    if part.is_state:
        return bool(found[0]) is not part.inverted
    if part.swapped:
        found.reverse()
    number = struct.unpack(_CODES[part.form], struct.pack(f">{len(found)}H", *found))[0]
    told = number * part.scale + part.offset
    if not math.isfinite(told):
        raise NoValue("The device answered with what is no number.")
    # As exact as it was, without the whiskers of binary fractions.
    return float(f"{told:.7g}" if part.form == "f32" else f"{told:.12g}")
