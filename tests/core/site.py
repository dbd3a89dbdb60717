"""A small site for core tests."""

from typing import Any

from dromikon.core.events import Event, Phase
from dromikon.core.facts import Area, Counter, Facts, Group, LiveRule, Point
from dromikon.core.hours import Hours, Season, Week

DAY = Week(mon=("09:00-17:00",), tue=("09:00-17:00",), wed=("09:00-17:00",), thu=("09:00-17:00",), fri=("09:00-17:00",))
OFFICE = Hours(id="office", name="office hours", seasons=(Season(start="01-01", end="12-31", week=DAY),))


def facts(*documents: dict[str, Any], revision: int = 1, besides: tuple[Point, ...] = (), **more: Any) -> Facts:
    """A lakeside with two lines, a bay, a contact, a relay and a button, and points `besides`; rules r0, r1, …"""
    return Facts(
        site="site",
        name="Lakeside",
        zone="Europe/London",
        areas=(Area(id="lake", name="Lake"), Area(id="pier", name="Pier", parent="lake"), Area(id="yard", name="Yard")),
        points=(
            Point(id="cam", name="Lake camera", kind="camera", area="lake"),
            Point(id="line", name="Lake line", kind="detector", area="pier", channel="cam", tags=("water",)),
            Point(id="line2", name="Far line", kind="detector", area="lake", channel="cam"),
            Point(id="bay", name="Bay", kind="detector", area="yard", channel="cam", waits=10.0),
            Point(id="contact", name="Gate contact", kind="input", area="yard"),
            Point(id="light", name="Pier light", kind="relay", area="pier"),
            Point(id="help", name="Help", kind="button", area="yard"),
            *besides,
        ),
        sightlines={"contact": ("cam",)},
        hours=(OFFICE,),
        groups=(Group(id="ops", name="Operators", roles=("operator",)), Group(id="nobody", name="Nobody")),
        rules=tuple(LiveRule(id=f"r{i}", revision=revision, document=d) for i, d in enumerate(documents)),
        **{"modes": ("open", "closed"), "counters": (Counter(id="visitors", name="Visitors"),), **more},
    )


def rule(**parts: Any) -> dict[str, Any]:
    """A document: somebody crosses the lake line, raise an alarm. Parts replace or add."""
    return {
        "name": "Crossing",
        "cause": {
            "cause": "event",
            "kind": "scene.line_crossed",
            "phase": "pulse",
            "where": {"points": [{"id": "line"}]},
        },
        "response": [{"do": "alarm", "title": "{class} at {point}", "groups": [{"id": "ops"}]}],
        **parts,
    }


def crossing(seq: int, at: int, point: str = "line", **fields: Any) -> Event:
    return Event(
        seq,
        "scene.line_crossed",
        point,
        Phase.PULSE,
        at,
        at,
        at,
        None,
        {"class": "human", "confidence": 80.0, **fields},
    )


def contact(seq: int, at: int, on: bool, **more: Any) -> Event:
    return Event(seq, "input.active", "contact", Phase.BEGIN if on else Phase.END, at, at, at, **more)
