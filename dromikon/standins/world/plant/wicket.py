"""The service gate: plates are read, a barrier stands, somebody rings at the staff wicket."""

import random
from collections.abc import Iterator
from datetime import date

from dromikon.standins.world.plant.signals import Provoked, Signal, Value, around, at_times, dice, names_of

STAFF_PLATES = {
    "QM17 FKD": "Gardeners' van", "QM21 LBE": "Gardeners' pick-up", "OR06 CHD": "Orchid house", "LK12 WDN": "Lake warden",
    "PX19 AMW": "Agnes Marlowe", "VR68 OSG": "Bertil Osgood",
}  # fmt: skip
DELIVERY_PLATES = {"TB70 PTS": "Tarn Bridge Pots", "FX22 MOS": "Fellside Moss and Bark", "HN15 GLZ": "Hanlow Glaziers"}
#: A call that nobody answers rings for so long, in ms.
GIVEN_UP = 40_000
#: What a reader takes for what.
MISREADS = {"0": "O", "O": "0", "1": "I", "B": "8", "8": "B", "S": "5", "5": "S", "Z": "2", "D": "O", "Q": "O"}


def gate_and_wicket(seed: int, day: date, provoked: tuple[Provoked, ...]) -> Iterator[Signal]:
    """Plates and calls of a day."""
    rnd = dice(seed, "service gate", day)
    if day.weekday() < 6:
        for hour, plates in ((6.8, STAFF_PLATES), (9.2, DELIVERY_PLATES), (16.4, STAFF_PLATES)):
            for plate in rnd.sample(list(plates), rnd.randrange(2, len(plates) + 1)):
                direction = "out" if hour > 16 else "in"
                yield _read(rnd, around(rnd, day, hour, 80), plate, direction)
    for at in at_times(rnd, day, 8, 20, 0.12):
        yield _read(rnd, at, _somebodys_plate(rnd), "in")
    if rnd.random() < 0.55:
        yield _read(rnd, around(rnd, day, 21.2, 150), _somebodys_plate(rnd), "in")
    for at in at_times(rnd, day, 7.5, 18, 0.5):
        yield from _call(rnd, at, answered=rnd.random() > 0.18)
    for at in names_of(provoked, "unknown-plate"):
        yield _read(random.Random(at), at + 9_000, _somebodys_plate(random.Random(at)), "in")
    for at in names_of(provoked, "staff-plate"):
        yield _read(random.Random(f"{at}"), at + 9_000, "QM17 FKD", "in", misread=True)
    for at in names_of(provoked, "ring"):
        yield from _call(random.Random(at), at + 8_000, answered=False)


def _call(rnd: random.Random, at: int, answered: bool) -> Iterator[Signal]:
    yield Signal(at, "call.rung", "wicket", "pulse")
    ends = at + GIVEN_UP
    if answered:
        taken = at + rnd.randrange(5_000, 24_000)
        yield Signal(taken, "call.answered", "wicket", "pulse")
        ends = taken + 6_000 + at % 9_000
    yield Signal(ends, "call.ended", "wicket", "pulse")


def _read(rnd: random.Random, at: int, plate: str, direction: str, misread: bool | None = None) -> Signal:
    wrong = rnd.random() < 0.14 if misread is None else misread
    truth, places = plate, [i for i, c in enumerate(plate) if c in MISREADS]
    if wrong and places:
        i = rnd.choice(places)
        plate = plate[:i] + MISREADS[plate[i]] + plate[i + 1 :]
    fields: dict[str, Value] = {
        "plate": plate.replace(" ", ""),
        "confidence": round(rnd.uniform(62, 99) - (12 if wrong else 0), 1),
    }
    return Signal(at, "plate.read", "service-plates", "pulse", {**fields, "direction": direction}, truth)


def _somebodys_plate(rnd: random.Random) -> str:
    letters = "ABCEFHJKLNPRTUVWXY"
    return f"{rnd.choice(letters)}{rnd.choice(letters)}{rnd.randrange(10, 75)} {''.join(rnd.choice(letters) for _ in range(3))}"
