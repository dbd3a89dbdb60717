"""Action: a text message to the recipients' telephones."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Firing, Order
from dromikon.core.rules.actions.people import ToPeople, people_phrases
from dromikon.core.rules.controls import Words
from dromikon.core.rules.parts import Phrase, told


class TextAction(ToPeople):
    """Text everybody who has a number. The message id stays the same over attempts, so a gateway can tell repeats."""

    label: ClassVar[str] = "Text message"
    group: ClassVar[str] = "to people"
    icon: ClassVar[str] = "send"
    nobody: ClassVar[str] = "nobody of whom it is for has a number and may be disturbed now"
    way: ClassVar[str] = "text"

    do: Literal["text"] = "text"
    text: Annotated[str, Words("Text", places=True, start="{rule}: {point}")] = Field(min_length=1, max_length=300)

    def orders(self, firing: Firing) -> list[Order]:
        return self.to_each(firing, self.message(firing, self.text))

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        who = people_phrases(self.groups, self.persons, facts, part)
        return told("text {text} for {who}", part, text=f"“{self.text}”", who=who)

    def texts(self) -> list[tuple[str, str]]:
        return [("text", self.text)]
