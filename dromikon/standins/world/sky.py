"""Sun and weather over the garden. Sun after the astral package; weather is seeded by the hour and believable."""

import math
import random
from dataclasses import dataclass
from functools import lru_cache

from astral import Observer
from astral.sun import azimuth, elevation

from dromikon.core.instants import to_datetime

GARDEN = Observer(latitude=54.2, longitude=-2.9)
HOUR = 3_600_000
#: The share of overcast hours in which it rains.
RAINY = 0.35


@dataclass(frozen=True, slots=True)
class Light:
    """The light of a picture, in steps, so that scenery need not be lit anew for each frame.

    `height` and `side` are the sun's elevation and azimuth in degrees, `cloud` 0 clear, 1 broken, 2 overcast.
    """

    height: int
    side: int
    cloud: int

    @property
    def night(self) -> bool:
        """Dark enough for a camera to turn to infra-red."""
        return self.height < -4

    @property
    def sun(self) -> tuple[float, float, float]:
        """Unit vector to the sun."""
        e, a = math.radians(max(self.height, 2)), math.radians(self.side)
        return math.sin(a) * math.cos(e), math.cos(a) * math.cos(e), math.sin(e)


@lru_cache(maxsize=4096)
def cloud(hour: int, seed: int) -> int:
    """0 clear, 1 broken, 2 overcast, for an hour since the epoch: a slow mood with a quick one on top."""
    slow = random.Random(f"{seed}/sky/{hour // 9}").random()
    quick = random.Random(f"{seed}/sky/h{hour}").random()
    mood = 0.65 * slow + 0.35 * quick
    return 0 if mood < 0.36 else 1 if mood < 0.56 else 2


@lru_cache(maxsize=4096)
def _rains(hour: int, seed: int) -> bool:
    return cloud(hour, seed) == 2 and random.Random(f"{seed}/rain/{hour}").random() < RAINY


def raining(at: int, seed: int) -> bool:
    """Whether it rains at an instant: in some overcast hours."""
    return _rains(at // HOUR, seed)


@lru_cache(maxsize=4096)
def _sun(step: int) -> tuple[float, float]:
    moment = to_datetime(step * 300_000)
    return elevation(GARDEN, moment), azimuth(GARDEN, moment)


def light(at: int, seed: int) -> Light:
    """The light at an instant."""
    high, side = _sun(at // 300_000)
    clouds = cloud(at // HOUR, seed)
    if high < -4:
        return Light(-10, 0, 2)
    height = round(high / 4) * 4
    return Light(height, 0 if clouds == 2 or height < 0 else round(side / 15) * 15, clouds)


#: A room without light, which its camera lights itself, and one with the lamps on.
DARK, ELECTRIC = Light(-10, 0, 2), Light(60, 0, 2)
#: Steps of brightness under glass.
STEPS = (0, 8, 20, 40)


def under_glass(outside: Light) -> Light:
    """Under glass daylight comes from everywhere, so that its side and small steps of it do not tell."""
    if outside.night:
        return DARK
    return Light(max((step for step in STEPS if step <= outside.height), default=0), 0, 2)
