"""Action: have the recorder keep a stretch of pictures."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.instants import Instant
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.controls import Inner, Number
from dromikon.core.rules.parts import Phrase, Ref, seconds, told
from dromikon.core.rules.target import SIGHTLINES, Target
from dromikon.core.words import t


class RecordOrder(TypedDict):
    """`start` and `end` are instants."""

    start: Instant
    end: Instant


class RecordAction(Action):
    """Record some cameras from `before` to `beyond` seconds around zero; what was recorded anyway is protected. Asking
    twice for the same stretch does no harm, so it is asked until the recorder has confirmed."""

    label: ClassVar[str] = "Record"
    group: ClassVar[str] = "pictures"
    icon: ClassVar[str] = "movie"
    nobody: ClassVar[str] = "no camera looks there"
    around_zero: ClassVar[bool] = True
    delivery: ClassVar[Delivery] = Delivery.REPEATABLE

    do: Literal["record"] = "record"
    before: Annotated[float, Number("From", unit="s before")] = Field(default=10, ge=0, le=3600)
    beyond: Annotated[float, Number("to", unit="s after it happened")] = Field(default=60, ge=1, le=14_400)
    cameras: Annotated[Target, Inner("Cameras", kinds=("camera",))] = SIGHTLINES

    def orders(self, firing: Firing) -> list[Order]:
        start, end = firing.zero - round(self.before * 1000), firing.zero + round(self.beyond * 1000)
        payload: RecordOrder = {"start": start, "end": end}
        return [Order(camera, payload) for camera in self.cameras.resolve(firing)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        return told(
            "record {cameras} from {before} to {after}", part, cameras=self.cameras.phrases(facts, part),
            before=t("{time} before", time=seconds(self.before)), after=t("{time} after", time=seconds(self.beyond)),
        )  # fmt: skip

    def named(self) -> list[tuple[str, str, Ref]]:
        return self.cameras.named("cameras")

    def span(self) -> tuple[float, float]:
        return -self.before, self.beyond

    def edges(self) -> tuple[str, str]:
        return "before", "beyond"
