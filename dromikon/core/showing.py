"""What stands on a desk or a display when rules put cameras up: pure, and the same for both.

Everything follows from what was put up and from the time. A camera that is put up takes a free place; where there is none, it
displaces the least urgent of those that are less urgent than itself, or one of its like that has had its least time. What finds
no place waits, the most urgent first, and comes when a place is free; what was displaced comes back. When nothing is put up any
more, there is again what was there before.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from dromikon.core.instants import Instant

#: A display has so many places at most.
MOST_CELLS = 16
#: How many of what has been put up are looked at, the newest: a wall has few places, and old ones wait in vain.
MOST_PUT_UP = 200


@dataclass(frozen=True, slots=True)
class PutUp:
    """A camera that a rule has put up from `since` to before `until`. `rank`: 0 is the most urgent. `at_least`: ms that it is
    shown before its like may displace it, also beyond `until`, once it has begun."""

    camera: str
    since: Instant
    until: Instant
    rank: int = 2
    at_least: int = 0
    title: str = ""


@dataclass(frozen=True, slots=True)
class Cell:
    """One place: the camera there, and what put it up; None where it is there usually."""

    camera: str
    put_up: PutUp | None = None


@dataclass(frozen=True, slots=True)
class Shown:
    """What stands there at an instant. `waiting`: what comes next, in order. `until`: when this may change by itself."""

    cells: tuple[Cell, ...]
    waiting: tuple[PutUp, ...] = ()
    until: Instant | None = None


@dataclass(slots=True)
class _Place:
    usual: str
    put_up: PutUp | None = None
    began: Instant = 0

    def over(self, at: Instant) -> bool:
        return self.put_up is not None and at >= self.ends

    @property
    def ends(self) -> Instant:
        assert self.put_up is not None
        return max(self.put_up.until, self.began + self.put_up.at_least)

    @property
    def settled(self) -> Instant:
        """From when on its like may displace it."""
        assert self.put_up is not None
        return self.began + self.put_up.at_least


@dataclass(slots=True)
class _Board:
    places: list[_Place]
    waiting: list[PutUp] = field(default_factory=list)

    def end(self, at: Instant) -> None:
        for place in self.places:
            if place.over(at):
                place.put_up = None
        self.waiting = [w for w in self.waiting if w.until > at]

    def fill(self, at: Instant) -> None:
        """Give places to what waits, until nothing more finds one."""
        for wanted in sorted(self.waiting, key=_urgency):
            place = self._place_for(wanted, at)
            if place is None:
                continue
            self.waiting.remove(wanted)
            if place.put_up is not None and place.put_up.until > at and place.put_up.camera != wanted.camera:
                self.waiting.append(place.put_up)
            place.put_up, place.began = wanted, at

    def _place_for(self, wanted: PutUp, at: Instant) -> _Place | None:
        same = next((p for p in self.places if p.put_up is not None and p.put_up.camera == wanted.camera), None)
        if same is not None:
            # It is there already: the more urgent reason, and the later end, count.
            return same if _outdoes(wanted, same) else None
        usual = next((p for p in self.places if p.put_up is None and p.usual == wanted.camera), None)
        free = usual or next((p for p in reversed(self.places) if p.put_up is None), None)
        if free is not None:
            return free
        less = [p for p in self.places if p.put_up is not None and p.put_up.rank > wanted.rank]
        alike = [p for p in self.places if p.put_up is not None and p.put_up.rank == wanted.rank and p.settled <= at]
        alike = [p for p in alike if p.put_up is not None and p.put_up.since < wanted.since]
        if less:
            return max(less, key=lambda p: (p.put_up.rank if p.put_up else 0, -p.began))
        return min(alike, key=lambda p: p.began, default=None)

    def next_change(self, at: Instant) -> Instant | None:
        """When something ends, or what waits may displace its like."""
        moments = [p.ends for p in self.places if p.put_up is not None]
        moments += [w.until for w in self.waiting]
        ranks = {w.rank for w in self.waiting}
        moments += [p.settled for p in self.places if p.put_up is not None and p.put_up.rank in ranks]
        return min((m for m in moments if m > at), default=None)


def shown(cells: int, usual: Sequence[str], put_up: Iterable[PutUp], now: Instant) -> Shown:
    """What stands in so many places at an instant. `usual`: the cameras there while nothing is put up; places beyond them are
    empty ("")."""
    known = sorted((p for p in put_up if p.since <= now), key=lambda p: p.since)[-MOST_PUT_UP:]
    count = max(1, min(MOST_CELLS, cells))
    board = _Board([_Place(usual[i] if i < len(usual) else "") for i in range(count)])
    upcoming = list(known)
    at: Instant | None = upcoming[0].since if upcoming else None
    while at is not None and at <= now:
        board.end(at)
        while upcoming and upcoming[0].since <= at:
            board.waiting.append(upcoming.pop(0))
        board.waiting = [w for w in board.waiting if w.until > at]
        board.fill(at)
        moments = [upcoming[0].since] if upcoming else []
        change = board.next_change(at)
        at = min([*moments, *([change] if change is not None else [])], default=None)
    waiting = tuple(sorted(board.waiting, key=_urgency))
    return Shown(tuple(_cell(p) for p in board.places), waiting, board.next_change(now))


def _urgency(put_up: PutUp) -> tuple[int, Instant]:
    return put_up.rank, put_up.since


def _outdoes(wanted: PutUp, place: _Place) -> bool:
    there = place.put_up
    return there is not None and (wanted.rank, -wanted.until) < (there.rank, -there.until)


def _cell(place: _Place) -> Cell:
    return Cell(place.put_up.camera, place.put_up) if place.put_up is not None else Cell(place.usual)
