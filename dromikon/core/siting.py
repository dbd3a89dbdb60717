"""Where things stand on a site's plan, and what cameras see of it. Metres from the plan's upper left corner, x to the right and
y downwards; directions as on a compass, 0 upwards and 90 to the right."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

Place = tuple[float, float]

#: What a camera sees until somebody says otherwise: degrees, metres.
USUAL_VIEW, USUAL_REACH = 70.0, 25.0
#: Straight pieces of the rim of a view.
_PIECES = 12


@dataclass(frozen=True, slots=True)
class Eye:
    """A camera on the plan: where it stands, the direction in which it looks, how wide it sees, and how far."""

    x: float
    y: float
    looks: float = 0.0
    view: float = USUAL_VIEW
    reach: float = USUAL_REACH

    def direction_to(self, place: Place) -> float:
        """Degrees from where it looks to a place, from -180 to 180."""
        bearing = math.degrees(math.atan2(place[0] - self.x, self.y - place[1]))
        return (bearing - self.looks + 180) % 360 - 180

    def distance_to(self, place: Place) -> float:
        return math.hypot(place[0] - self.x, place[1] - self.y)

    def sees(self, place: Place) -> bool:
        """Whether a place lies in its view, as far as a plan can tell: walls are not known."""
        return self.distance_to(place) <= self.reach and abs(self.direction_to(place)) <= self.view / 2

    def outline(self) -> list[Place]:
        """The corners of its view."""
        first = self.looks - self.view / 2
        rim = [self._at(first + self.view * i / _PIECES, self.reach) for i in range(_PIECES + 1)]
        return [(self.x, self.y), *rim]

    def tip(self) -> Place:
        """The farthest place of its view, straight ahead."""
        return self._at(self.looks, self.reach)

    def _at(self, degrees: float, far: float) -> Place:
        angle = math.radians(degrees)
        return round(self.x + far * math.sin(angle), 2), round(self.y - far * math.cos(angle), 2)


def suggested_sightlines(eyes: Mapping[str, Eye], place: Place, known: Iterable[str] = ()) -> list[str]:
    """Cameras that see a place and are not known to look at it yet, the best first: near, and not at the rim of the view."""
    seen = {id: eye for id, eye in eyes.items() if id not in set(known) and eye.sees(place)}
    return sorted(seen, key=lambda id: _effort(seen[id], place))


def _effort(eye: Eye, place: Place) -> float:
    """Distance by reach, and how far from the middle of the view."""
    return eye.distance_to(place) / eye.reach + abs(eye.direction_to(place)) / max(eye.view, 1.0)
