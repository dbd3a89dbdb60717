"""Events as JSON, for evaluator state and the journal: written and read in one place."""

from typing import Any

from dromikon.core.events import Event, Phase


def event_to_json(event: Event) -> dict[str, Any]:
    """A JSON-able dict that `event_from_json` reads back to an equal event."""
    return {
        "seq": event.seq,
        "kind": event.kind,
        "point": event.point,
        "phase": event.phase.value,
        "at": event.at,
        "occurred_at": event.occurred_at,
        "received_at": event.received_at,
        "device_at": event.device_at,
        "fields": dict(event.fields),
        "late": event.late,
        "initial": event.initial,
        "chain": list(event.chain),
        **({"test": True} if event.test else {}),
    }


def event_from_json(data: dict[str, Any]) -> Event:
    """The inverse of `event_to_json`."""
    return Event(**{**data, "phase": Phase(data["phase"]), "chain": tuple(data.get("chain", ()))})
