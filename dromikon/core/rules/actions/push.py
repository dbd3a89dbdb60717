"""Action: a push message to the recipients' telephones."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Firing, Order
from dromikon.core.rules.actions.people import MessageOrder, ToPeople, people_phrases
from dromikon.core.rules.controls import Words
from dromikon.core.rules.parts import Phrase, told


class PushAction(ToPeople):
    """Push a message to everybody who can be reached so. The id stays the same over attempts."""

    label: ClassVar[str] = "Push message"
    group: ClassVar[str] = "to people"
    icon: ClassVar[str] = "message"
    nobody: ClassVar[str] = "nobody of whom it is for takes push messages and may be disturbed now"
    way: ClassVar[str] = "push"

    do: Literal["push"] = "push"
    title: Annotated[str, Words("Title", places=True, start="{rule}")] = Field(min_length=1, max_length=120)
    text: Annotated[str, Words("Text", places=True, start="{point}, {time}")] = Field(min_length=1, max_length=500)

    def orders(self, firing: Firing) -> list[Order]:
        payload: MessageOrder = {**self.message(firing, self.text), "subject": firing.said(self.title)}
        return self.to_each(firing, payload)

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        who = people_phrases(self.groups, self.persons, facts, part)
        return told("push {text} to {who}", part, text=f"“{self.title}”", who=who)

    def texts(self) -> list[tuple[str, str]]:
        return [("title", self.title), ("text", self.text)]
