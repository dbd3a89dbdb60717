"""The seed vault: staff show their face and a card, the door opens; now and then somebody else is seen."""

import random
from collections.abc import Iterator
from datetime import date

from dromikon.standins.faces.features import look_of
from dromikon.standins.faces.model import template_of
from dromikon.standins.world.forecourt import box_at
from dromikon.standins.world.plant.signals import Provoked, Signal, Value, around, at_times, dice, names_of, state

#: Cards of the staff who may enter, by person.
STAFF = {
    "Agnes Marlowe": "Q-1041", "Bertil Osgood": "Q-1042", "Clio Fenwright": "Q-1043", "Dunstan Reeve": "Q-1044",
    "Elspeth Harrow": "Q-1045", "Ferdie Stanmoor": "Q-1046",
}  # fmt: skip
#: How much one look at somebody differs from the next, in spreads of what people differ by.
NOISE = 0.3
EXCLUDED = ("Lorcan Viddle", "Sabine Crake")


def vault(seed: int, day: date, provoked: tuple[Provoked, ...]) -> Iterator[Signal]:
    """Entries of a day, and what goes wrong."""
    rnd = dice(seed, "vault", day)
    for at in at_times(rnd, day, 8, 17.5, 0.9):
        yield from _entry(rnd, at, rnd.choice(list(STAFF)))
    if rnd.random() < 0.35:
        # Somebody holds the door for a colleague who shows no card: the door opens without one.
        yield from _door(around(rnd, day, 14, 120), rnd.uniform(5, 9))
    if rnd.random() < 0.25:
        yield _face(rnd, around(rnd, day, 15, 100), rnd.choice(EXCLUDED))
    if rnd.random() < 0.4:
        yield _face(rnd, around(rnd, day, 20.5, 150), f"stranger {day.isoformat()}")
    for at in names_of(provoked, "force-vault"):
        yield _face(random.Random(at), at + 9_000, f"stranger {at}")
        yield Signal(at + 16_000, "door.forced", "vault-door", "pulse")
        yield from _door(at + 16_000, 40)
    for at in names_of(provoked, "excluded-person"):
        yield _face(random.Random(at), at + 9_000, EXCLUDED[0])
    for at in names_of(provoked, "enter-vault"):
        yield from _entry(random.Random(at), at + 9_000, "Clio Fenwright")


def _entry(rnd: random.Random, at: int, person: str) -> Iterator[Signal]:
    yield _face(rnd, at, person)
    shown = at + rnd.randrange(4_000, 8_000)
    if rnd.random() < 0.06:
        yield Signal(shown, "access.denied", "vault-door", "pulse", {"card": "Q-0990", "person": ""})
        shown += 7_000
    yield Signal(shown, "access.granted", "vault-door", "pulse", {"card": STAFF[person], "person": person})
    yield from _door(shown + 900, rnd.uniform(4, 9))


def _door(at: int, seconds: float) -> Iterator[Signal]:
    return state(at, seconds, "door.open", "vault-door")


def _face(rnd: random.Random, at: int, person: str) -> Signal:
    fields: dict[str, Value] = {
        "template": template_of(person, NOISE, str(at)),
        "confidence": round(rnd.uniform(71, 98), 1),
        "covered": "free",
        "live": "person",
        "box": box_at(at, look_of(person)),
    }
    return Signal(at, "face.seen", "vault-face", "pulse", fields, truth=person)
