"""What a person can cause. Nobody appears out of nothing: whoever is provoked walks in before anything happens."""

import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from dromikon.standins.world.days import delivery, goose_over_jetty, jetty_walker, lingerer, on_deck
from dromikon.standins.world.tracks import Actor, walk


@dataclass(frozen=True, slots=True)
class Provocation:
    """One thing that can be caused: where, what one will see, and who walks in. `cuts` is a camera that goes silent."""

    name: str
    title: str
    tells: str
    scene: str
    cast: Callable[[random.Random, int], Iterator[Actor]] | None = None
    cuts: str | None = None
    seconds: int = 0


def _over_the_line(rnd: random.Random, at: int) -> Iterator[Actor]:
    x, far = rnd.uniform(2.8, 3.6), rnd.uniform(20, 27)
    path = [(-7.4, 7.6, 0), (x - 0.2, 7.9, 0), (x, 9.8, 0), (x, far, 14), (x, 9.8, 0), (12.0, 7.8, 0), (30.0, 8.1, 0)]
    yield on_deck(walk(0, "human", at, 1.6, path, rnd.randrange(1 << 30)))


def _goose(rnd: random.Random, at: int) -> Iterator[Actor]:
    for i in range(3):
        yield goose_over_jetty(rnd, at + i * 2600, 0.4 * i)


def _van(rnd: random.Random, at: int) -> Iterator[Actor]:
    yield replace(delivery(rnd, at), cls="vehicle")


def _school(rnd: random.Random, at: int) -> Iterator[Actor]:
    for i in range(9):
        x = -1.4 + 0.7 * (i % 4)
        yield walk(
            0,
            "human",
            at + i * 700,
            1.3,
            [(12, 27, 0), (x * 0.8, 22, 0), (x * 0.5, 13.6, 0), (x * 2, -3, 0)],
            rnd.randrange(1 << 30),
        )


def _climber(rnd: random.Random, at: int) -> Iterator[Actor]:
    path = [(14, 27.5, 0), (1.2, 21, 0), (0.3, 14.6, 3.5), (0.2, 12.9, 0), (-1.5, 6, 0), (-4, -3, 0)]
    yield walk(0, "human", at, 1.6, path, rnd.randrange(1 << 30))


#: Where a bag is put down at the gate, and for how long nobody comes for it, in ms.
BAG_AT, ALONE = (1.6, 9.4), 75_000


def _bag(rnd: random.Random, at: int) -> Iterator[Actor]:
    """Whoever has put it down goes out by the gate; somebody else finds it and takes it along."""
    x, y = BAG_AT
    owner = walk(0, "human", at, 1.3, [(30, 28, 0), (1.0, 21, 0), (-0.5, 13.2, 0), (x - 0.6, y, 4), (-0.4, 14.2, 0), (-14, 27, 0)], rnd.randrange(1 << 30))  # fmt: skip
    put = next(t for t, px, py in zip(owner.times, owner.xs, owner.ys, strict=True) if (px, py) == (x - 0.6, y)) + 2_000
    way = [(-1.0, -3, 0), (x - 0.5, y - 0.3, 2), (-1.5, -3, 0)]
    finder = walk(0, "human", put + ALONE, 1.3, way, rnd.randrange(1 << 30))
    taken = next(t for t, px in zip(finder.times, finder.xs, strict=True) if px == x - 0.5) + 1_500
    yield owner
    yield finder
    yield Actor(0, "thing", (put, taken), (x, x), (y, y), rnd.randrange(1 << 30), walked=(0.0, 0.0))


def _runner(rnd: random.Random, at: int) -> Iterator[Actor]:
    """To the other side in front of the bed, and back."""
    there = [(4.0, 5.6, 0), (-4.0, 5.8, 0)]
    path = [(3.4, -1.4, 0), *there, (-4.0, 12.0, 1), *reversed(there), (3.4, -1.4, 0)]
    yield walk(0, "human", at, 3.9, path, rnd.randrange(1 << 30))


