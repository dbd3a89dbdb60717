"""What the door station tells of its calls, in a topic of its maker's own: the standard has none for them."""

from collections.abc import Iterable

from dromikon.standins.world.plant.signals import Signal
from dromikon.standins.world.reports import Report

CALL = "sta:Call/State"
#: The station at each point, by the name that it has for itself.
STATIONS = {"wicket": "front"}
STATES = {"call.rung": "Ringing", "call.answered": "Talking", "call.ended": "Idle"}


def of_station(signal: Signal) -> bool:
    """Whether a signal is told by the door station rather than by the gateway."""
    return signal.point in STATIONS


def call_reports(signals: Iterable[Signal], point: str) -> list[Report]:
    """What the station at a point tells of what happened there."""
    return [_state(s.at, point, STATES[s.kind]) for s in signals if s.point == point and s.kind in STATES]


def resting(point: str, reports: Iterable[Report], at: int) -> Report:
    """How its calls stand at an instant, from what was told lately."""
    last = max((r for r in reports if r.at <= at), key=lambda r: r.at, default=None)
    return last or _state(at, point, "Idle")


def _state(at: int, point: str, state: str) -> Report:
    return Report(at, CALL, (("Station", STATIONS[point]),), (("State", state),), property=True)
