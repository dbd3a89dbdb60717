"""Action: call out one after the other, until somebody answers."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from dromikon.core.facts import Facts, Member
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.actions.people import MessageOrder, people_phrases, worded
from dromikon.core.rules.controls import Choice, Flag, Inner, Number, Pick, Words
from dromikon.core.rules.parts import Part, Phrase, Ref, enumerated, seconds, told
from dromikon.core.words import N_, t

Way = Literal["call", "text", "push", "mail", "chat"]
WAYS: dict[Way, str] = {
    "call": N_("voice call"),
    "text": N_("text message"),
    "push": N_("push message"),
    "mail": N_("mail"),
    "chat": N_("chat message"),
}


class SummonOrder(MessageOrder):
    """A message in one of several ways, and of which rung of the ladder."""

    way: Way
    rung: int


class Rung(Part):
    """Who is told at the same time."""

    groups: Annotated[tuple[Ref, ...], Pick("Everybody of", of="group")] = Field(default=(), max_length=20)
    persons: Annotated[tuple[Ref, ...], Pick("And by name", of="person")] = Field(default=(), max_length=20)


class SummonAction(Action):
    """Tell the first rung of a ladder, after `each` seconds without an answer the next, and so on until somebody has
    acknowledged the alarm. Everybody is told in the first of the `ways` that reaches them; a rung of which nobody is on
    duty or can be reached is passed over."""

    label: ClassVar[str] = "Call out in turn"
    group: ClassVar[str] = "to people"
    icon: ClassVar[str] = "route"
    delivery: ClassVar[Delivery] = Delivery.REPEATABLE
    nobody: ClassVar[str] = "nobody else of the ladder is on duty and can be reached"
    until_answered: ClassVar[bool] = True
    lives: ClassVar[float | None] = 900.0
    way: ClassVar[str] = "any"

    do: Literal["summon"] = "summon"
    ladder: Annotated[tuple[Rung, ...], Inner("Who, one after the other")] = Field(min_length=1, max_length=10)
    each: Annotated[float, Number("The next after", unit="s")] = Field(default=180, ge=10, le=3600)
    ways: Annotated[tuple[Way, ...], Choice("By", words=WAYS)] = Field(default=("text",), min_length=1, max_length=5)
    text: Annotated[str, Words("Text", places=True, lines=2, start="{rule}: {point}. Please answer.")] = Field(
        min_length=1, max_length=300
    )
    urgent: Annotated[bool, Flag("urgent", hint="also in somebody's quiet hours")] = True

    def planned(self) -> list[float]:
        return [self.each * rung for rung in range(len(self.ladder))]

    def orders_of(self, firing: Firing, time: int) -> list[Order]:
        rungs = [rung for rung in (self._reached(firing, r) for r in self.ladder) if rung]
        if time >= len(rungs):
            return []
        found = []
        for member, way in rungs[time]:
            # An address is nothing to be read out.
            message = worded(firing, self.text, self.urgent, linked=way != "call")
            order: SummonOrder = {**message, "subject": firing.rule_name, "way": way, "rung": time}
            found.append(Order(f"person:{member.id}", order))
        return found

    def _reached(self, firing: Firing, rung: Rung) -> list[tuple[Member, Way]]:
        """Who of a rung can be reached now, and how."""
        found: dict[str, tuple[Member, Way]] = {}
        for way in self.ways:
            for m in firing.reached((g.id for g in rung.groups), (p.id for p in rung.persons), way, self.urgent):
                found.setdefault(m.id, (m, way))
        return list(found.values())

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        rungs = [people_phrases(r.groups, r.persons, facts, f"{part}.ladder.{i}") for i, r in enumerate(self.ladder)]
        ways = t(" or ").join(t(WAYS[w]) for w in self.ways)
        who = list(enumerated(rungs, "then"))
        return told(
            "call out {who} by {ways}, {time} apart until somebody answers,", part, who=who,
            ways=Phrase(ways, part), time=Phrase(seconds(self.each), part),
        )  # fmt: skip

    def recipients(self) -> tuple[Ref, ...]:
        return tuple(g for rung in self.ladder for g in rung.groups)

    def by_name(self) -> tuple[Ref, ...]:
        return tuple(p for rung in self.ladder for p in rung.persons)

    def texts(self) -> list[tuple[str, str]]:
        return [("text", self.text)]

    def span(self) -> tuple[float, float]:
        return 0.0, self.each * (len(self.ladder) - 1)
