"""Action: an alarm that stays until somebody answers for it."""

from typing import Annotated, ClassVar, Literal, NotRequired, TypedDict

from pydantic import Field

from dromikon.core.boxes import read_box
from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Firing, Order
from dromikon.core.rules.actions.people import addressed, people_phrases
from dromikon.core.rules.controls import Choice, Flag, Inner, Name, Pick, Words
from dromikon.core.rules.parts import Phrase, Ref, told
from dromikon.core.rules.target import SIGHTLINES, Target
from dromikon.core.words import t

PRIORITIES = ("critical", "high", "medium", "low")
SOUNDS = ("none", "chime", "call", "urgent")


class Subject(TypedDict):
    """Whom or what it is about: a `box` (core.boxes) in a camera's picture at zero."""

    camera: str
    box: str


class AlarmOrder(TypedDict):
    """What the desk is given. `lasting`: whether the state that raised it goes on, `suppressed`: whether the site is in one
    of the modes of `quiet_in`; the engine knows."""

    priority: str
    title: str
    instruction: str
    groups: list[str]
    note_required: bool
    sound: str
    cameras: list[str]
    lasting: NotRequired[bool]
    outcome_required: NotRequired[bool]
    tags_required: NotRequired[bool]
    alone: NotRequired[bool]
    subject: NotRequired[Subject | None]
    quiet_in: NotRequired[list[str]]
    suppressed: NotRequired[bool]
    own_sound: NotRequired[str]


class AlarmAction(Action):
    """Raise an alarm for the recipients' desks."""

    label: ClassVar[str] = "Alarm"
    group: ClassVar[str] = "at a desk"
    icon: ClassVar[str] = "bell"

    asks: ClassVar[bool] = True

    do: Literal["alarm"] = "alarm"
    priority: Annotated[Literal["critical", "high", "medium", "low"], Choice("Priority")] = "medium"
    title: Annotated[str, Words("Title", places=True, start="{point}")] = Field(min_length=1, max_length=120)
    instruction: Annotated[str, Words("What to do", places=True, lines=3)] = Field(default="", max_length=2000)
    groups: Annotated[tuple[Ref, ...], Pick("Who sees it and must answer", of="group")] = Field(
        default=(), max_length=20
    )
    persons: Annotated[tuple[Ref, ...], Pick("And by name", of="person")] = Field(default=(), max_length=20)
    note_required: Annotated[bool, Flag("the answer needs a note")] = False
    outcome_required: Annotated[bool, Flag("the answer says whether it was real")] = False
    tags_required: Annotated[bool, Flag("the answer needs a tag")] = False
    alone: Annotated[bool, Flag("it is answered by itself, not together with others")] = False
    sound: Annotated[Literal["none", "chime", "call", "urgent"], Choice("Sound")] = "chime"
    own_sound: Annotated[
        Ref | None, Pick("Or a sound of the site's own", of="sound", hint="chosen in Set-up, Sounds")
    ] = None
    quiet_in: Annotated[
        tuple[str, ...],
        Name(
            "Put before nobody in the modes",
            of="mode",
            hint="suppressed by design; what lasts is told when the mode is left",
        ),
    ] = Field(default=(), max_length=20)
    cameras: Annotated[Target, Inner("Cameras whose stills it shows", kinds=("camera",))] = SIGHTLINES

    def orders(self, firing: Firing) -> list[Order]:
        payload: AlarmOrder = {
            "priority": self.priority,
            "title": firing.said(self.title),
            "instruction": firing.fill(self.instruction),
            "groups": addressed(self.groups, self.persons),
            "note_required": self.note_required,
            "outcome_required": self.outcome_required,
            "tags_required": self.tags_required,
            "alone": self.alone,
            "sound": self.sound,
            "cameras": list(self.cameras.resolve(firing)),
            "subject": _subject(firing),
            "quiet_in": list(self.quiet_in),
            "own_sound": self.own_sound.id if self.own_sound else "",
        }
        return [Order(firing.event.point, payload)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        who = people_phrases(self.groups, self.persons, facts, part)
        words = told(
            "raise a {priority} alarm {title} for {who}",
            part,
            priority=t(self.priority),
            title=f"“{self.title}”",
            who=who,
        )
        if self.instruction:
            words += told(" with an instruction", part)
        if self.note_required:
            words += told(" that needs a note", part)
        if self.tags_required:
            words += told(" that needs a tag", part)
        if self.outcome_required:
            words += told(", whose answer says whether it was real", part)
        if self.quiet_in:
            words += told(", but not in mode {modes}", part, modes=t(" or ").join(self.quiet_in))
        return words

    def named(self) -> list[tuple[str, str, Ref]]:
        modes = [(f"quiet_in.{i}", "mode", Ref.model_construct(id=m, name=m)) for i, m in enumerate(self.quiet_in)]
        sound = [("own_sound", "sound", self.own_sound)] if self.own_sound else []
        return [*self.cameras.named("cameras"), *modes, *sound]

    def recipients(self) -> tuple[Ref, ...]:
        return self.groups

    def by_name(self) -> tuple[Ref, ...]:
        return self.persons

    def texts(self) -> list[tuple[str, str]]:
        return [("title", self.title), ("instruction", self.instruction)]


def _subject(firing: Firing) -> Subject | None:
    """Where in its camera's picture the thing is, as far as the event says."""
    box, source = read_box(firing.event.fields.get("box")), firing.facts.point_by_id.get(firing.event.point)
    camera = source and (source.channel or (source.id if source.kind == "camera" else ""))
    return {"camera": camera, "box": box.written()} if box and camera else None
