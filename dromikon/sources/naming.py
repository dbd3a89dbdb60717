"""What points are called in messages."""

from collections.abc import Iterable

from dromikon.sources.models import Point


def names_of(points: Iterable[Point], device: str | None = None) -> dict[str, str]:
    """A site's points by every name under which messages may know them: its id, the name that senders give it, and in the
    messages of a device the device's own token."""
    found: dict[str, str] = {}
    for point in points:
        found[point.id] = point.id
        if point.token and point.device_id in (None, device):
            found[point.token] = point.id
    return found
