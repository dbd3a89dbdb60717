"""Action: an alarm that stays until somebody answers for it."""

from typing import Annotated, ClassVar, Literal, NotRequired, TypedDict

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Firing, Order
from dromikon.core.rules.actions.people import addressed, people_phrases
from dromikon.core.rules.controls import Choice, Flag, Inner, Pick, Words
from dromikon.core.rules.parts import Phrase, Ref, told
from dromikon.core.rules.target import SIGHTLINES, Target
from dromikon.core.words import t

PRIORITIES = ("critical", "high", "medium", "low")
SOUNDS = ("none", "chime", "call", "urgent")


class AlarmOrder(TypedDict):
    """What the desk is given. `lasting`: whether the state that raised it goes on; the engine knows."""

    priority: str
    title: str
    instruction: str
    groups: list[str]
    note_required: bool
    sound: str
    cameras: list[str]
    lasting: NotRequired[bool]
    outcome_required: NotRequired[bool]
    alone: NotRequired[bool]


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
    alone: Annotated[bool, Flag("it is answered by itself, not together with others")] = False
    sound: Annotated[Literal["none", "chime", "call", "urgent"], Choice("Sound")] = "chime"
    cameras: Annotated[Target, Inner("Cameras whose stills it shows", kinds=("camera",))] = SIGHTLINES

    def orders(self, firing: Firing) -> list[Order]:
        payload: AlarmOrder = {
            "priority": self.priority,
            "title": firing.said(self.title),
            "instruction": firing.fill(self.instruction),
            "groups": addressed(self.groups, self.persons),
            "note_required": self.note_required,
            "outcome_required": self.outcome_required,
            "alone": self.alone,
            "sound": self.sound,
            "cameras": list(self.cameras.resolve(firing)),
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
        if self.outcome_required:
            words += told(", whose answer says whether it was real", part)
        return words

    def named(self) -> list[tuple[str, str, Ref]]:
        return self.cameras.named("cameras")

    def recipients(self) -> tuple[Ref, ...]:
        return self.groups

    def by_name(self) -> tuple[Ref, ...]:
        return self.persons

    def texts(self) -> list[tuple[str, str]]:
        return [("title", self.title), ("instruction", self.instruction)]
