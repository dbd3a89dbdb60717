"""The rules of a site as they are listed: by what they are for, where they are about, or what sets them off."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import date
from typing import Literal

from django.db.models import Max

from dromikon.authoring.services import current_revisions, document_of
from dromikon.clock import now_ms
from dromikon.core.facts import Facts
from dromikon.core.hours import wall_clock
from dromikon.core.instants import Instant
from dromikon.core.kinds import KINDS
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.matrix import Matrix, matrix
from dromikon.core.rules.parts import Phrase
from dromikon.core.rules.sentence import sentence
from dromikon.core.words import t
from dromikon.daybook.models import RunRow
from dromikon.facts import names_of
from dromikon.people.access import Access
from dromikon.rulebook.models import Revision, Rule

DAY = 86_400_000
WEEK = 7
By = Literal["purpose", "area", "kind"]


@dataclass(frozen=True, slots=True)
class Line:
    """One rule as it counts. `week`: runs on each of the past seven days of the site's calendar, today last."""

    rule: Rule
    group: str
    sentence: list[Phrase]
    tags: tuple[str, ...]
    week: dict[date, int]
    last: Instant | None

    @property
    def total(self) -> int:
        return sum(self.week.values())

    @property
    def average(self) -> float:
        """Runs a day."""
        return self.total / WEEK


@dataclass(frozen=True, slots=True)
class Listed:
    lines: list[Line]
    count: int
    following: int | None


def rules_of(access: Access, by: By, start: int, most: int, retired: bool = False) -> Listed:
    """Some of the rules, by group and by name; or of those that were taken out of the rulebook."""
    facts, revisions = names_of(access.site), current_revisions(access.site, retired)
    group_of = _GROUPS[by]
    known = sorted(
        ((group_of(document_of(r), facts), r) for r in revisions),
        key=lambda item: (item[0].casefold(), item[1].rule.name),
    )
    shown = known[start : start + most]
    ids = [r.rule_id for _, r in shown]
    weeks, last = _weeks(ids, access.site.zone), _last(ids)
    following = start + most if start + most < len(known) else None
    return Listed([_line(g, r, facts, weeks, last) for g, r in shown], len(known), following)


def _line(
    group: str, revision: Revision, facts: Facts, weeks: dict[str, dict[date, int]], last: dict[str, Instant]
) -> Line:
    document, rule = document_of(revision), revision.rule
    return Line(rule, group, sentence(document, facts), document.tags, weeks[rule.id], last.get(rule.id))


def _by_purpose(document: RuleDocument, facts: Facts) -> str:
    return document.purpose or t("Other")


def _by_area(document: RuleDocument, facts: Facts) -> str:
    """The area of all its points; one that is about several stands with the like."""
    points = [facts.point_by_id.get(point) for _, point in document.cause.triggers(facts)]
    areas = {p.area for p in points if p is not None}
    if len(areas) > 1:
        return t("Several areas")
    only = next(iter(areas), None)
    return (facts.name_of("area", only) if only else None) or t("The site as a whole")


def _by_kind(document: RuleDocument, facts: Facts) -> str:
    return t(KINDS[document.cause.event_kind()].label)


_GROUPS: dict[By, Callable[[RuleDocument, Facts], str]] = {
    "purpose": _by_purpose,
    "area": _by_area,
    "kind": _by_kind,
}


def _weeks(rules: list[str], zone: str) -> dict[str, dict[date, int]]:
    now = now_ms()
    days = [wall_clock(now - i * DAY, zone).date() for i in range(WEEK - 1, -1, -1)]
    counts = {rule: dict.fromkeys(days, 0) for rule in rules}
    found = RunRow.objects.filter(rule__in=rules, at__gt=now - (WEEK + 1) * DAY, test=False)
    for rule, zero in found.values_list("rule", "zero"):
        day = wall_clock(zero, zone).date()
        if day in counts[rule]:
            counts[rule][day] += 1
    return counts


def _last(rules: Iterable[str]) -> dict[str, Instant]:
    """When each rule ran last."""
    return dict(RunRow.objects.filter(rule__in=list(rules), test=False).values_list("rule").annotate(Max("at")))


def matrix_of(access: Access) -> Matrix:
    """All rules of the site as a matrix, by what they are for."""
    facts = names_of(access.site)
    known = [(r, document_of(r)) for r in current_revisions(access.site)]
    known.sort(key=lambda item: (_by_purpose(item[1], facts).casefold(), item[0].rule.name))
    return matrix(((r.rule_id, r.rule.enabled, document) for r, document in known), facts)
