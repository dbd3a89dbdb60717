"""Action: a notice on the recipients' desks that passes by itself."""

from typing import Annotated, ClassVar, Literal, NotRequired, TypedDict

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Firing, Order
from dromikon.core.rules.actions.people import addressed, people_phrases
from dromikon.core.rules.controls import Choice, Flag, Number, Pick, Words
from dromikon.core.rules.parts import Phrase, Ref, seconds, told


class NoticeOrder(TypedDict):
    """What is shown, to which groups, for how many seconds. `camera` may be empty."""

    text: str
    groups: list[str]
    seconds: float
    camera: str
    sound: NotRequired[str]
    spoken: NotRequired[bool]


class NoticeAction(Action):
    """Show a line of text for a while, with the source's first sightline beside it. Nobody need answer."""

    label: ClassVar[str] = "Notice"
    group: ClassVar[str] = "at a desk"
    icon: ClassVar[str] = "message"
    repeats: ClassVar[bool] = True

    do: Literal["notice"] = "notice"
    text: Annotated[str, Words("Text", places=True, start="{rule}: {point}")] = Field(min_length=1, max_length=300)
    groups: Annotated[tuple[Ref, ...], Pick("Who sees it", of="group")] = Field(default=(), max_length=20)
    persons: Annotated[tuple[Ref, ...], Pick("And by name", of="person")] = Field(default=(), max_length=20)
    sound: Annotated[Literal["none", "chime", "call", "urgent"], Choice("Sound")] = "none"
    spoken: Annotated[bool, Flag("read out at the desk")] = False
    seconds: Annotated[float, Number("Shown for", unit="s")] = Field(default=20, ge=3, le=3600)

    def orders(self, firing: Firing) -> list[Order]:
        payload: NoticeOrder = {
            "text": firing.said(self.text),
            "groups": addressed(self.groups, self.persons),
            "seconds": self.seconds,
            "camera": next(iter(firing.cameras()), ""),
            "sound": self.sound,
            "spoken": self.spoken,
        }
        return [Order(firing.event.point, payload)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        who, time = people_phrases(self.groups, self.persons, facts, part), Phrase(seconds(self.seconds), part)
        return told("show the notice {text} for {who} for {time}", part, text=f"“{self.text}”", who=who, time=time)

    def recipients(self) -> tuple[Ref, ...]:
        return self.groups

    def by_name(self) -> tuple[Ref, ...]:
        return self.persons

    def texts(self) -> list[tuple[str, str]]:
        return [("text", self.text)]

    def span(self) -> tuple[float, float]:
        return 0.0, self.seconds

    def edges(self) -> tuple[str, str]:
        return "", "seconds"
