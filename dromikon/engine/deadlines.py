"""Events that happen by themselves: what was said to end after a time, and readings that have become stale. Rows, so that they
outlive a restart; written with the turn that set them."""

from typing import NamedTuple

from django.db.models import Q

from dromikon.core.events import Phase
from dromikon.daybook.models import Deadline


class Key(NamedTuple):
    """What will happen, and where."""

    site: str
    kind: str
    point: str
    phase: Phase


class Deadlines:
    """What is due when. Changes are kept until they are written."""

    def __init__(self) -> None:
        self._due: dict[Key, int] = {}
        self._changed: dict[Key, int | None] = {}
        #: The first of them, while it is known: asked for with each message, and sensors set theirs with each reading.
        self._first: tuple[int, Key] | None = None

    @classmethod
    def read(cls) -> "Deadlines":
        found = cls()
        for site, kind, point, phase, due in Deadline.objects.values_list("site", "kind", "point", "phase", "due"):
            found._due[Key(site, kind, point, Phase(phase))] = due
        return found

    def set(self, key: Key, due: int) -> None:
        """It happens then; what was set before counts no more."""
        self._due[key] = self._changed[key] = due
        if self._first is not None and (key == self._first[1] or due < self._first[0]):
            self._first = None

    def cancel(self, key: Key) -> None:
        """It does not happen."""
        if self._due.pop(key, None) is not None:
            self._changed[key] = None
            if self._first is not None and key == self._first[1]:
                self._first = None

    def next(self) -> int | None:
        """When the first of them is due."""
        if self._first is None:
            self._first = min(((due, key) for key, due in self._due.items()), default=None)
        return self._first[0] if self._first else None

    def take(self, at: int) -> list[Key]:
        """What is due by an instant, in order; it is due no more."""
        found = sorted((due, key) for key, due in self._due.items() if due <= at)
        for _, key in found:
            self.cancel(key)
        return [key for _, key in found]

    def write(self) -> None:
        """What has changed since it was last written, in few statements."""
        changed, self._changed = self._changed, {}
        gone = [key for key, due in changed.items() if due is None]
        for start in range(0, len(gone), 100):
            which = Q()
            for key in gone[start : start + 100]:
                which |= Q(site=key.site, kind=key.kind, point=key.point, phase=key.phase.value)
            Deadline.objects.filter(which).delete()
        rows = [
            Deadline(site=k.site, kind=k.kind, point=k.point, phase=k.phase.value, due=due)
            for k, due in changed.items()
            if due is not None
        ]
        if rows:
            unique = ["site", "kind", "point", "phase"]
            Deadline.objects.bulk_create(rows, update_conflicts=True, unique_fields=unique, update_fields=["due"])
