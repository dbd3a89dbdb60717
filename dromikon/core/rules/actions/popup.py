"""Action: put the source's cameras up on the recipients' desks, and on displays."""

from typing import Annotated, ClassVar, Literal, NotRequired, TypedDict

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Firing, Order
from dromikon.core.rules.actions.people import addressed, people_phrases
from dromikon.core.rules.controls import Choice, Inner, Number, Pick
from dromikon.core.rules.parts import Phrase, Ref, enumerated, seconds, told
from dromikon.core.rules.target import SIGHTLINES, Target


class PopupOrder(TypedDict):
    """To whom a camera is put up, and for how many seconds. `display`: on which one, empty for desks. `at_least`: seconds
    that it is shown before its like may displace it."""

    groups: list[str]
    seconds: float
    title: str
    display: NotRequired[str]
    priority: NotRequired[str]
    at_least: NotRequired[float]


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
    displays: Annotated[tuple[Ref, ...], Pick("And on displays", of="display")] = Field(default=(), max_length=20)
    priority: Annotated[
        Literal["critical", "high", "medium", "low"], Choice("Priority", hint="what is more urgent displaces the rest")
    ] = "medium"
    at_least: Annotated[float, Number("Shown at least", unit="s", hint="before its like may displace it")] = Field(
        default=5, ge=0, le=600
    )
    cameras: Annotated[Target, Inner("Cameras", kinds=("camera",))] = SIGHTLINES

    def orders(self, firing: Firing) -> list[Order]:
        payload: PopupOrder = {
            "groups": addressed(self.groups, self.persons),
            "seconds": self.seconds,
            "title": firing.said("{rule}"),
            "priority": self.priority,
            "at_least": self.at_least,
        }
        cameras = self.cameras.resolve(firing)
        for_people = bool(payload["groups"]) or not self.displays
        found = [Order(camera, payload) for camera in cameras] if for_people else []
        return found + self._on_displays(firing, cameras, payload)

    def _on_displays(self, firing: Firing, cameras: tuple[str, ...], payload: PopupOrder) -> list[Order]:
        """Each display is a part of its own, and shows what may come up there."""
        found = []
        for part, ref in enumerate(self.displays, 1):
            known = firing.facts.display_by_id.get(ref.id)
            order: PopupOrder = {**payload, "groups": [], "display": ref.id}
            if known is not None:
                found += [Order(c, order, part) for c in cameras if not known.shows or c in known.shows]
        return found

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        cameras = self.cameras.phrases(facts, part)
        words = self._for_people(facts, part, cameras)
        if not self.displays:
            return words
        names = [[Phrase(facts.name_of("display", d.id) or d.name or d.id, part, name=True)] for d in self.displays]
        where = list(enumerated(names, "and"))
        if not words:
            return told(
                "show {cameras} on {displays} for {time}",
                part,
                cameras=cameras,
                displays=where,
                time=seconds(self.seconds),
            )
        return words + told(", and on {displays}", part, displays=where)

    def _for_people(self, facts: Facts, part: str, cameras: list[Phrase]) -> list[Phrase]:
        if self.displays and not (self.groups or self.persons):
            return []
        who = people_phrases(self.groups, self.persons, facts, part)
        return told("show {cameras} for {who} for {time}", part, cameras=cameras, who=who, time=seconds(self.seconds))

    def recipients(self) -> tuple[Ref, ...] | None:
        return self.groups if self.groups or not self.displays else None

    def by_name(self) -> tuple[Ref, ...]:
        return self.persons

    def named(self) -> list[tuple[str, str, Ref]]:
        displays = [(f"displays.{i}", "display", ref) for i, ref in enumerate(self.displays)]
        return [*self.cameras.named("cameras"), *displays]

    def span(self) -> tuple[float, float]:
        return 0.0, self.seconds

    def edges(self) -> tuple[str, str]:
        return "", "seconds"
