"""What steps for persons have in common: who gets it, and how it is written."""

from typing import Annotated, ClassVar, NotRequired, TypedDict

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.controls import Flag, Pick
from dromikon.core.rules.parts import Phrase, Ref, enumerated, told
from dromikon.core.words import t


class MessageOrder(TypedDict):
    """The words of a message. `link`: where a browser finds the moment, or empty."""

    text: str
    urgent: bool
    link: str
    subject: NotRequired[str]


def worded(firing: Firing, text: str, urgent: bool, linked: bool) -> MessageOrder:
    """A text with its places filled, and the link where it is wanted and not there yet."""
    filled = firing.said(text)
    return {"text": filled, "urgent": urgent, "link": firing.link if linked and firing.link not in filled else ""}


class ToPeople(Action):
    """A step that tells people of groups, and persons by name, in one way each."""

    delivery: ClassVar[Delivery] = Delivery.REPEATABLE
    #: Later than that nobody is woken for it.
    lives: ClassVar[float | None] = 3_600.0

    groups: Annotated[tuple[Ref, ...], Pick("Who gets it", of="group")] = Field(default=(), max_length=20)
    persons: Annotated[tuple[Ref, ...], Pick("And by name", of="person")] = Field(default=(), max_length=20)
    urgent: Annotated[
        bool, Flag("urgent", hint="also in somebody's quiet hours, and told apart by subject and sound")
    ] = False
    link: Annotated[bool, Flag("with a link to the moment")] = True

    def message(self, firing: Firing, text: str) -> MessageOrder:
        """What everybody is told."""
        return worded(firing, text, self.urgent, self.link)

    def to_each(self, firing: Firing, payload: MessageOrder) -> list[Order]:
        """The message to everybody who can be reached now."""
        found = firing.reached((g.id for g in self.groups), (p.id for p in self.persons), self.way, self.urgent)
        return [Order(f"person:{m.id}", payload) for m in found]

    def recipients(self) -> tuple[Ref, ...] | None:
        return self.groups

    def by_name(self) -> tuple[Ref, ...]:
        return self.persons


def addressed(groups: tuple[Ref, ...], persons: tuple[Ref, ...]) -> list[str]:
    """Whom something on desks is for, as it is kept: ids of groups, and of persons by name."""
    return [*(g.id for g in groups), *(person_key(p.id) for p in persons)]


def person_key(id: str) -> str:
    """A person among the groups that something is addressed to."""
    return f"person:{id}"


def people_phrases(groups: tuple[Ref, ...], persons: tuple[Ref, ...], facts: Facts, part: str) -> list[Phrase]:
    """ "duty managers and Ines Marlow", or that there is nobody yet."""
    names = [facts.name_of("group", g.id) or g.name or g.id for g in groups]
    names += [facts.name_of("person", p.id) or p.name or p.id for p in persons]
    if not names:
        return told("{nobody}", part, nobody=t("nobody yet"))
    return list(enumerated([[Phrase(name, part, name=True)] for name in names]))
