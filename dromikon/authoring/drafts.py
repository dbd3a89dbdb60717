"""First documents to begin a rule with."""

from typing import Any

from dromikon.core.facts import Facts
from dromikon.core.kinds import KINDS
from dromikon.core.rules.causes.button import PRESSED
from dromikon.core.words import t
from dromikon.daybook.models import EventRow


def draft_of_event(event: EventRow, facts: Facts) -> dict[str, Any]:
    """A first document for "make a rule from this": same kind, same point, same class, and an alarm."""
    conditions: list[dict[str, Any]] = []
    if event.fields.get("class"):
        conditions.append({"test": "field", "field": "class", "op": "is", "value": event.fields["class"]})
    if isinstance(event.fields.get("confidence"), int | float):
        floor = max(0, int(event.fields["confidence"] // 10 * 10) - 10)
        conditions.append({"test": "field", "field": "confidence", "op": "at_least", "value": floor})
    provided = {"provided": {"test": "all", "of": conditions}} if conditions else {}
    return {**draft_of_kind(event.point, event.kind, facts, event.phase), **provided}


def draft_of_kind(point_id: str, kind_name: str, facts: Facts, phase: str = "") -> dict[str, Any]:
    """A first document for what a point can send: an alarm and a bookmark."""
    kind, point = KINDS[kind_name], facts.point_by_id.get(point_id)
    name = point.name if point else point_id
    where = {"points": [{"id": point_id, "name": name}]}
    phase = "begin" if kind.is_state else phase or kind.phases[0].value
    cause = {"cause": "event", "kind": kind_name, "phase": phase, "where": where}
    if kind_name == PRESSED:
        cause = {"cause": "button", "where": where}
    return {
        "format": "dromikon-rule/1",
        "name": f"{name} {kind.says}",
        "cause": cause,
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


def copy_of(document: dict[str, Any]) -> dict[str, Any]:
    """A rule to begin another one with."""
    return {**document, "name": t("{name} (copy)", name=document["name"])[:120]}
