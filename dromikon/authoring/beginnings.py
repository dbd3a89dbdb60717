"""How a rule is begun: from an event, a point, a common job, another rule, or from nothing."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from dromikon.authoring.drafts import copy_of, draft_of_event, draft_of_kind
from dromikon.authoring.known import known_of
from dromikon.authoring.points import Sends, how_points_stand
from dromikon.clock import now_ms
from dromikon.core import reading
from dromikon.core.facts import Facts
from dromikon.core.kinds import KINDS
from dromikon.core.point_kinds import POINT_KINDS
from dromikon.core.rules.starting import STARTING, Starting, Wider, bind, open_places, suggested
from dromikon.core.words import t
from dromikon.daybook.models import EventRow
from dromikon.people.access import Access
from dromikon.rulebook.models import Rule
from dromikon.sources.models import Point

NOTHING: dict[str, Any] = {"format": "dromikon-rule/1", "name": "", "response": []}


@dataclass(frozen=True, slots=True)
class Beginning:
    """A first document, and what it leaves to be chosen, for the page to ask in this order."""

    document: dict[str, Any] = field(default_factory=lambda: dict(NOTHING))
    asks: list[dict[str, Any]] = field(default_factory=list)


def begin(access: Access, facts: Facts, asked: Mapping[str, str]) -> Beginning:
    """As an address asks for it: `event`, `point` with `kind`, `from` with `device`, or `copy`."""
    for name, make in _BEGINNINGS.items():
        if name in asked:
            made = make(access, facts, asked)
            if made is not None:
                return made
    return Beginning()


def _of_event(access: Access, facts: Facts, asked: Mapping[str, str]) -> Beginning | None:
    seq = reading.whole_or_none(asked["event"])
    event = EventRow.objects.filter(site=access.site.id, seq=seq).first() if seq is not None else None
    return Beginning(draft_of_event(event, facts), [_who(facts)]) if event is not None else None


def _of_point(access: Access, facts: Facts, asked: Mapping[str, str]) -> Beginning | None:
    kind = KINDS.get(asked.get("kind", ""))
    if kind is None or asked["point"] not in facts.point_by_id:
        return None
    return Beginning(draft_of_kind(asked["point"], kind.name, facts), [_who(facts)])


def _of_job(access: Access, facts: Facts, asked: Mapping[str, str]) -> Beginning | None:
    chosen = STARTING.get(asked["from"])
    if chosen is None:
        return None
    within = frozenset(p.id for p in facts.points if p.device and p.device == asked.get("device"))
    sends = known_of(access.site.id).sends
    document = bind(chosen, suggested(chosen, facts, sends, within)).to_json()
    return Beginning(document, _open(chosen, facts, sends, within))


def _of_rule(access: Access, facts: Facts, asked: Mapping[str, str]) -> Beginning | None:
    rule = Rule.objects.filter(pk=asked["copy"], site=access.site).first()
    return Beginning(copy_of(rule.document_of(rule.latest))) if rule is not None else None


_BEGINNINGS = {"event": _of_event, "point": _of_point, "from": _of_job, "copy": _of_rule}


def _who(facts: Facts) -> dict[str, Any]:
    """Who sees the alarm of a new rule."""
    groups = [{"id": g.id, "name": g.name} for g in facts.groups if g.roles or g.persons]
    return {"label": t("who sees it"), "many": True, "paths": ["response.0.groups"], "chosen": [], "options": groups}


def _open(
    chosen: Starting, facts: Facts, sends: Mapping[str, frozenset[str]], within: frozenset[str]
) -> list[dict[str, Any]]:
    return [
        {
            "label": t(o.place.label), "many": o.many, "paths": list(o.paths), "chosen": [],
            "options": [{"id": id, "name": name} for id, name in o.options] + [_wide(w) for w in o.wider],
            "sources": o.place.what == "points",
        }
        for o in open_places(chosen, facts, sends, within)
    ]  # fmt: skip


def _wide(wider: Wider) -> dict[str, Any]:
    """Several at once as something to choose: which part of the selection it goes into, and as what."""
    if wider.part == "areas":
        name, item = t("Anything in {area}", area=wider.name), {"id": wider.id, "name": wider.name}
        return {"id": f"areas:{wider.id}", "name": name, "part": "areas", "item": item}
    name = t("Any {kind}", kind=t(POINT_KINDS[wider.id]).lower())
    return {"id": f"point_kinds:{wider.id}", "name": name, "part": "point_kinds", "item": wider.id}


def what_can_happen(access: Access, point_id: str) -> tuple[Point, list[Sends]] | None:
    """A point and what it sends: what came lately first."""
    point = (
        Point.objects.filter(site=access.site, id=point_id, retired_at=None).select_related("device", "area").first()
    )
    if point is None:
        return None
    [stand] = how_points_stand(access.site, [point], now_ms()).values()
    return point, sorted(stand.sends, key=lambda s: -s.count)
