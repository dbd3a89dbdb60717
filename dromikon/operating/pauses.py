"""Rules paused at a camera: visibly, for a while, and by those who may."""

import json
from collections import Counter
from dataclasses import dataclass

from django.db import transaction

from dromikon.authoring.points import read_rule
from dromikon.clock import now_ms
from dromikon.core.facts import Facts
from dromikon.core.instants import Instant
from dromikon.core.rules.document import Problem
from dromikon.core.rules.evaluate import PAUSE, concerned
from dromikon.daybook import feed
from dromikon.daybook.models import EvaluatorRow
from dromikon.daybook.services import record_act, tell
from dromikon.facts import facts_of
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sites.models import Site

#: A rule is paused for so many minutes at least and at most.
SHORTEST, LONGEST = 1, 12 * 60
MINUTE = 60_000


@dataclass(frozen=True, slots=True)
class RuleThere:
    """A rule that concerns a camera. `until`: how long it is paused there; None: it counts."""

    id: str
    name: str
    until: Instant | None


def paused(site: Site) -> dict[tuple[str, str], Instant]:
    """(rule, camera) -> until when it is paused there."""
    now = now_ms()
    rows = EvaluatorRow.objects.filter(site=site.id, rule="", key__startswith=PAUSE).values_list("key", "row")
    found = {}
    for key, row in rows:
        _, rule, camera = key.split("|", 2)
        if (row.get("due") or 0) > now:
            found[rule, camera] = int(row["due"])
    return found


def paused_counts(site: Site) -> dict[str, int]:
    """How many rules are paused at each camera."""
    return dict(Counter(camera for _, camera in paused(site)))


def concerning(access: Access, camera: str) -> list[RuleThere]:
    """The live rules that concern a camera, by name."""
    facts, until = facts_of(access.site), paused(access.site)
    found = [
        RuleThere(rule.id, str(rule.document.get("name", "")), until.get((rule.id, camera)))
        for rule in facts.rules
        if _concerns(facts, rule.document, camera)
    ]
    return sorted(found, key=lambda r: r.name.casefold())


def _concerns(facts: Facts, content: dict[str, object], camera: str) -> bool:
    document = read_rule(json.dumps(content))
    if document is None:
        return False
    return any(camera in concerned(facts, point) for _, point in document.cause.triggers(facts))


def pause(access: Access, rule: str, camera: str, minutes: int) -> Instant:
    """A rule counts no more at a camera for so many minutes. Returns until when. Raises Refused, PermissionDenied."""
    access.need(May.PAUSE)
    if not SHORTEST <= minutes <= LONGEST:
        raise Refused(
            [Problem(path="minutes", message="A rule is paused for a minute at least, and for twelve hours at most.")]
        )
    name, at = _named(access, rule, camera), now_ms()
    until = at + minutes * MINUTE
    with transaction.atomic():
        record(access.site, access.person, "paused rule", f"rule:{rule}", at, name=name, camera=camera, until=until)
        record_act(access.site.id, "paused", at, target=rule, value=camera, until=until)
        tell(feed.paused(access.site.id, rule, camera, until, at))
    return until


def resume(access: Access, rule: str, camera: str) -> None:
    """It counts there again. Raises Refused, PermissionDenied."""
    access.need(May.PAUSE)
    name, at = _named(access, rule, camera), now_ms()
    with transaction.atomic():
        record(access.site, access.person, "resumed rule", f"rule:{rule}", at, name=name, camera=camera)
        record_act(access.site.id, "resumed", at, target=rule, value=camera)
        tell(feed.paused(access.site.id, rule, camera, None, at))


def _named(access: Access, rule: str, camera: str) -> str:
    known = next((r for r in concerning(access, camera) if r.id == rule), None)
    if known is None:
        raise Refused([Problem(path="rule", message="No live rule of that id concerns this camera.")])
    return known.name
