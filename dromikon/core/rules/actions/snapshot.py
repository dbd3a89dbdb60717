"""Action: stills of several cameras at several moments."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.instants import Instant
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.controls import Inner, Numbers
from dromikon.core.rules.parts import Phrase, Ref, told
from dromikon.core.rules.target import SIGHTLINES, Target
from dromikon.core.words import t

Moment = Annotated[float, Field(ge=-600, le=600)]


class SnapshotOrder(TypedDict):
    """The instant whose picture is kept."""

    at: Instant
    title: str


#: A picture is there so long after its moment, in ms.
RECORDED_AFTER = 700


class SnapshotAction(Action):
    """Keep one still for each camera and each of `moments`, in seconds around zero."""

    label: ClassVar[str] = "Snapshots"
    group: ClassVar[str] = "pictures"
    icon: ClassVar[str] = "camera"
    nobody: ClassVar[str] = "no camera looks there"
    around_zero: ClassVar[bool] = True
    delivery: ClassVar[Delivery] = Delivery.REPEATABLE

    do: Literal["snapshot"] = "snapshot"
    moments: Annotated[tuple[Moment, ...], Numbers("Moments around the event, with commas", unit="s")] = Field(
        default=(0.0,), min_length=1, max_length=12
    )
    cameras: Annotated[Target, Inner("Cameras", kinds=("camera",))] = SIGHTLINES

    def _still(self, firing: Firing, moment: float) -> SnapshotOrder:
        return {"at": firing.zero + round(moment * 1000), "title": firing.rule_name}

    def orders(self, firing: Firing) -> list[Order]:
        return [
            Order(
                camera,
                self._still(firing, moment),
                part=i,
                not_before=firing.zero + round(moment * 1000) + RECORDED_AFTER,
            )
            for camera in self.cameras.resolve(firing)
            for i, moment in enumerate(self.moments)
        ]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        cameras = self.cameras.phrases(facts, part)
        moments = ", ".join(map(_moment_words, self.moments))
        return told("keep stills of {cameras} {moments}", part, cameras=cameras, moments=moments)

    def named(self) -> list[tuple[str, str, Ref]]:
        return self.cameras.named("cameras")

    def span(self) -> tuple[float, float]:
        return min(self.moments), max(self.moments)


def _moment_words(moment: float) -> str:
    if moment == 0:
        return t("at once")
    return t("{s} s before", s=f"{-moment:g}") if moment < 0 else t("{s} s after", s=f"{moment:g}")
