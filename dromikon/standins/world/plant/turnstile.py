"""The turnstile at the visitor gate: whoever comes in by it has shown a ticket or a card, and is counted."""

import random
from collections.abc import Iterator
from datetime import date

from dromikon.standins.world.calendar import instant, local_day, opening
from dromikon.standins.world.days import actors
from dromikon.standins.world.plant.signals import Provoked, Signal, dice
from dromikon.standins.world.plant.vault import STAFF
from dromikon.standins.world.provocations import PROVOCATIONS, cast
from dromikon.standins.world.tracks import Actor, Place

SCENE = "visitor_gate"
#: The lane between its posts, from west to east; who crosses it leftwards comes in.
LANE: tuple[Place, Place] = ((-0.95, 13.7), (0.95, 13.7))
#: Those who come within so many ms of one another share a ticket.
TOGETHER = 4_000
#: A ticket is shown so long before somebody passes, in ms; who is turned away shows another so much later.
SHOWN, AGAIN = 1_100, 6_500
COUNTED_EVERY = 60_000
CLIMB = "climb-turnstile"


def turnstile(seed: int, day: date, provoked: tuple[Provoked, ...]) -> Iterator[Signal]:
    """Who is let in on a day, who climbs over, and how many have come in since midnight."""
    visitors = sorted(_passing(actors(seed, SCENE, day)))
    climbing = sorted(_passing(_walked_in(provoked, climbs=True)))
    passing = sorted([*visitors, *_passing(_walked_in(provoked, climbs=False))])
    yield from _tickets(dice(seed, "turnstile", day), day, passing)
    yield from (Signal(at, "door.forced", "turnstile", "pulse") for at in climbing)
    yield from _counted(sorted([*passing, *climbing]))


def _walked_in(provoked: tuple[Provoked, ...], climbs: bool) -> Iterator[Actor]:
    for cause in provoked:
        if PROVOCATIONS[cause.name].scene == SCENE and (cause.name == CLIMB) is climbs:
            yield from cast(cause.name, 0, cause.at)


def _passing(people: Iterator[Actor] | tuple[Actor, ...]) -> Iterator[int]:
    """When somebody comes in through the lane."""
    for actor in people:
        if actor.cls == "human":
            yield from (at for at, rightwards in actor.crossings(*LANE) if rightwards)


def _tickets(rnd: random.Random, day: date, passing: list[int]) -> Iterator[Signal]:
    hours, last = opening(day), 0
    for at in passing:
        if at - last >= TOGETHER:
            yield from _ticket(
                rnd, at, bool(hours) and hours is not None and instant(day, hours[0]) <= at < instant(day, hours[1])
            )
        last = at


def _ticket(rnd: random.Random, at: int, is_open: bool) -> Iterator[Signal]:
    """A visitor's ticket, or outside the hours the card of somebody who works here."""
    if not is_open:
        person = rnd.choice(sorted(STAFF))
        yield Signal(at - SHOWN, "access.granted", "turnstile", "pulse", {"card": STAFF[person], "person": person})
        return
    ticket = f"T-{rnd.randrange(10_000, 100_000)}"
    if rnd.random() < 0.04:
        yield Signal(
            at - SHOWN - AGAIN,
            "access.denied",
            "turnstile",
            "pulse",
            {"card": f"T-{rnd.randrange(10_000)}", "person": ""},
        )
    yield Signal(at - SHOWN, "access.granted", "turnstile", "pulse", {"card": ticket, "person": ""})


def _counted(passing: list[int]) -> Iterator[Signal]:
    """How many have come in, told at the next full minute at which it has changed."""
    for place, at in enumerate(passing, 1):
        tells = (at // COUNTED_EVERY + 1) * COUNTED_EVERY
        following = passing[place] if place < len(passing) else None
        if (following is None or following >= tells) and local_day(tells) == local_day(at):
            yield Signal(tells, "scene.count", "entrance-count", "reading", {"value": place})
