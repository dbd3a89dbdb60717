"""First documents to begin a rule with."""

from typing import Any

from dromikon.core.facts import Facts
from dromikon.core.kinds import KINDS
from dromikon.daybook.models import EventRow


def draft_of_event(event: EventRow, facts: Facts) -> dict[str, Any]:
    """A first document for "make a rule from this": same kind, same point, same class, and an alarm."""
    kind, point = KINDS[event.kind], facts.point_by_id.get(event.point)
    name = point.name if point else event.point
    where = {"points": [{"id": event.point, "name": name}]}
    cause = {"cause": "event", "kind": event.kind, "phase": "begin" if kind.is_state else event.phase, "where": where}
    if event.kind == "button.pressed":
        cause = {"cause": "button", "where": where}
    conditions: list[dict[str, Any]] = []
    if event.fields.get("class"):
        conditions.append({"test": "field", "field": "class", "op": "is", "value": event.fields["class"]})
    if isinstance(event.fields.get("confidence"), int | float):
        floor = max(0, int(event.fields["confidence"] // 10 * 10) - 10)
        conditions.append({"test": "field", "field": "confidence", "op": "at_least", "value": floor})
    return {
        "format": "dromikon-rule/1",
        "name": f"{name} {kind.says}",
        "cause": cause,
        **({"provided": {"test": "all", "of": conditions}} if conditions else {}),
        "hold_off": {"seconds": 60, "per": "point"},
        "response": [
            {"do": "alarm", "priority": "medium", "title": "{point} " + kind.says},
            {
                "do": "bookmark",
                "title": "{rule}",
                "before": max(10, int(point.waits if point else 0) + 5),
                "beyond": 20,
            },
        ],
    }
