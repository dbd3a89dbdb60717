"""What every part of a rule document shares: strictness, references, phrases."""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from pydantic import BaseModel, ConfigDict, Field

from dromikon.core.words import t


class Part(BaseModel):
    """A frozen part of a rule document. Unknown fields are refused with their path."""

    #: The kind of event that fields named inside belong to: the path below the part to where it is said, or ``=`` and the
    #: kind itself; empty where the part around decides.
    speaks_of: ClassVar[str] = ""
    #: Fields that no form shows, since they are drawn or chosen elsewhere.
    drawn: ClassVar[tuple[str, ...]] = ()

    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True)


#: The one form of an id, wherever one comes in: it stands in addresses, in headers and in keys of rows.
ID = r"^[A-Za-z0-9][A-Za-z0-9_-]{0,39}$"


class Ref(Part):
    """A reference to a configured thing: its id, and its name so that it can be re-bound elsewhere."""

    id: str = Field(pattern=ID)
    name: str = Field(default="", max_length=200)


@dataclass(frozen=True, slots=True)
class Phrase:
    """A piece of a sentence. `part` is the path of the document part it describes; `name` marks a proper name."""

    text: str
    part: str = ""
    name: bool = False


_PLACE = re.compile(r"\{(\w+)\}")


def told(message: str, part: str = "", /, **values: str | Phrase | list[Phrase]) -> list[Phrase]:
    """A message of the phrase table, in the language that is spoken, as phrases about a part. Its {places} are filled with
    proper names (text), with a phrase, or with the phrases of a part inside."""
    words: list[Phrase] = []
    for i, piece in enumerate(_PLACE.split(t(message))):
        if i % 2 == 0:
            # A space alone leads nowhere.
            words += [Phrase(piece, part if piece.strip() else "")] if piece else []
        else:
            words += _filled(values[piece], part)
    return words


def _filled(value: str | Phrase | list[Phrase], part: str) -> list[Phrase]:
    if isinstance(value, list):
        return value
    phrase = value if isinstance(value, Phrase) else Phrase(value, part, name=True)
    return [phrase] if phrase.text else []


def enumerated(items: list[list[Phrase]], last: str = "and") -> Iterator[Phrase]:
    """Phrases of a list in prose: "a", "a and b", "a, b and c"."""
    for i, item in enumerate(items):
        if i:
            yield Phrase(f" {t(last)} " if i == len(items) - 1 else ", ")
        yield from item


def seconds(value: float) -> str:
    """A span in words: "90 s" up to two minutes, then minutes or hours."""
    if value < 120 or value % 60:
        return f"{value:g} s"
    return t("{minutes} min", minutes=f"{value / 60:g}") if value < 7200 else f"{value / 3600:g} h"
