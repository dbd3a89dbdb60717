"""Which points stand for a device as a whole: what happens to the device happens there."""

from collections.abc import Iterable

#: Kinds of point that can: the first of these that a device has. Its detectors and what hangs on its contacts are only part of it.
OF_DEVICE = ("camera", "door", "station", "power", "sensor", "input", "relay")

#: A clock that is off by more is wrong, in ms: what is less is corrected and no matter for anybody.
CLOCK_WRONG = 30_000


def stand_for_device(points: Iterable[tuple[str, str]]) -> tuple[str, ...]:
    """Of a device's points, as (id, kind): its channels, or else its doors, and so on."""
    known = list(points)
    for kind in OF_DEVICE:
        found = tuple(id for id, is_kind in known if is_kind == kind)
        if found:
            return found
    return ()
