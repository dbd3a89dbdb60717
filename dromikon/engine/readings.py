"""Readings on their way to the journal: in the unit of their point, thinned, and missed when they stay away."""

from dataclasses import dataclass, replace

from dromikon.core.decoding import Decoded
from dromikon.core.events import Phase
from dromikon.core.kinds import KINDS, STALE
from dromikon.core.readings.thinning import Last, Thinning
from dromikon.core.readings.units import converted
from dromikon.daybook.models import EventRow
from dromikon.engine.deadlines import Deadlines, Key
from dromikon.engine.draft import Draft
from dromikon.sources.models import Point


@dataclass(frozen=True, slots=True)
class Sensor:
    """How a point's readings are kept."""

    unit: str
    thinning: Thinning
    stale_after: float


def sensor_of(point: Point) -> Sensor | None:
    """How a point's readings are kept; None where they are kept as they come."""
    if not (point.unit or point.deadband or point.stale_after):
        return None
    return Sensor(point.unit, Thinning(point.deadband, point.at_least_every), point.stale_after)


def in_unit(decoded: Decoded, unit: str) -> Decoded:
    """A reading in the unit of its point; one that names none is in its kind's, or else in that of the point. Raises
    OtherQuantity."""
    value = decoded.fields.get("value")
    if not unit or not _is_number(value):
        return decoded
    kind = KINDS.get(decoded.kind)
    own = kind.field("value") if kind else None
    said = str(decoded.fields.get("unit") or (own.unit if own else ""))
    # What is told besides, such as the lowest of a region, is in the same unit.
    alike = [f.name for f in kind.fields if own and f.unit == own.unit != ""] if kind else []
    told = {
        name: round(converted(float(number), said, unit), 3)
        for name in {"value", *alike}
        if _is_number(number := decoded.fields.get(name)) and number is not None
    }
    return replace(decoded, fields={**decoded.fields, **told, "unit": unit})


class Readings:
    """What was told last at each point: in memory, and after a restart from the journal."""

    def __init__(self) -> None:
        self._last: dict[tuple[str, str], Last | None] = {}

    def worth(self, draft: Draft, sensor: Sensor, deadlines: Deadlines) -> list[Draft]:
        """What a reading becomes: nothing where it tells nothing new. If no other comes, it is stale in time."""
        if sensor.stale_after:
            due = draft.received_at + round(sensor.stale_after * 1000)
            deadlines.set(Key(draft.site, STALE, draft.point, Phase.BEGIN), due)
        value = draft.fields.get("value")
        if not _is_number(value):
            return [draft]
        key, told = (draft.point, draft.kind), float(value or 0)
        if not sensor.thinning.lets(self._last_of(key), draft.occurred_at, told):
            return []
        self._last[key] = (draft.occurred_at, told)
        return [draft]

    def _last_of(self, key: tuple[str, str]) -> Last | None:
        if key not in self._last:
            self._last[key] = _told_last(*key)
        return self._last[key]


def _told_last(point: str, kind: str) -> Last | None:
    row = EventRow.objects.filter(point=point, kind=kind, phase=Phase.READING, test=False).order_by("-seq").first()
    if row is None or not _is_number(row.fields.get("value")):
        return None
    return row.occurred_at, float(row.fields["value"])


def _is_number(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)
