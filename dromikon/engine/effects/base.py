"""What an effect is."""

from dataclasses import dataclass
from typing import Protocol

from dromikon.core.events import Scalar
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.book import Book


@dataclass(frozen=True, slots=True)
class Sent:
    """How a delivery went. `outcome` is done, failed (will never work), retry (was certainly not carried out), or
    unconfirmed (may have been carried out, no answer came)."""

    outcome: str
    answer: str = ""


class JournalKeeper(Protocol):
    """What effects may ask of the engine that is at work."""

    def counter(self, site: str, id: str) -> int:
        """Where a counter stands."""
        ...

    def enter_act(self, site: str, book: Book, at: int, act: str, *, target: str = "", value: str | int = "") -> None:
        """Make an act the next journal entry."""
        ...

    def enter_event(
        self, site: str, book: Book, at: int, kind: str, point: str, fields: dict[str, Scalar],
        chain: tuple[str, ...], late: bool,
    ) -> None:  # fmt: skip
        """Make a momentary event the next journal entry."""
        ...


class InsideEffect:
    """Carried out as rows in the deciding transaction: exactly once."""

    def apply(self, site: str, order: StepOrder, book: Book, at: int) -> None:
        raise NotImplementedError


class OutsideEffect:
    """Carried out by a deliverer, one lane per target."""

    def lane(self, order: StepOrder) -> str:
        """The lane whose order is kept: usually a device."""
        raise NotImplementedError

    def gap(self, lane: str) -> float:
        """Seconds to leave between two steps in a lane."""
        return 0.0

    async def deliver(self, step: Step) -> Sent:
        """Carry out one step. Must not raise for anything the other side can do."""
        raise NotImplementedError
