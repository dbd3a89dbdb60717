"""What sensors have read, with the limits that live rules set for them."""

import json
from dataclasses import dataclass

from dromikon.authoring.points import listeners, read_rule
from dromikon.core.events import Phase
from dromikon.core.kinds import KINDS
from dromikon.core.rules.limits import limits_of
from dromikon.facts import facts_of
from dromikon.sites.models import Site


@dataclass(frozen=True, slots=True)
class Limit:
    """A value with which a live rule compares a point's readings."""

    value: float
    rule: str
    name: str


#: Kinds that are readings, and the points that send them.
READINGS = [kind.name for kind in KINDS if Phase.READING in kind.phases]
MEASURING = sorted({point for kind in KINDS if Phase.READING in kind.phases for point in kind.point_kinds})


def limits_by_point(site: Site) -> dict[str, list[Limit]]:
    """By point, the limits of all live rules that listen to its readings."""
    facts = facts_of(site)
    documents = {rule.id: read_rule(json.dumps(rule.document)) for rule in facts.rules}
    found: dict[str, list[Limit]] = {}
    for (kind, point), rules in listeners(facts).items():
        if kind not in READINGS:
            continue
        for id in rules:
            document = documents.get(id)
            limits = limits_of(document) if document else []
            found.setdefault(point, []).extend(Limit(value, id, document.name if document else "") for value in limits)
    return found
