"""What a field of a rule's part is for a person: its label, unit and words, and what it is picked from.

A field names its control beside its type: ``before: Annotated[float, Number("from", unit="s before")]``. Form, reference
and JSON Schema are made from these and from the limits that the type has anyhow; nothing else describes a part.
"""

from collections.abc import Mapping
from dataclasses import KW_ONLY, dataclass, field
from typing import Any, ClassVar

from pydantic import GetJsonSchemaHandler
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema


@dataclass(frozen=True, slots=True)
class When:
    """A field that means something only while another one beside it has one of some values, or none of them."""

    field: str
    values: tuple[Any, ...]
    negated: bool = False


@dataclass(frozen=True)
class Control:
    """What every control has. `start` is what a new part begins with where the schema has no default; a `bare` one shows
    no label of its own, because what is around it says enough; a `timing` one says when, not what."""

    widget: ClassVar[str]

    label: str
    _: KW_ONLY
    hint: str = ""
    when: When | None = None
    start: Any = None
    bare: bool = False
    timing: bool = False

    def more(self) -> dict[str, Any]:
        """What this sort of control says besides, as JSON."""
        return {}

    def __get_pydantic_json_schema__(self, schema: CoreSchema, handler: GetJsonSchemaHandler) -> JsonSchemaValue:
        made = handler(schema)
        if "$ref" not in made:
            made["title"] = self.label
            if self.hint:
                made["description"] = self.hint
        return made


@dataclass(frozen=True)
class Number(Control):
    """A number, with its unit."""

    widget: ClassVar[str] = "number"
    unit: str = ""

    def more(self) -> dict[str, Any]:
        return {"unit": self.unit}


@dataclass(frozen=True)
class Numbers(Control):
    """Several numbers, with commas."""

    widget: ClassVar[str] = "numbers"
    unit: str = ""

    def more(self) -> dict[str, Any]:
        return {"unit": self.unit}


@dataclass(frozen=True)
class Held(Control):
    """Seconds, or for as long as the state lasts."""

    widget: ClassVar[str] = "held"


@dataclass(frozen=True)
class Words(Control):
    """Text of so many `lines`; with `places`, it may name values of the event in braces."""

    widget: ClassVar[str] = "words"
    places: bool = False
    lines: int = 1

    def more(self) -> dict[str, Any]:
        return {"places": self.places, "lines": self.lines}


@dataclass(frozen=True)
class FileText(Control):
    """The text of a file, which can be pasted as well. `accept`: names of files that are offered first."""

    widget: ClassVar[str] = "filetext"
    accept: str = ""

    def more(self) -> dict[str, Any]:
        return {"accept": self.accept}


@dataclass(frozen=True)
class Secret(Control):
    """A password or token: typed, kept, and never shown again. Left empty, the one that is kept stays."""

    widget: ClassVar[str] = "secret"


@dataclass(frozen=True)
class File(Control):
    """The content of a file, as a data address (RFC 2397); kept, and never shown again. Left empty, the one that is kept
    stays. `accept`: as browsers name sorts of file."""

    widget: ClassVar[str] = "file"
    accept: str = ""

    def more(self) -> dict[str, Any]:
        return {"accept": self.accept}


@dataclass(frozen=True)
class WordList(Control):
    """Several words, with commas."""

    widget: ClassVar[str] = "wordlist"


@dataclass(frozen=True)
class ClockTime(Control):
    """A time of day."""

    widget: ClassVar[str] = "clock"


@dataclass(frozen=True)
class Day(Control):
    """A day of the calendar, as YYYY-MM-DD."""

    widget: ClassVar[str] = "day"


@dataclass(frozen=True)
class Flag(Control):
    """Yes or no; with words for both where the label alone does not say what *no* means."""

    widget: ClassVar[str] = "flag"
    words: tuple[str, str] | None = None

    def more(self) -> dict[str, Any]:
        return {"words": list(self.words)} if self.words else {}


@dataclass(frozen=True)
class Choice(Control):
    """One of the values of the type, or several of them; `words` where a value does not read well by itself."""

    widget: ClassVar[str] = "choice"
    words: Mapping[str, str] = field(default_factory=dict)

    def more(self) -> dict[str, Any]:
        return {"words": dict(self.words)}


@dataclass(frozen=True)
class Pick(Control):
    """A configured thing, or several: `of` says which (point, area, group, list, hours, counter, device), `kinds` which
    sorts of point."""

    widget: ClassVar[str] = "pick"
    of: str = "point"
    kinds: tuple[str, ...] = ()

    def more(self) -> dict[str, Any]:
        return {"of": self.of, "kinds": list(self.kinds)}


@dataclass(frozen=True)
class Name(Control):
    """Something known by its name alone, or several: a kind of event (`states` only, `readings` only), a phase of it, a
    field of it (of some types `only`), a mode, a sort of point, a tag."""

    widget: ClassVar[str] = "name"
    of: str = "kind"
    only: str = ""

    def more(self) -> dict[str, Any]:
        return {"of": self.of, "only": self.only}


@dataclass(frozen=True)
class Operator(Control):
    """How a field is compared: what fits the field's type."""

    widget: ClassVar[str] = "operator"


@dataclass(frozen=True)
class Value(Control):
    """What a field is compared with: as many values, and of the sort, that the operator and the field want."""

    widget: ClassVar[str] = "value"


@dataclass(frozen=True)
class Inner(Control):
    """A part inside the part; one that may be missing is switched on and off. `kinds`: the sorts of point it is about."""

    widget: ClassVar[str] = "part"
    kinds: tuple[str, ...] = ()

    def more(self) -> dict[str, Any]:
        return {"kinds": list(self.kinds)}


@dataclass(frozen=True)
class Nodes(Control):
    """One or several of a registry: causes, conditions, steps."""

    widget: ClassVar[str] = "nodes"
    of: str = "condition"

    def more(self) -> dict[str, Any]:
        return {"of": self.of}
