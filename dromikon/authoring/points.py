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
from dromikon.sources.models import Point
from dromikon.sources.offers import kinds_of

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
class Stands:
    """A point: how it is now in words (`on` when a state holds), and what it sends."""

    point: Point
    now: str
    on: bool
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


def how_points_stand(site: Site, points: Iterable[Point], now: int) -> dict[str, Stands]:
    """By the point's id. As many questions however many points there are."""
    wanted = list(points)
    seen, listening = tallies(site.id), listeners(facts_of(site))
    states, values = _states(site.id), _values(wanted)
    today = day_of(now)
    found = {}
    for point in wanted:
        sends = [
            _sends(kind, seen.get((point.id, kind.name)), listening.get((kind.name, point.id), ()), today)
            for kind in _kinds(point, seen)
        ]
        words, on = _now(point, sends, states, values.get(point.id))
        found[point.id] = Stands(point, words, on, sends)
    return found


def listeners(facts: Facts) -> dict[tuple[str, str], tuple[str, ...]]:
    """(kind, point) -> the ids of the live rules that listen, or look at it."""
    found: dict[tuple[str, str], list[str]] = defaultdict(list)
    for rule in facts.rules:
        document = _read(json.dumps(rule.document))
        for pair in document.concerns(facts) if document else ():
            found[pair].append(rule.id)
    return {pair: tuple(rules) for pair, rules in found.items()}


@lru_cache(maxsize=2_000)
def _read(document: str) -> RuleDocument | None:
    """One that is no longer valid listens to nothing."""
    try:
        return RuleDocument.model_validate_json(document)
    except ValidationError:
        return None


def _kinds(point: Point, seen: dict[tuple[str, str], Tally]) -> list[Kind]:
    """What it can send as far as that is told; and what it has sent all the same."""
    told = kinds_of(point)
    came = [k for k in KINDS if (point.id, k.name) in seen]
    if point.device_id is None:
        return came or told[:MOST_GUESSED]
    return [*told, *(k for k in came if k not in told)]


def _sends(kind: Kind, tally: Tally | None, rules: tuple[str, ...], today: int) -> Sends:
    known = tally or Tally()
    return Sends(kind, known.last_at, known.recent(today), known.silence(today), rules)


def _states(site: str) -> dict[str, bool]:
    """Whether each state that was told holds, by "kind@point"."""
    rows = EvaluatorRow.objects.filter(site=site, rule="", key__contains="@").exclude(key__startswith="last|")
    return {key: bool(row.get("on")) for key, row in rows.values_list("key", "row")}


def _values(points: list[Point]) -> dict[str, dict[str, Any]]:
    """The fields of the last reading of each point that measures."""
    measuring = {k for kind in KINDS if Phase.READING in kind.phases for k in kind.point_kinds}
    last: QuerySet[EventRow] = EventRow.objects.filter(point=OuterRef("pk"), phase="reading").order_by("-seq")
    ids = [p.id for p in points if p.kind in measuring]
    rows = Point.objects.filter(pk__in=ids).annotate(fields=Subquery(last.values("fields")[:1]))
    return {p.id: p.fields for p in rows if p.fields}


def _now(point: Point, sends: list[Sends], states: dict[str, bool], value: dict[str, Any] | None) -> tuple[str, bool]:
    told = {s.kind: states[f"{s.kind.name}@{point.id}"] for s in sends if f"{s.kind.name}@{point.id}" in states}
    holding = [
        kind.says if on else kind.says_not for kind, on in told.items() if on != (kind.usual or point.usually_on)
    ]
    if holding:
        return ", ".join(holding), True
    if value:
        return _reading(sends, value), False
    return (t("at rest"), False) if told else ("", False)


def _reading(sends: list[Sends], value: dict[str, Any]) -> str:
    fields = public_fields(value)
    known = next((s.kind.field("value") for s in sends if Phase.READING in s.kind.phases), None)
    unit = str(fields.get("unit") or (known.unit if known else ""))
    number = fields.get("value")
    shown = f"{number:.1f}".removesuffix(".0") if isinstance(number, float) else str(number)
    return f"{shown} {unit}".strip()
