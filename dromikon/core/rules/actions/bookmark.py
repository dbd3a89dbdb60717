"""Action: a bookmark on the recording around the event."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field, StringConstraints

from dromikon.core.facts import Facts
from dromikon.core.instants import Instant
from dromikon.core.rules.actions.base import Action, Firing, Order
from dromikon.core.rules.controls import Inner, Number, WordList, Words
from dromikon.core.rules.parts import Phrase, Ref, seconds, told
from dromikon.core.rules.target import SIGHTLINES, Target
from dromikon.core.words import t

Tag = Annotated[str, StringConstraints(strip_whitespace=True, to_lower=True, min_length=1, max_length=40)]


class BookmarkOrder(TypedDict):
    """`start` and `end` are instants."""

    title: str
    start: Instant
    end: Instant
    tags: list[str]


class BookmarkAction(Action):
    """Mark the recording of the source's sightlines from `before` to `beyond` seconds around zero."""

    label: ClassVar[str] = "Bookmark"
    group: ClassVar[str] = "pictures"
    icon: ClassVar[str] = "bookmark"
    nobody: ClassVar[str] = "no camera looks there"
    around_zero: ClassVar[bool] = True

    do: Literal["bookmark"] = "bookmark"
    title: Annotated[str, Words("Title", places=True)] = Field(default="{rule}", min_length=1, max_length=120)
    before: Annotated[float, Number("From", unit="s before")] = Field(default=10, ge=0, le=3600)
    beyond: Annotated[float, Number("to", unit="s after it happened")] = Field(default=20, ge=0, le=3600)
    tags: Annotated[tuple[Tag, ...], WordList("Tags, with commas")] = Field(default=(), max_length=20)
    cameras: Annotated[Target, Inner("Cameras", kinds=("camera",))] = SIGHTLINES

    def orders(self, firing: Firing) -> list[Order]:
        zero = firing.event.occurred_at
        payload: BookmarkOrder = {
            "title": firing.said(self.title),
            "start": zero - round(self.before * 1000),
            "end": zero + round(self.beyond * 1000),
            "tags": list(self.tags),
        }
        return [Order(camera, payload) for camera in self.cameras.resolve(firing)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        words = told(
            "bookmark {cameras} from {before} to {after}", part, cameras=self.cameras.phrases(facts, part),
            before=t("{time} before", time=seconds(self.before)), after=t("{time} after", time=seconds(self.beyond)),
        )  # fmt: skip
        return words + told(" tagged {tags}", part, tags=", ".join(self.tags)) if self.tags else words

    def texts(self) -> list[tuple[str, str]]:
        return [("title", self.title)]

    def named(self) -> list[tuple[str, str, Ref]]:
        return self.cameras.named("cameras")

    def span(self) -> tuple[float, float]:
        return -self.before, self.beyond

    def edges(self) -> tuple[str, str]:
        return "before", "beyond"
