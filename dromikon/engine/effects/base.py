"""What an effect is."""

from dataclasses import dataclass
from typing import ClassVar, Protocol

from dromikon.core.events import Scalar
from dromikon.core.instants import Instant
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.book import Book


@dataclass(frozen=True, slots=True)
class Sent:
    """How a delivery went. `outcome` is done, failed (will never work), retry (was certainly not carried out), or
    unconfirmed (may have been carried out, no answer came). `ours`: what it waits for is not its target."""

    outcome: str
    answer: str = ""
    ours: bool = False


class JournalKeeper(Protocol):
    """What effects may ask of the engine that is at work."""

    def counter(self, site: str, id: str) -> int:
        """Where a counter stands."""
        ...

    def enter_act(
        self, site: str, book: Book, at: int, act: str, *, target: str = "", value: str | int = "",
        chain: tuple[str, ...] = (),
    ) -> None:  # fmt: skip
        """Make an act the next journal entry. `chain`: the rules that led to it."""
        ...

    def enter_event(
        self, site: str, book: Book, at: int, kind: str, point: str, fields: dict[str, Scalar],
        chain: tuple[str, ...], late: bool, test: bool,
    ) -> None:  # fmt: skip
        """Make a momentary event the next journal entry; one of a `test` is told to no rule."""
        ...


class InsideEffect:
    """Carried out as rows in the deciding transaction: exactly once."""

    def apply(self, site: str, order: StepOrder, book: Book, at: int) -> None:
        raise NotImplementedError


class OutsideEffect:
    """Carried out by a deliverer, one lane per target."""

    #: Whether a step may stand in line beyond its limit while the lane gets on. Not for devices: a door or an output
    #: that moves late is a danger, and it is the device that wants its gap, not we.
    patient: ClassVar[bool] = False

    def lane(self, order: StepOrder, now: Instant) -> str:
        """The lane whose order is kept: usually a device."""
        raise NotImplementedError

    def width(self, lane: str) -> int:
        """How many steps of a lane are under way at a time; one keeps their order."""
        return 1

    async def gap(self, lane: str) -> float:
        """Seconds to leave between two steps in a lane."""
        return 0.0

    async def deliver(self, step: Step) -> Sent:
        """Carry out one step. Must not raise for anything the other side can do."""
        raise NotImplementedError
