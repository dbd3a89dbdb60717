"""Action: mail with pictures."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.instants import Instant
from dromikon.core.rules.actions.base import Firing, Order
from dromikon.core.rules.actions.people import MessageOrder, ToPeople, people_phrases
from dromikon.core.rules.actions.snapshot import RECORDED_AFTER, Moment
from dromikon.core.rules.controls import Inner, Numbers, Words
from dromikon.core.rules.parts import Phrase, Ref, told
from dromikon.core.rules.target import SIGHTLINES, Target

#: A mail has no more pictures than this.
MOST_PICTURES = 12


class MailOrder(MessageOrder):
    """A mail to one person. `pictures`: camera and moment of each."""

    pictures: list[tuple[str, Instant]]


class MailAction(ToPeople):
    """Mail everybody who has an address, with pictures of some `moments` around zero inside the mail. The message id stays
    the same over attempts."""

    label: ClassVar[str] = "Mail"
    group: ClassVar[str] = "to people"
    icon: ClassVar[str] = "note"
    nobody: ClassVar[str] = "nobody of whom it is for has an address and may be disturbed now"
    way: ClassVar[str] = "mail"
    #: A mail is read when somebody comes to it.
    lives: ClassVar[float | None] = None

    do: Literal["mail"] = "mail"
    subject: Annotated[str, Words("Subject", places=True, start="{rule}: {point}")] = Field(
        min_length=1, max_length=200
    )
    text: Annotated[str, Words("Text", places=True, lines=5)] = Field(
        default="{point} {kind}, {date} {time}.", max_length=4000
    )
    moments: Annotated[
        tuple[Moment, ...],
        Numbers("Pictures of", unit="s around the event, with commas", hint="none: without pictures"),
    ] = Field(default=(0.0,), max_length=6)
    cameras: Annotated[Target, Inner("Cameras", kinds=("camera",))] = SIGHTLINES

    def orders(self, firing: Firing) -> list[Order]:
        pictures = [
            (camera, firing.zero + round(moment * 1000))
            for camera in (self.cameras.resolve(firing) if self.moments else ())
            for moment in self.moments
        ][:MOST_PICTURES]
        payload: MailOrder = {
            **self.message(firing, self.text), "subject": firing.said(self.subject), "pictures": pictures,
        }  # fmt: skip
        ready = max((at for _, at in pictures), default=0)
        return [
            Order(order.target, payload, not_before=ready + RECORDED_AFTER if pictures else 0)
            for order in self.to_each(firing, payload)
        ]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        who = people_phrases(self.groups, self.persons, facts, part)
        return told("mail {subject} to {who}", part, subject=f"“{self.subject}”", who=who)

    def texts(self) -> list[tuple[str, str]]:
        return [("subject", self.subject), ("text", self.text)]

    def named(self) -> list[tuple[str, str, Ref]]:
        return self.cameras.named("cameras")
