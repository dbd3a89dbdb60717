"""Action: have a camera look elsewhere, and back."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field, model_validator

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order, for_how_long
from dromikon.core.rules.controls import Choice, Held, Inner, Name, When
from dromikon.core.rules.parts import Phrase, Ref, told
from dromikon.core.rules.target import Target
from dromikon.core.words import t


class PtzOrder(TypedDict):
    """Where a camera goes: `preset` is a position's name or token, empty for its home position. `held`: it comes back."""

    preset: str
    held: bool


class PtzAction(Action):
    """Have a movable camera go to a position that it knows by name, to the one in which it looks at the source, or home;
    and come back after `held` seconds, or when the state ends (the last holder's end brings it back)."""

    label: ClassVar[str] = "Turn a camera"
    group: ClassVar[str] = "at the place"
    icon: ClassVar[str] = "rotate"
    delivery: ClassVar[Delivery] = Delivery.ONCE_ONLY
    nobody: ClassVar[str] = "no camera knows a position for it"

    do: Literal["ptz"] = "ptz"
    camera: Annotated[Target, Inner("Camera", kinds=("camera",))] = Target(of="first_sightline")
    to: Annotated[
        Literal["preset", "sight", "home"],
        Choice("Goes to", words={"preset": "a preset", "sight": "where it sees it", "home": "its home position"}),
    ] = "preset"
    preset: Annotated[str, Name("Preset", of="preset", when=When("to", ("preset",)))] = Field(
        default="", max_length=100
    )
    then: Annotated[
        Literal["stay", "back"], Choice("Then", words={"stay": "it stays there", "back": "it comes back"})
    ] = "stay"
    held: Annotated[float | Literal["state"], Held("stays for", when=When("then", ("back",)))] = 60
    back: Annotated[
        str, Name("back to", of="preset", hint="empty: its home position", when=When("then", ("back",)))
    ] = Field(default="", max_length=100)

    @model_validator(mode="after")
    def _fits(self) -> "PtzAction":
        if self.to == "preset" and not self.preset:
            raise ValueError(t("name the preset that it goes to"))
        if isinstance(self.held, float) and not 1 <= self.held <= 86_400:
            raise ValueError(t("it comes back after 1 s to a day, or when the state ends"))
        return self

    def orders(self, firing: Firing) -> list[Order]:
        source = firing.facts.point_by_id.get(firing.source)
        seen_in = source.seen_in if source else {}
        goes = {"preset": self.preset, "home": ""}
        found = []
        for camera in self.camera.resolve(firing):
            where = seen_in.get(camera) if self.to == "sight" else goes[self.to]
            if where is not None:
                order: PtzOrder = {"preset": where, "held": self.then == "back"}
                back: PtzOrder = {"preset": self.back, "held": False}
                found.append(Order(camera, order, let_go=back))
        return found

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        camera = self.camera.phrases(facts, part)
        if self.to == "preset":
            words = told("turn {camera} to {preset}", part, camera=camera, preset=f"“{self.preset}”")
        elif self.to == "sight":
            words = told("turn {camera} to where it happened", part, camera=camera)
        else:
            words = told("turn {camera} to its home position", part, camera=camera)
        return words + for_how_long(self.hold, part)

    def named(self) -> list[tuple[str, str, Ref]]:
        return self.camera.named("camera")

    def drives(self) -> tuple[Ref, str] | None:
        return (self.camera.point, f"{self.to} {self.preset}") if self.camera.point else None

    @property
    def hold(self) -> float | Literal["state"] | None:
        return self.held if self.then == "back" else None
