"""How a thermal camera makes temperatures of radiation, and colours of temperatures."""

from dataclasses import asdict, dataclass
from json import dumps, loads

KELVIN = 273.15
#: What the boiler house's things really radiate, and how warm is what they reflect, in °C.
TRULY, AROUND = 0.95, 21.0
#: Colours by token: their name, and from cold to hot.
PALETTES: dict[str, tuple[str, tuple[tuple[int, int, int], ...]]] = {
    "white": ("White is hot", ((5, 5, 5), (250, 250, 250))),
    "black": ("Black is hot", ((250, 250, 250), (5, 5, 5))),
    "ember": ("Ember", ((8, 10, 24), (74, 22, 62), (186, 62, 34), (250, 190, 88), (255, 250, 236))),
    "moss": ("Moss to straw", ((10, 22, 26), (22, 78, 70), (120, 140, 60), (232, 212, 130), (255, 252, 240))),
}


@dataclass(frozen=True, slots=True)
class Measuring:
    """What the camera was told of what it measures, and the colours in which it shows it."""

    emissivity: float = TRULY
    distance: float = 6.0
    reflected: float = AROUND
    palette: str = "white"

    def reads(self, celsius: float) -> float:
        """The temperature that it makes of a thing that is so warm: what comes from there is its own radiation and what it reflects,
        each by the fourth power (Stefan and Boltzmann)."""
        own, around, told = celsius + KELVIN, AROUND + KELVIN, self.reflected + KELVIN
        comes: float = TRULY * own**4 + (1 - TRULY) * around**4
        left = max(1.0, (comes - (1 - self.emissivity) * told**4) / self.emissivity)
        return float(left**0.25 - KELVIN)

    def written(self) -> str:
        return dumps(asdict(self))


def read_measuring(text: str) -> Measuring:
    return Measuring(**loads(text))
