"""Where on earth time zones lie: the place of each zone's own city, from the table that comes with the zone data."""

import re
from functools import lru_cache
from importlib.resources import files

_PLACE = re.compile(r"([+-])(\d{2})(\d{2})(\d{2})?([+-])(\d{3})(\d{2})(\d{2})?")


@lru_cache(maxsize=1)
def places() -> dict[str, tuple[float, float]]:
    """Zone: degrees north and east, to a hundredth. The table gives ISO 6709, in degrees, minutes and sometimes seconds."""
    found = {}
    for line in files("tzdata.zoneinfo").joinpath("zone.tab").read_text().splitlines():
        cells = line.split("\t")
        read = _PLACE.fullmatch(cells[1]) if len(cells) > 2 and not line.startswith("#") else None
        if read:
            g = read.groups(default="0")
            found[cells[2]] = (_degrees(*g[:4]), _degrees(*g[4:]))
    return found


def _degrees(sign: str, degrees: str, minutes: str, seconds: str) -> float:
    value = int(degrees) + int(minutes) / 60 + int(seconds) / 3600
    return round(-value if sign == "-" else value, 2)