PROVOCATIONS = {
    p.name: p
    for p in (
        Provocation("cross-jetty", "Walk across the jetty line", "Somebody comes from the boathouse and walks out on the jetty. They cross the line after about 11 seconds.", "boathouse", _over_the_line),
        Provocation("jetty-visit", "A visitor strolls to the jetty", "A visitor comes along the lake path and goes out on the jetty; half a minute to the line.", "boathouse", jetty_walker),
        Provocation("geese", "Geese over the jetty", "Three geese leave the reeds and waddle over the jetty line.", "boathouse", _goose),
        Provocation("school-party", "A school party arrives", "Nine people come from the road and pass the gate one after another.", "visitor_gate", _school),
        Provocation("climb-turnstile", "Climb over the turnstile", "Somebody comes from the road, waits at the turnstile and climbs over it after about seventeen seconds.", "visitor_gate", _climber),
        Provocation("leave-bag", "Leave a bag at the gate", "Somebody comes in by the gate, puts a bag down and goes; after a minute and a quarter somebody else comes and takes it.", "visitor_gate", _bag),
        Provocation("run-palms", "Run through the palm house", "Somebody runs to the other side in front of the palm bed, and back.", "palm_inside", _runner),
        Provocation("delivery", "A van delivers to the nursery", "A van comes up the lane, passes the yard gate and stands in the loading bay for some minutes.", "nursery_yard", _van),
        Provocation("linger", "Linger in the loading bay", "Somebody comes through the yard gate and hangs about the loading bay.", "nursery_yard", lingerer),
        Provocation("cut-yard", "Cut off the nursery camera", "The nursery camera stops answering for 90 seconds, then comes back.", "nursery_yard", cuts="yard", seconds=90),
        Provocation("ring", "Ring at the staff wicket", "Somebody walks up to the staff wicket and rings; nobody answers.", "service_gate"),
        Provocation("unknown-plate", "An unknown car at the service gate", "A car that is in no list drives up; its plate is read after about nine seconds.", "service_gate"),
        Provocation("staff-plate", "The gardeners' van, misread", "The gardeners' van drives up to the service gate, and the reader mistakes a character.", "service_gate"),
        Provocation("enter-vault", "Enter the seed vault", "Clio Fenwright walks up to the vault, shows her face and her card, and goes in.", "seed_vault"),
        Provocation("force-vault", "Force the vault door", "A stranger walks up to the vault and prises its door open after about sixteen seconds.", "seed_vault"),
        Provocation("excluded-person", "An excluded person at the vault", "Lorcan Viddle, who must not be here, walks past the vault's camera.", "seed_vault"),
        Provocation("warm-freezer", "Leave the freezer ajar", "The freezer's door stands ajar for fourteen minutes; it warms by 0.8 °C a minute.", "seed_vault"),
        Provocation("cut-uplink", "Unplug the lodge's uplink", "The switch tells after about three seconds that the link is down; it is plugged in again after a minute.", "lodge"),
        Provocation("spill", "Spill water in the pump room", "A bucket goes over; the water reaches the sensor after about eight seconds and is pumped off in three minutes.", "pump_room"),
        Provocation("cut-mains", "Cut the mains of the pump room", "The power supply goes over to its battery for a minute and a quarter.", "pump_room"),
        Provocation("smoke", "Smoke in the palm house", "Somebody burns the toast; the fire panel's contact closes after about twelve seconds.", "palm_house"),
        Provocation("gale", "A gale over the lake", "The wind rises to 18 m/s within two minutes and falls again.", "boathouse"),
        Provocation("cut-jetty", "Cut off the jetty camera", "The jetty camera stops answering for 45 seconds, then comes back.", "boathouse", cuts="jetty", seconds=45),
    )
}  # fmt: skip


def cast(name: str, number: int, at: int) -> tuple[Actor, ...]:
    """The people of the `number`-th entry of the kept journal, a provocation made at an instant."""
    provocation = PROVOCATIONS[name]
    if provocation.cast is None:
        return ()
    rnd = random.Random(f"provoked/{name}/{number}/{at}")
    people = provocation.cast(rnd, at)
    return tuple(replace(actor, id=9_000_000 + number * 20 + i) for i, actor in enumerate(people))
