"""What an action is. One more action is one file here and one line in `__init__`; what it does to the world outside
the core (a row, a socket) is one file of the same name in `dromikon.engine.effects`."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from dromikon.core.events import Event, Scalar
from dromikon.core.facts import Facts, Member
from dromikon.core.hours import wall_clock
from dromikon.core.instants import Instant
from dromikon.core.kinds import KINDS, PRESSED_AT, public_fields
from dromikon.core.rules.conditions import AnyCondition
from dromikon.core.rules.controls import Choice, Inner, Nodes, Number, When
from dromikon.core.rules.parts import Part, Phrase, Ref, seconds, told
from dromikon.core.rules.within import HoursPart
from dromikon.core.rules.wording import fill
from dromikon.core.words import N_, speaking, t

#: What steps are about, in the order in which they are offered.
GROUPS = (
    N_("at a desk"), N_("pictures"), N_("at the place"), N_("to people"), N_("to other systems"), N_("inside Dromikon"),
)  # fmt: skip


class Delivery(StrEnum):
    """What may happen to a step when the world fails."""

    #: A row in our own database, written in the transaction that decides it.
    INSIDE = "inside"
    #: Sent at least once: tried again with back-off until it expires.
    REPEATABLE = "repeatable"
    #: Sent at most once: marked before sending, never repeated, shown as unconfirmed when no answer came.
    ONCE_ONLY = "once_only"
    #: Off, lock, stop: never expires, repeated until confirmed.
    RELEASE = "release"


Anchor = Literal["start", "end", "acknowledged", "unanswered"]


@dataclass(frozen=True, slots=True)
class Firing:
    """One firing of a rule: everything a step may speak about. `listed` names the list entry that a condition found;
    `run` is its reference, `at` when the step is due; `mutable`: whether somebody may have muted the rule."""

    rule_name: str
    event: Event
    facts: Facts
    rule: str = ""
    listed: str = ""
    run: str = ""
    at: Instant = 0
    mutable: bool = False

    def values(self) -> dict[str, Scalar]:
        """What texts are filled from."""
        point = self.facts.point_by_id.get(self.event.point)
        area = self.facts.area_by_id.get(point.area) if point and point.area else None
        wall = wall_clock(self.event.occurred_at, self.facts.zone)
        device = self.facts.device_by_id.get(point.device) if point and point.device else None
        cameras = [self.facts.name_of("point", c) or c for c in self.cameras()]
        return {
            **public_fields(self.event.fields),
            "point": point.name if point else self.event.point,
            "area": area.name if area else self.facts.name,
            "site": self.facts.name,
            "rule": self.rule_name,
            "time": f"{wall:%H:%M:%S}",
            "date": f"{wall:%Y-%m-%d}",
            "kind": self._kind(),
            "listed": self.listed,
            "device": device.name if device else "",
            "tags": ", ".join(point.tags) if point else "",
            "cameras": ", ".join(cameras),
            "camera": cameras[0] if cameras else "",
            "run": self.run,
            "link": self.link,
        }

    def _kind(self) -> str:
        """The kind's name in the site's language, whoever looks."""
        kind = KINDS.get(self.event.kind)
        with speaking(self.facts.language):
            return kind.label if kind else self.event.kind

    def fill(self, text: str, escape: Callable[[str], str] = str) -> str:
        return fill(text, self.values(), escape)

    def said(self, text: str) -> str:
        """A text for people, filled; of a test it says so first."""
        filled = self.fill(text)
        return self._tested(filled) if self.event.test and filled else filled

    def _tested(self, text: str) -> str:
        with speaking(self.facts.language):
            return t("Test: {text}", text=text)

    @property
    def link(self) -> str:
        """Where a browser finds the moment; empty while nobody has said where people reach the installation."""
        return f"{self.facts.address}/s/{self.facts.site}/moment/{self.run}" if self.facts.address and self.run else ""

    def reached(self, groups: Iterable[str], persons: Iterable[str], way: str, urgent: bool) -> list[Member]:
        """Who of some people hears of it in some way: on duty, not at rest unless it is urgent, and not minded to mute it."""
        return [
            m
            for m in self.facts.recipients(groups, persons)
            if m.has(way)
            and self.facts.may_be_disturbed(m, self.at, urgent)
            and not (self.mutable and self.rule in m.muted)
        ]

    @property
    def source(self) -> str:
        """The point that it is about: that of the event, or the camera that a desk button was pressed at."""
        at = self.event.fields.get(PRESSED_AT)
        return at if isinstance(at, str) and at in self.facts.point_by_id else self.event.point

    def cameras(self) -> tuple[str, ...]:
        """The sightlines of the source."""
        return self.facts.cameras_of(self.source)

    @property
    def zero(self) -> Instant:
        """When it happened."""
        return self.event.occurred_at


#: What an effect is told: each action says what its own hold.
Payload = Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class Order:
    """One thing to do at one target (a point's id, or "" for the site itself). `part` tells several for one target
    apart. `hold`: how long this very one is held, where not as long as its step says. `let_go`: what undoes it."""

    target: str
    payload: Payload
    part: int = 0
    #: It is not sent before this instant: pictures must be there first.
    not_before: Instant = 0
    hold: "float | Literal['state'] | None" = None
    let_go: Payload = field(default_factory=lambda: {"state": "off"})


def for_how_long(hold: "float | Literal['state'] | None", part: str) -> list[Phrase]:
    """How long something is held, behind the words for it; nothing where it is not let go of."""
    if hold is None:
        return []
    if hold == "state":
        return told(" while it lasts", part)
    return told(" for {time}", part, time=Phrase(seconds(float(hold)), part))


class Action(Part):
    """A step of a response: when on the time axis, and what."""

    label: ClassVar[str]
    #: What it is about, where kinds are chosen from: one of GROUPS.
    group: ClassVar[str]
    icon: ClassVar[str] = "arrow-right"
    delivery: ClassVar[Delivery] = Delivery.INSIDE

    #: How long after its moment it may still be sent, in seconds; None: as its delivery wants.
    lives: ClassVar[float | None] = None
    #: Why it is not carried out when it has nothing to be carried out at.
    nobody: ClassVar[str] = "nothing at the site fits its target"
    #: Whether it is about the time around zero, whenever it is carried out: pictures go by when it happened.
    around_zero: ClassVar[bool] = False
    #: Whether somebody has to answer it: *unanswered* counts from the first such step.
    asks: ClassVar[bool] = False
    #: Whether it makes sense to do it several times.
    repeats: ClassVar[bool] = False
    #: Whether what is still to come of it is called off by an answer.
    until_answered: ClassVar[bool] = False
    #: How persons hear of it: mail, text, call, push; empty where they need nothing for it.
    way: ClassVar[str] = ""

    do: str
    anchor: Annotated[
        Anchor,
        Choice(
            "When",
            words={
                "start": "at the start",
                "end": "when it ends",
                "acknowledged": "once acknowledged",
                "unanswered": "if nobody acknowledges",
            },
            bare=True,
            timing=True,
        ),
    ] = "start"
    after: Annotated[float, Number("after", unit="s", timing=True)] = Field(default=0, ge=0, le=86_400)
    #: How often it is done, and seconds from one time to the next.
    times: Annotated[int, Number("times", hint="How often it is done", timing=True)] = Field(default=1, ge=1, le=100)
    gap: Annotated[float, Number("apart", unit="s", start=60, when=When("times", (1,), negated=True), timing=True)] = (
        Field(default=0, ge=0, le=3600)
    )
    #: Asked when the step is due, not when the rule fired.
    provided: Annotated[AnyCondition | None, Nodes("Only if", of="condition")] = None
    hours: Annotated[HoursPart | None, Inner("Only in hours", hint="asked when the step is due")] = None

    @model_validator(mode="after")
    def _repeats_sensibly(self) -> "Action":
        if self.times > 1 and not self.repeats:
            raise ValueError(t("the step '{do}' is done once", do=self.do))
        if (self.times > 1) != (self.gap > 0):
            raise ValueError(t("a step that is repeated has a gap; one that is done once has none"))
        return self

    @property
    def carried(self) -> Delivery:
        """How this very step is delivered."""
        return self.delivery

    def orders(self, firing: Firing) -> list[Order]:
        """What is to be done now that the step is due."""
        raise NotImplementedError

    def orders_of(self, firing: Firing, time: int) -> list[Order]:
        """What is to be done at the first, second … time, counted from 0; the same each time where not said otherwise."""
        return self.orders(firing)

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        """The step in words, as a command."""
        raise NotImplementedError

    def recipients(self) -> tuple[Ref, ...] | None:
        """The groups that get it; None when the action is not for persons."""
        return None

    def by_name(self) -> tuple[Ref, ...]:
        """The persons that get it besides."""
        return ()

    def planned(self) -> list[float]:
        """Seconds from its moment to each time that it is done."""
        return [self.gap * time for time in range(self.times)]

    def texts(self) -> list[tuple[str, str]]:
        """Every text with places, as (field, text)."""
        return []

    def named(self) -> list[tuple[str, str, Ref]]:
        """Every reference besides recipients, as (path below the step, what it names, reference)."""
        return []

    def drives(self) -> tuple[Ref, str] | None:
        """Which named point it sets and to what; None where it sets nothing, or a point that is found when it is due."""
        return None

    @property
    def hold(self) -> "float | Literal['state'] | None":
        """How long an output is held before its release is due: seconds, as long as the state, or not at all."""
        return None

    def span(self) -> tuple[float, float]:
        """On the time axis around zero: seconds from its own moment to where it begins and ends."""
        return 0.0, self.hold if isinstance(self.hold, float | int) else 0.0

    def edges(self) -> tuple[str, str]:
        """Which own numbers its begin (counted backwards from its moment) and its end stand for; empty for none."""
        return "", "held" if isinstance(self.hold, float | int) and "held" in type(self).model_fields else ""

    def often(self) -> str:
        """The repeats in words; empty for once."""
        return (
            t(" {times} times, {seconds} apart", times=self.times, seconds=seconds(self.gap)) if self.times > 1 else ""
        )

    def when(self) -> str:
        """The anchor and offset in words; empty for "at once"."""
        if self.anchor == "start":
            return t(" after {seconds}", seconds=seconds(self.after)) if self.after else ""
        words = {
            "end": t("when it ends"),
            "acknowledged": t("once acknowledged"),
            "unanswered": t("if nobody acknowledges"),
        }
        if self.anchor == "unanswered":
            return t(" if nobody acknowledges within {seconds}", seconds=seconds(self.after))
        return (
            t(" {seconds} after it ends", seconds=seconds(self.after))
            if self.after and self.anchor == "end"
            else f" {words[self.anchor]}"
        )
