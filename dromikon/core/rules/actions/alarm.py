"""Action: an alarm that stays until somebody answers for it."""

from typing import ClassVar, Literal

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Firing, Order, groups_phrases
from dromikon.core.rules.parts import Phrase, Ref
from dromikon.core.rules.target import SIGHTLINES, Target

PRIORITIES = ("critical", "high", "medium", "low")
SOUNDS = ("none", "chime", "call", "urgent")


class AlarmAction(Action):
    """Raise an alarm for the recipients' desks."""

    label: ClassVar[str] = "Alarm"
    icon: ClassVar[str] = "bell"

    asks: ClassVar[bool] = True

    do: Literal["alarm"] = "alarm"
    priority: Literal["critical", "high", "medium", "low"] = "medium"
    title: str = Field(min_length=1, max_length=120)
    instruction: str = Field(default="", max_length=2000)
    groups: tuple[Ref, ...] = Field(default=(), max_length=20)
    note_required: bool = False
    sound: Literal["none", "chime", "call", "urgent"] = "chime"
    cameras: Target = SIGHTLINES

    def orders(self, firing: Firing) -> list[Order]:
        payload = {
            "priority": self.priority,
            "title": firing.fill(self.title),
            "instruction": firing.fill(self.instruction),
            "groups": [g.id for g in self.groups],
            "note_required": self.note_required,
            "sound": self.sound,
            "cameras": list(self.cameras.resolve(firing)),
        }
        return [Order(firing.event.point, payload)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        words = [
            Phrase("raise a ", part),
            Phrase(self.priority, part, name=True),
            Phrase(" alarm ", part),
            Phrase(f"“{self.title}”", part, name=True),
            *groups_phrases(self.groups, facts, part),
        ]
        if self.instruction:
            words.append(Phrase(" with an instruction", part))
        if self.note_required:
            words.append(Phrase(" that needs a note", part))
        return words

    def named(self) -> list[tuple[str, str, Ref]]:
        return self.cameras.named("cameras")

    def recipients(self) -> tuple[Ref, ...]:
        return self.groups

    def texts(self) -> list[tuple[str, str]]:
        return [("title", self.title), ("instruction", self.instruction)]
