"""Action: a chat message."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Firing, Order
from dromikon.core.rules.actions.destinations import DESTINATION
from dromikon.core.rules.actions.people import ToPeople, people_phrases
from dromikon.core.rules.controls import Pick, Words
from dromikon.core.rules.parts import Phrase, Ref, enumerated, told


class ChatAction(ToPeople):
    """Write into a chat room by its incoming webhook, to persons by the gateway for chat messages, or both."""

    label: ClassVar[str] = "Chat"
    group: ClassVar[str] = "to people"
    icon: ClassVar[str] = "message"
    nobody: ClassVar[str] = "nobody of whom it is for has a name in the chat and may be disturbed now"
    way: ClassVar[str] = "chat"
    #: A room is read later, too.
    lives: ClassVar[float | None] = None

    do: Literal["chat"] = "chat"
    room: Annotated[Ref | None, Pick("Into the room", of="destination", kinds=("chat",))] = None
    text: Annotated[str, Words("Text", places=True, lines=2, start="{rule}: {point}, {time}")] = Field(
        min_length=1, max_length=2000
    )

    def orders(self, firing: Firing) -> list[Order]:
        payload = self.message(firing, self.text)
        room = [Order(f"{DESTINATION}{self.room.id}", payload)] if self.room else []
        return room + self.to_each(firing, payload)

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        text, found = f"“{self.text}”", []
        if self.room is not None:
            room = facts.name_of("destination", self.room.id) or self.room.name or self.room.id
            found.append(told("write {text} into {room}", part, text=text, room=room))
        if self.recipients() is not None:
            who = people_phrases(self.groups, self.persons, facts, part)
            found.append(told("write {text} to {who}", part, text=text, who=who))
        return list(enumerated(found))

    def recipients(self) -> tuple[Ref, ...] | None:
        # A room needs nobody besides.
        return None if self.room is not None and not self.groups and not self.persons else self.groups

    def texts(self) -> list[tuple[str, str]]:
        return [("text", self.text)]

    def named(self) -> list[tuple[str, str, Ref]]:
        return [("room", "destination", self.room)] if self.room else []
