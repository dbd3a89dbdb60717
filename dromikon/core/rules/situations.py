"""Conditions on what is known besides the event: the state of a point, the time since something else, the site's mode,
where a counter stands."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, field_validator, model_validator

from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.kinds import KINDS
from dromikon.core.rules.condition import Condition, Pair, Seen, Test, World
from dromikon.core.rules.controls import Choice, Flag, Name, Number, Pick
from dromikon.core.rules.parts import Phrase, Ref, seconds, told
from dromikon.core.words import N_, t


class _Elsewhere(Condition):
    """Looks at a kind at a named point, or at the point of the event itself."""

    kind: Annotated[str, Name("What", of="kind", bare=True)]
    point: Annotated[Ref | None, Pick("At", of="point", hint="at the same point", bare=True)] = None

    @field_validator("kind")
    @classmethod
    def _known(cls, value: str) -> str:
        if value not in KINDS:
            raise ValueError(t("there is no kind {value}", value=repr(value)))
        return value

    def named(self) -> list[tuple[str, str, Ref]]:
        return [("point", "point", self.point)] if self.point else []

    def concerns(self, points: set[str]) -> set[Pair]:
        return {(self.kind, p) for p in ({self.point.id} if self.point else points)}

    def place(self, facts: Facts) -> str:
        if self.point is None:
            return t("the same point")
        known = facts.point_by_id.get(self.point.id)
        return known.name if known else self.point.name or self.point.id


class StateCondition(_Elsewhere):
    """A point is, or is not, in a state. A state that was never told is neither."""

    label: ClassVar[str] = "A state"
    test: Literal["state"] = "state"
    on: Annotated[bool, Flag("State", bare=True, words=("it is so", "it is not so"))] = True

    @model_validator(mode="after")
    def _is_state(self) -> "StateCondition":
        if not KINDS[self.kind].is_state:
            raise ValueError(t("{kind} is no state", kind=self.kind))
        return self

    def compile(self, path: str, world: World) -> Test:
        kind, named, wanted = self.kind, self.point.id if self.point else None, self.on

        def test(event: Event, seen: list[Seen] | None) -> bool:
            told = world.told_state(kind, named or event.point)
            if seen is not None:
                seen.append((path, told is wanted, told))
            return told is wanted

        return test

    def phrases(self, facts: Facts, kind: str, path: str) -> list[Phrase]:
        says = KINDS[self.kind].says if self.on else KINDS[self.kind].says_not
        return told("{place} {state}", path, place=self.place(facts), state=Phrase(says, path))

    def explained(self, facts: Facts, kind: str, value: Any) -> tuple[str, str, str]:
        said = t("never told") if value is None else t("yes") if value else t("no")
        return f"{self.place(facts)}: {KINDS[self.kind].label.lower()}", said, t("yes") if self.on else t("no")


class SinceCondition(_Elsewhere):
    """Another kind of event came within the last `seconds` at the point, or, with `within` false, did not."""

    label: ClassVar[str] = "Time since"
    test: Literal["since"] = "since"
    within: Annotated[bool, Flag("Whether", bare=True, words=("came within", "did not come within"))] = True
    seconds: Annotated[float, Number("Within", unit="s", start=30, bare=True)] = Field(gt=0, le=86_400)

    def compile(self, path: str, world: World) -> Test:
        kind, named, span, wanted = self.kind, self.point.id if self.point else None, self.seconds * 1000, self.within

        def test(event: Event, seen: list[Seen] | None) -> bool:
            last = world.last_time(kind, named or event.point)
            since = None if last is None else (world.now - last) / 1000
            # As everywhere, a window does not include its last moment.
            ok = (last is not None and world.now - last < span) is wanted
            if seen is not None:
                seen.append((path, ok, since))
            return ok

        return test

    def phrases(self, facts: Facts, kind: str, path: str) -> list[Phrase]:
        message = (
            N_("“{kind}” came at {place} within {time}")
            if self.within
            else N_("no “{kind}” came at {place} within {time}")
        )
        what, time = Phrase(KINDS[self.kind].label.lower(), path), Phrase(seconds(self.seconds), path)
        return told(message, path, kind=what, place=self.place(facts), time=time)

    def explained(self, facts: Facts, kind: str, value: Any) -> tuple[str, str, str]:
        said = t("never came") if value is None else t("{value} s ago", value=f"{value:g}")
        time = seconds(self.seconds)
        wanted = t("within {time}", time=time) if self.within else t("not within {time}", time=time)
        return t("{kind} at {place}", kind=KINDS[self.kind].label.lower(), place=self.place(facts)), said, wanted


class ModeCondition(Condition):
    """The site is in one of some modes."""

    label: ClassVar[str] = "The mode"
    test: Literal["mode"] = "mode"
    modes: Annotated[tuple[str, ...], Name("Modes", of="mode", bare=True)] = Field(min_length=1, max_length=20)

    def compile(self, path: str, world: World) -> Test:
        wanted = frozenset(self.modes)

        def test(event: Event, seen: list[Seen] | None) -> bool:
            mode = world.mode()
            if seen is not None:
                seen.append((path, mode in wanted, mode))
            return mode in wanted

        return test

    def phrases(self, facts: Facts, kind: str, path: str) -> list[Phrase]:
        return told("the site is in mode {modes}", path, modes=t(" or ").join(self.modes))

    def explained(self, facts: Facts, kind: str, value: Any) -> tuple[str, str, str]:
        return "mode", str(value) or "none", t(" or ").join(self.modes)

    def named(self) -> list[tuple[str, str, Ref]]:
        return [(f"modes.{i}", "mode", Ref.model_construct(id=mode, name=mode)) for i, mode in enumerate(self.modes)]


class CounterCondition(Condition):
    """A counter stands at least, or at most, at a number."""

    label: ClassVar[str] = "A counter"
    test: Literal["counter"] = "counter"
    counter: Annotated[Ref, Pick("Counter", of="counter", bare=True)]
    op: Annotated[
        Literal["at_least", "at_most"],
        Choice("Comparison", bare=True, words={"at_least": "is at least", "at_most": "is at most"}),
    ] = "at_least"
    value: Annotated[int, Number("Value", bare=True, start=1)]

    def compile(self, path: str, world: World) -> Test:
        id, wanted, least = self.counter.id, self.value, self.op == "at_least"

        def test(event: Event, seen: list[Seen] | None) -> bool:
            stands = world.counter(id)
            ok = stands >= wanted if least else stands <= wanted
            if seen is not None:
                seen.append((path, ok, stands))
            return ok

        return test

    def phrases(self, facts: Facts, kind: str, path: str) -> list[Phrase]:
        least = self.op == "at_least"
        message = N_("counter {counter} is at least {number}") if least else N_("counter {counter} is at most {number}")
        return told(message, path, counter=self._name(facts), number=str(self.value))

    def explained(self, facts: Facts, kind: str, value: Any) -> tuple[str, str, str]:
        least = t("at least {number}", number=self.value)
        wanted = least if self.op == "at_least" else t("at most {number}", number=self.value)
        return t("counter {name}", name=self._name(facts)), str(value), wanted

    def named(self) -> list[tuple[str, str, Ref]]:
        return [("counter", "counter", self.counter)]

    def _name(self, facts: Facts) -> str:
        return facts.name_of("counter", self.counter.id) or self.counter.name or self.counter.id
