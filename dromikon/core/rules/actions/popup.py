"""Action: put the source's cameras up on the recipients' desks."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Firing, Order
from dromikon.core.rules.actions.people import addressed, people_phrases
from dromikon.core.rules.controls import Inner, Number, Pick
from dromikon.core.rules.parts import Phrase, Ref, seconds, told
from dromikon.core.rules.target import SIGHTLINES, Target


class PopupOrder(TypedDict):
    """To whom a camera is put up, and for how many seconds."""

    groups: list[str]
    seconds: float
    title: str


class PopupAction(Action):
    """Show the sightlines under "Now showing" for a while; it passes by itself."""

    label: ClassVar[str] = "Pop-up"
    group: ClassVar[str] = "at a desk"
    icon: ClassVar[str] = "video"
    nobody: ClassVar[str] = "no camera looks there"

    do: Literal["popup"] = "popup"
    groups: Annotated[tuple[Ref, ...], Pick("Who sees it", of="group")] = Field(default=(), max_length=20)
    persons: Annotated[tuple[Ref, ...], Pick("And by name", of="person")] = Field(default=(), max_length=20)
    seconds: Annotated[float, Number("Shown for", unit="s")] = Field(default=30, ge=1, le=3600)
    cameras: Annotated[Target, Inner("Cameras", kinds=("camera",))] = SIGHTLINES

    def orders(self, firing: Firing) -> list[Order]:
        payload: PopupOrder = {
            "groups": addressed(self.groups, self.persons),
            "seconds": self.seconds,
            "title": firing.said("{rule}"),
        }
        return [Order(camera, payload) for camera in self.cameras.resolve(firing)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        who = people_phrases(self.groups, self.persons, facts, part)
        cameras = self.cameras.phrases(facts, part)
        return told("show {cameras} for {who} for {time}", part, cameras=cameras, who=who, time=seconds(self.seconds))

    def recipients(self) -> tuple[Ref, ...]:
        return self.groups

    def by_name(self) -> tuple[Ref, ...]:
        return self.persons

    def named(self) -> list[tuple[str, str, Ref]]:
        return self.cameras.named("cameras")

    def span(self) -> tuple[float, float]:
        return 0.0, self.seconds

    def edges(self) -> tuple[str, str]:
        return "", "seconds"
