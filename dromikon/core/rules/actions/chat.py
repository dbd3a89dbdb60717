"""Action: a message in a chat room."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.actions.destinations import DESTINATION
from dromikon.core.rules.actions.people import worded
from dromikon.core.rules.controls import Flag, Pick, Words
from dromikon.core.rules.parts import Phrase, Ref, told


class ChatAction(Action):
    """Write into a chat room by its incoming webhook."""

    label: ClassVar[str] = "Chat"
    icon: ClassVar[str] = "message"
    delivery: ClassVar[Delivery] = Delivery.REPEATABLE

    do: Literal["chat"] = "chat"
    room: Annotated[Ref, Pick("Room", of="destination", kinds=("chat",))]
    text: Annotated[str, Words("Text", places=True, lines=2, start="{rule}: {point}, {time}")] = Field(
        min_length=1, max_length=2000
    )
    urgent: Annotated[bool, Flag("urgent", hint="told apart by its beginning")] = False
    link: Annotated[bool, Flag("with a link to the moment")] = True

    def orders(self, firing: Firing) -> list[Order]:
        return [Order(f"{DESTINATION}{self.room.id}", worded(firing, self.text, self.urgent, self.link))]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        room = facts.name_of("destination", self.room.id) or self.room.name or self.room.id
        return told("write {text} into {room}", part, text=f"“{self.text}”", room=room)

    def texts(self) -> list[tuple[str, str]]:
        return [("text", self.text)]

    def named(self) -> list[tuple[str, str, Ref]]:
        return [("room", "destination", self.room)]
