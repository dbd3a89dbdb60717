"""Action: keep a clip where it lasts longer than recordings do."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.hours import wall_clock
from dromikon.core.instants import Instant
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.actions.destinations import DESTINATION
from dromikon.core.rules.controls import Inner, Number, Pick
from dromikon.core.rules.parts import Phrase, Ref, seconds, told
from dromikon.core.rules.target import SIGHTLINES, Target
from dromikon.core.words import t

#: The end of a stretch is recorded so long after it, in ms.
RECORDED_AFTER = 2_000


class ClipOrder(TypedDict):
    """A stretch of one camera. `name`: of the file, without what must not be in one."""

    camera: str
    start: Instant
    end: Instant
    name: str


class ClipAction(Action):
    """Keep a clip of some cameras, from `before` to `beyond` seconds around zero, in a folder here or elsewhere. A clip that
    is there already is not written again."""

    label: ClassVar[str] = "Keep a clip"
    group: ClassVar[str] = "pictures"
    icon: ClassVar[str] = "download"
    nobody: ClassVar[str] = "no camera looks there"
    around_zero: ClassVar[bool] = True
    delivery: ClassVar[Delivery] = Delivery.REPEATABLE

    do: Literal["clip"] = "clip"
    where: Annotated[Ref, Pick("Folder", of="destination", kinds=("folder", "sftp"))]
    before: Annotated[float, Number("From", unit="s before")] = Field(default=10, ge=0, le=600)
    beyond: Annotated[float, Number("to", unit="s after it happened")] = Field(default=20, ge=1, le=600)
    cameras: Annotated[Target, Inner("Cameras", kinds=("camera",))] = SIGHTLINES

    def orders(self, firing: Firing) -> list[Order]:
        start, end = firing.zero - round(self.before * 1000), firing.zero + round(self.beyond * 1000)
        wall = wall_clock(firing.zero, firing.facts.zone)
        found = []
        for i, camera in enumerate(self.cameras.resolve(firing)):
            seen = firing.facts.name_of("point", camera) or camera
            name = plain_name(f"{wall:%Y-%m-%d %H-%M-%S} {firing.rule_name} {seen} {firing.run}")
            payload: ClipOrder = {"camera": camera, "start": start, "end": end, "name": f"{name}.webm"}
            found.append(Order(f"{DESTINATION}{self.where.id}", payload, part=i, not_before=end + RECORDED_AFTER))
        return found

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        return told(
            "keep a clip of {cameras} from {before} to {after} in {folder}", part,
            cameras=self.cameras.phrases(facts, part), before=t("{time} before", time=seconds(self.before)),
            after=t("{time} after", time=seconds(self.beyond)),
            folder=facts.name_of("destination", self.where.id) or self.where.name or self.where.id,
        )  # fmt: skip

    def named(self) -> list[tuple[str, str, Ref]]:
        return [("where", "destination", self.where), *self.cameras.named("cameras")]

    def span(self) -> tuple[float, float]:
        return -self.before, self.beyond

    def edges(self) -> tuple[str, str]:
        return "before", "beyond"


def plain_name(text: str) -> str:
    """A file name that every system takes: letters, digits, spaces, dots, hyphens; never beginning with a dot."""
    kept = "".join(c if c.isalnum() or c in " .-_" else "-" for c in text)
    return " ".join(kept.split()).strip(" .")[:150] or "clip"
