"""What the editor can choose from at a site, as JSON."""

from collections.abc import Mapping
from typing import Any

from dromikon.core.facts import Facts
from dromikon.core.offered import kinds_offered
from dromikon.core.rules.actions.summon import WAYS
from dromikon.core.rules.comparison import FITTING, OPERATORS
from dromikon.core.words import t


def catalogue_of(facts: Facts, sends: Mapping[str, frozenset[str]]) -> dict[str, Any]:
    """Kinds of event with their fields, and whatever the site has. `sends`: the kinds that a point is known to send."""
    return {
        "kinds": kinds_offered(),
        "operators": [
            {
                "name": name, "words": t(words), "many": many, "numeric": numeric,
                "types": [type for type, fitting in FITTING.items() if name in fitting],
            }
            for name, (words, many, numeric) in OPERATORS.items()
        ],
        "points": _points(facts, sends),
        "areas": [{"id": a.id, "name": a.name} for a in facts.areas],
        "devices": [{"id": d.id, "name": d.name} for d in facts.devices],
        "hours": [{"id": h.id, "name": h.name} for h in facts.hours],
        "groups": [{"id": g.id, "name": g.name} for g in facts.groups],
        "persons": [{"id": m.id, "name": m.name, "ways": [w for w in WAYS if m.has(w)]} for m in facts.members],
        "destinations": [{"id": d.id, "name": d.name, "kind": d.sort} for d in facts.destinations],
        "lists": [{"id": known.id, "name": known.name} for known in facts.lists],
        "counters": [{"id": c.id, "name": c.name} for c in facts.counters],
        "sounds": [{"id": s.id, "name": s.name} for s in facts.sounds],
        "displays": [{"id": d.id, "name": d.name} for d in facts.displays],
        "modes": list(facts.modes),
        "tags": sorted({tag for p in facts.points for tag in p.tags}),
        "point_kinds": sorted({p.kind for p in facts.points}),
    }  # fmt: skip


def _points(facts: Facts, sends: Mapping[str, frozenset[str]]) -> list[dict[str, Any]]:
    areas = {a.id: a.name for a in facts.areas}
    return [
        {
            "id": p.id,
            "name": p.name,
            "kind": p.kind,
            "area": areas.get(p.area or "", ""),
            "waits": p.waits,
            "cameras": list(facts.cameras_of(p.id)),
            "presets": list(p.told.presets),
            "signals": [s.name for s in p.siren.signals] if p.siren else [],
            # Null where nobody knows; then it is offered by its sort.
            "sends": sorted(sends[p.id]) if p.id in sends else None,
        }
        for p in facts.points
    ]
