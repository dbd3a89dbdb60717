"""How the points of a site stand: what each can send, when that came last and how often, which rules listen, and how it is
now."""

import json
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from django.db.models import OuterRef, QuerySet, Subquery
from pydantic import ValidationError

from dromikon.core.devices.silence import Silence
from dromikon.core.events import Phase
from dromikon.core.facts import Facts
from dromikon.core.kinds import KINDS, Kind, public_fields
from dromikon.core.rules.document import RuleDocument
from dromikon.core.words import t
from dromikon.daybook.models import EvaluatorRow, EventRow
from dromikon.daybook.tally import Tally, day_of, tallies
from dromikon.facts import facts_of
from dromikon.sites.models import Site
from dromikon.sources.models import Device, Point
from dromikon.sources.offers import kinds_of, taught_kinds

#: Loose points send what they have sent; so many of their kinds are told before anything came.
MOST_GUESSED = 3


@dataclass(frozen=True, slots=True)
class Sends:
    """A kind that a point sends. `rules`: the ids of those that listen; `week`: how often on each of the last seven days."""

    kind: Kind
    last_at: int
    week: list[int]
    silence: Silence | None
    rules: tuple[str, ...]

    @property
    def count(self) -> int:
        """How often in the last seven days."""
        return sum(self.week)

    @property
    def unheard(self) -> bool:
        """It comes, and no rule listens."""
        return self.count > 0 and not self.rules


@dataclass(frozen=True, slots=True)
class Present:
    """How a point is now, in words; `on` when a state holds, `lost` when its device cannot tell."""

    now: str
    on: bool
    lost: bool


@dataclass(frozen=True, slots=True)
class Stands:
    """A point: how it is now, and what it sends."""

    point: Point
    present: Present
    sends: list[Sends] = field(default_factory=list)

    @property
    def last_at(self) -> int:
        return max((s.last_at for s in self.sends), default=0)

    @property
    def week(self) -> list[int]:
        """All kinds together."""
        return [sum(counts) for counts in zip(*(s.week for s in self.sends), strict=True)] if self.sends else []

    @property
    def silent(self) -> Silence | None:
        """Whether something that usually comes from it has stopped."""
        return next((s.silence for s in self.sends if s.silence), None)

    @property
    def rules(self) -> set[str]:
        return {rule for s in self.sends for rule in s.rules}


def how_points_are(site: Site, points: Iterable[Point]) -> dict[str, Present]:
    """By the point's id: what is asked again and again while events come, so it looks at no rule and no count. Each point
    comes with its device."""
    wanted = list(points)
    states, readings = _states(site.id), _readings(wanted)
    return {p.id: Present(*_now(p, states.get(p.id, {}), readings.get(p.id, "")), _is_lost(p.device)) for p in wanted}


def how_points_stand(site: Site, points: Iterable[Point], now: int) -> dict[str, Stands]:
    """By the point's id. As many questions however many points there are."""
    wanted = list(points)
    seen, listening = tallies(site.id, [p.id for p in wanted]), listeners(facts_of(site))
    present, taught = how_points_are(site, wanted), taught_kinds(site.id)
    today = day_of(now)
    found = {}
    for point in wanted:
        sends = [
            _sends(kind, seen.get((point.id, kind.name)), listening.get((kind.name, point.id), ()), today)
            for kind in _kinds(point, seen, taught)
        ]
        found[point.id] = Stands(point, present[point.id], sends)
    return found


def listeners(facts: Facts) -> dict[tuple[str, str], tuple[str, ...]]:
    """(kind, point) -> the ids of the live rules that listen, or look at it."""
    found: dict[tuple[str, str], list[str]] = defaultdict(list)
    for rule in facts.rules:
        document = read_rule(json.dumps(rule.document))
        for pair in document.concerns(facts) if document else ():
            found[pair].append(rule.id)
    return {pair: tuple(rules) for pair, rules in found.items()}


@lru_cache(maxsize=2_000)
def read_rule(document: str) -> RuleDocument | None:
    """One that is no longer valid listens to nothing."""
    try:
        return RuleDocument.model_validate_json(document)
    except ValidationError:
        return None


def _kinds(point: Point, seen: dict[tuple[str, str], Tally], taught: dict[str, set[str]]) -> list[Kind]:
    """What it can send as far as that is told; and what it has sent all the same."""
    told = kinds_of(point, taught)
    came = [k for k in KINDS if (point.id, k.name) in seen]
    if point.device_id is None and point.watch is None:
        return came or told[:MOST_GUESSED]
    return [*told, *(k for k in came if k not in told)]


def _sends(kind: Kind, tally: Tally | None, rules: tuple[str, ...], today: int) -> Sends:
    known = tally or Tally(kind.name)
    return Sends(kind, known.last_at, known.recent(today), known.silence(today), rules)


def _states(site: str) -> dict[str, dict[str, bool]]:
    """By point, whether each kind of state that was told there holds."""
    rows = EvaluatorRow.objects.filter(site=site, rule="", key__contains="@").exclude(key__startswith="last|")
    found: dict[str, dict[str, bool]] = {}
    for key, row in rows.values_list("key", "row"):
        kind, _, point = key.partition("@")
        found.setdefault(point, {})[kind] = bool(row.get("on"))
    return found


def _readings(points: list[Point]) -> dict[str, str]:
    """The last reading of each point that measures, with its unit."""
    measuring = {k for kind in KINDS if Phase.READING in kind.phases for k in kind.point_kinds}
    last: QuerySet[EventRow] = EventRow.objects.filter(point=OuterRef("pk"), phase="reading", test=False).order_by(
        "-seq"
    )
    rows = Point.objects.filter(pk__in=[p.id for p in points if p.kind in measuring]).annotate(
        read=Subquery(last.values("kind")[:1]), fields=Subquery(last.values("fields")[:1])
    )
    return {p.id: _reading(p.read, p.fields) for p in rows if p.fields}


def _reading(name: str, sent: dict[str, Any]) -> str:
    fields, kind = public_fields(sent), KINDS.get(name)
    value = kind.field("value") if kind else None
    unit = str(fields.get("unit") or (value.unit if value else ""))
    number = fields.get("value")
    shown = f"{number:.1f}".removesuffix(".0") if isinstance(number, float) else str(number)
    return f"{shown} {unit}".strip()


def _is_lost(device: Device | None) -> bool:
    return device is not None and (not device.enabled or device.state == Device.State.LOST)


def _now(point: Point, told: dict[str, bool], reading: str) -> tuple[str, bool]:
    known = [(KINDS[name], on) for name, on in told.items() if name in KINDS]
    holding = [kind.says if on else kind.says_not for kind, on in known if on != (kind.usual or point.usually_on)]
    if holding:
        return ", ".join(holding), True
    return reading or (t("at rest") if known else ""), False
