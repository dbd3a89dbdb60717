"""Action: a voice call that says something."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Firing, Order
from dromikon.core.rules.actions.people import ToPeople, people_phrases
from dromikon.core.rules.controls import Flag, Words
from dromikon.core.rules.parts import Phrase, told


class CallAction(ToPeople):
    """Have everybody who has a number called, and told what is written. The id stays the same over attempts."""

    label: ClassVar[str] = "Voice call"
    group: ClassVar[str] = "to people"
    icon: ClassVar[str] = "bell"
    nobody: ClassVar[str] = "nobody of whom it is for has a number and may be disturbed now"
    way: ClassVar[str] = "call"

    do: Literal["call"] = "call"
    #: An address is nothing to be read out.
    link: Annotated[bool, Flag("with a link to the moment")] = False
    text: Annotated[str, Words("What is said", places=True, lines=2, start="{rule}, {point}.")] = Field(
        min_length=1, max_length=500
    )

    def orders(self, firing: Firing) -> list[Order]:
        return self.to_each(firing, self.message(firing, self.text))

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        who = people_phrases(self.groups, self.persons, facts, part)
        return told("call {who} and say {text}", part, text=f"“{self.text}”", who=who)

    def texts(self) -> list[tuple[str, str]]:
        return [("text", self.text)]
