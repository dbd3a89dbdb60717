"""What a decoder is, as a document: which messages are its own, and what they mean."""

from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from dromikon.core.decoders import paths
from dromikon.core.events import Phase
from dromikon.core.kinds import KINDS
from dromikon.core.rules.controls import Choice, Flag, Inner, Name, Number, Pick, When, WordList, Words
from dromikon.core.rules.parts import Part, Ref
from dromikon.core.words import N_


def _path(text: str) -> str:
    text = text.strip()
    if text:
        paths.check(text)
    return text


Path = Annotated[str, Field(max_length=paths.LONGEST)]
WHERE = N_("such as $.alarm.id; ^ instead of $: in the whole message; in XML also /message/alarm/@id")
Comparison = Literal["is", "is_not", "contains", "begins", "there", "not_there", "at_least", "at_most"]
COMPARISONS: dict[str, str] = {
    "is": N_("is"), "is_not": N_("is not"), "contains": N_("contains"), "begins": N_("begins with"), "there": N_("is there"),
    "not_there": N_("is not there"), "at_least": N_("is at least"), "at_most": N_("is at most"),
}  # fmt: skip
TimeForm = Literal["iso", "seconds", "milliseconds"]
TIME_FORMS = {
    "iso": N_("as a date (ISO 8601)"),
    "seconds": N_("seconds since 1970"),
    "milliseconds": N_("milliseconds since 1970"),
}


class _WithPath(Part):
    """A part with a place."""

    @field_validator("path", check_fields=False)
    @classmethod
    def _leads_somewhere(cls, value: str) -> str:
        return _path(value)


class ConditionPart(_WithPath):
    """What must be so for a message to be this decoder's."""

    path: Annotated[Path, Words(N_("At"), hint=WHERE)]
    how: Annotated[Comparison, Choice(N_("there"), words=COMPARISONS)] = "is"
    value: Annotated[str, Field(max_length=300), Words(N_("Value"))] = ""


class MeaningPart(Part):
    """What a value means here."""

    said: Annotated[str, Field(max_length=200), Words(N_("Where it says"))]
    means: Annotated[str, Field(max_length=200), Words(N_("it means"))]


class FieldPart(_WithPath):
    """A field of the event, and where it stands in the message."""

    name: Annotated[str, Field(min_length=1, max_length=60), Words(N_("Field"))]
    path: Annotated[Path, Words(N_("At"), hint=WHERE)]
    meanings: Annotated[tuple[MeaningPart, ...], Field(max_length=100), Inner(N_("Meanings"))] = ()


class PlacePart(Part):
    """Which point a name in messages stands for."""

    said: Annotated[str, Field(max_length=200), Words(N_("Where it says"))]
    point: Annotated[Ref, Pick(N_("it is"), of="point")]


BY_PHASE = When("phase_path", ("",), negated=True)


class DecoderDocument(Part):
    """How messages of an intake, or of a device, become events. Of all its decoders, in their order, the first that fits counts, and others
    after one that lets them."""

    name: Annotated[str, Field(min_length=1, max_length=120), Words(N_("Name"), hint=N_("what it tells of"))]
    kind: Annotated[str, Name(N_("Kind"), of="kind")]
    when: Annotated[tuple[ConditionPart, ...], Field(max_length=20), Inner(N_("For messages where"))] = ()
    each: Annotated[
        Path, Words(N_("One event for each"), hint=N_("such as $.items[*]; empty: one for the whole message"))
    ] = ""
    phase: Annotated[Phase, Choice(N_("Phase"), when=When("phase_path", ("",)))] = Phase.PULSE
    phase_path: Annotated[Path, Words(N_("It begins or ends by"), hint=WHERE)] = ""
    begins: Annotated[
        tuple[str, ...], Field(max_length=20), WordList(N_("It begins where it says"), when=BY_PHASE)
    ] = ()
    ends: Annotated[tuple[str, ...], Field(max_length=20), WordList(N_("It ends where it says"), when=BY_PHASE)] = ()
    ends_itself: Annotated[bool, Flag(N_("Ends by itself"), hint=N_("where nothing says that it is over"))] = False
    ends_after: Annotated[
        float,
        Field(ge=0, le=7 * 86_400),
        Number(N_("after"), unit="s", hint=N_("0: at once"), when=When("ends_itself", ("true",))),
    ] = 60.0
    point: Annotated[Ref | None, Pick(N_("Always at"), of="point")] = None
    point_path: Annotated[Path, Words(N_("At the point named"), hint=WHERE)] = ""
    points: Annotated[
        tuple[PlacePart, ...],
        Field(max_length=500),
        Inner(N_("Points by name"), when=When("point_path", ("",), negated=True)),
    ] = ()
    fields: Annotated[tuple[FieldPart, ...], Field(max_length=40), Inner(N_("Fields"))] = ()
    time_path: Annotated[Path, Words(N_("Time"), hint=WHERE)] = ""
    time_as: Annotated[
        TimeForm, Choice(N_("written"), words=TIME_FORMS, when=When("time_path", ("",), negated=True))
    ] = "iso"
    intake: Annotated[Ref | None, Pick(N_("Intake"), of="intake")] = None
    device: Annotated[Ref | None, Pick(N_("or device"), of="device")] = None
    enabled: Annotated[bool, Flag(N_("Reads messages"))] = True
    goes_on: Annotated[
        bool, Flag(N_("Others may read the same message"), hint=N_("otherwise those after it are not asked"))
    ] = False
    order: Annotated[int, Field(ge=0, le=999), Number(N_("Order"))] = 100

    @field_validator("each", "phase_path", "point_path", "time_path")
    @classmethod
    def _lead_somewhere(cls, value: str) -> str:
        return _path(value)

    @model_validator(mode="after")
    def _makes_an_event(self) -> "DecoderDocument":
        kind = KINDS.get(self.kind)
        if kind is None:
            raise ValueError(f"There is no kind {self.kind}.")
        if (self.intake is None) is (self.device is None):
            raise ValueError("Say whose messages it reads: those of one intake, or those of one device.")
        if not self.phase_path and self.phase not in kind.phases:
            phases = ", ".join(kind.phases)
            raise ValueError(f"{kind.called} has the phases {phases}.")
        if self.phase_path and not kind.is_state:
            raise ValueError(f"{kind.called} does not begin and end.")
        if self.ends_itself and not kind.is_state:
            raise ValueError(f"{kind.called} does not begin and end.")
        if not kind.of_site and self.point is None and not self.point_path:
            raise ValueError("Say at which point it is: always the same, or the one that the message names.")
        return self
