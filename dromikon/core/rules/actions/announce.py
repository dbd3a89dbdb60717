"""Action: be heard at the place."""

from typing import Annotated, ClassVar, Literal, NotRequired, TypedDict

from pydantic import Field, model_validator

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.controls import Choice, Inner, When, Words
from dromikon.core.rules.parts import Phrase, Ref, told
from dromikon.core.rules.target import Target
from dromikon.core.words import t

HEARD = {"spoken": "spoken words", "chime": "the chime", "call": "the call", "urgent": "the urgent signal"}


class AnnounceOrder(TypedDict):
    """What is heard: one of our signals, `spoken` the text, or the `voice` of somebody at a desk, a WAV file in base64."""

    sound: str
    text: str
    voice: NotRequired[str]


class AnnounceAction(Action):
    """Play a signal, or have a text spoken, at a speaker, horn, reader or door station: whoever is there hears it."""

    label: ClassVar[str] = "Announce"
    group: ClassVar[str] = "at the place"
    icon: ClassVar[str] = "volume"
    delivery: ClassVar[Delivery] = Delivery.ONCE_ONLY
    nobody: ClassVar[str] = "there is no speaker"
    repeats: ClassVar[bool] = True

    do: Literal["announce"] = "announce"
    target: Annotated[Target, Inner("Where", kinds=("speaker", "station", "camera"))]
    sound: Annotated[Literal["spoken", "chime", "call", "urgent"], Choice("What is heard", words=HEARD)] = "spoken"
    text: Annotated[str, Words("Text", places=True, lines=2, when=When("sound", ("spoken",)))] = Field(
        default="", max_length=500
    )

    @model_validator(mode="after")
    def _says_something(self) -> "AnnounceAction":
        if self.sound == "spoken" and not self.text.strip():
            raise ValueError(t("write what is to be spoken"))
        return self

    def orders(self, firing: Firing) -> list[Order]:
        payload: AnnounceOrder = {"sound": self.sound, "text": firing.said(self.text) if self.sound == "spoken" else ""}
        return [Order(point, payload) for point in self.target.resolve(firing)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        where = self.target.phrases(facts, part)
        if self.sound == "spoken":
            return told("say {text} at {speaker}", part, text=f"“{self.text}”", speaker=where)
        return told("play {sound} at {speaker}", part, sound=Phrase(t(HEARD[self.sound]), part), speaker=where)

    def texts(self) -> list[tuple[str, str]]:
        return [("text", self.text)] if self.sound == "spoken" else []

    def named(self) -> list[tuple[str, str, Ref]]:
        return self.target.named("target")
