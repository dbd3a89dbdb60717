"""Verbs on records: found as far as somebody may see them, and searches kept under a name."""

import logging
import sqlite3
from collections.abc import Iterator, Sequence
from contextlib import closing
from dataclasses import dataclass, field
from typing import Any

from django.db import transaction
from pydantic import ValidationError

from dromikon.clock import now_ms
from dromikon.core.instants import Instant
from dromikon.core.records.search import Search
from dromikon.core.rules.document import Problem, problems_of
from dromikon.core.words import t
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.records import index
from dromikon.records.follow import follow
from dromikon.records.models import KeptSearch
from dromikon.refusals import Refused

log = logging.getLogger("dromikon.records")

#: Before a search, the index follows for at most so many seconds.
PATIENCE = 0.5
#: So many records are exported at most, and so many searches kept by one person at a site.
MOST_EXPORTED, MOST_KEPT, LONGEST_NAME = 50_000, 60, 80
#: So many are read at a time where many are wanted.
PORTION = 500


@dataclass(frozen=True, slots=True)
class Found:
    """A record as somebody sees it. `id` tells its place in the order."""

    id: int
    at: Instant
    sort: str
    ref: str
    title: str
    more: str
    area: str
    point: str
    kind: str
    rule: str
    person: str
    outcome: str
    seq: int | None


@dataclass(frozen=True, slots=True)
class Page:
    """`beyond`: where the next page begins, if there is one; `count`: of all, one more than `index.MOST_COUNTED` where there are more;
    `left`: so many rows are still to be taken up."""

    records: list[Found]
    beyond: int | None
    count: int = 0
    facets: dict[str, list[tuple[str, int]]] = field(default_factory=dict)
    left: int = 0


def find(access: Access, search: Search, limit: int = 50, beyond: int | None = None, counted: bool = True) -> Page:
    """A page of the records that fit and that this person may see. Raises Refused when the index cannot be read."""
    access.need(May.LOOK)
    try:
        left = follow(PATIENCE) if beyond is None else 0
        with closing(index.connect()) as opened:
            finder = index.Finder(opened, access.site.id, search, now_ms(), seen_by(access))
            rows = finder.page(limit + 1, beyond)
            count, facets = (finder.count(), finder.facets()) if counted else (0, {})
    except sqlite3.Error as error:
        if isinstance(error, sqlite3.DatabaseError) and not isinstance(error, sqlite3.OperationalError):
            index.discard()
        log.warning("the index of records cannot be used: %s", error)
        raise Refused(
            [Problem(path="", message=t("The index of records cannot be read just now: {error}.", error=error))]
        ) from error
    more = len(rows) > limit
    return Page([_found(row) for row in rows[:limit]], rows[limit - 1]["id"] if more else None, count, facets, left)


def all_of(access: Access, search: Search, most: int = MOST_EXPORTED) -> Iterator[Found]:
    """The records that fit, in order, up to so many. Raises Refused."""
    beyond, count = None, 0
    while count < most:
        page = find(access, search, min(PORTION, most - count), beyond, counted=False)
        yield from page.records
        count += len(page.records)
        if page.beyond is None:
            return
        beyond = page.beyond


def seen_by(access: Access) -> tuple[str, Sequence[str]]:
    """What of the records somebody may see, as a condition of SQL with its values."""
    conditions, values = [], []
    if not access.may(May.SEE_AUDIT):
        conditions.append("record.sort != 'act'")
    if not access.may(May.SEE_ALL_ALARMS):
        # Alarms are for those who receive them.
        mine = ["record.sort != 'alarm'", *("instr(record.groups, ?) > 0" for _ in access.groups)]
        conditions.append(f"({' OR '.join(mine)})")
        values = [f"|{group}|" for group in access.groups]
    return " AND ".join(conditions) or "1", values


def _found(row: sqlite3.Row) -> Found:
    told = {name: row[name] for name in Found.__dataclass_fields__ if name not in ("id", "at")}
    return Found(id=row["id"], at=index.at_of(row["id"]), **told)


# -- kept under a name ---------------------------------------------------------------------------------------------------


def kept_by(access: Access) -> list[KeptSearch]:
    """The searches that this person finds at the site: everybody's, then their own."""
    found = KeptSearch.objects.filter(site=access.site)
    return [*found.filter(person=None), *found.filter(person=access.person)]


def keep_search(access: Access, name: str, content: Any, everybody: bool = False) -> KeptSearch:
    """Keep a search under a name; one of that name is replaced. For everybody it is kept by those who build rules. Raises Refused,
    PermissionDenied."""
    access.need(May.EDIT_RULES if everybody else May.LOOK)
    name = " ".join(name.split())
    if not 0 < len(name) <= LONGEST_NAME:
        words = t("Give it a name of up to {most} characters.", most=LONGEST_NAME)
        raise Refused([Problem(path="name", message=words)])
    try:
        document = Search.model_validate(content).model_dump(mode="json", exclude_defaults=True)
    except ValidationError as error:
        raise Refused(problems_of(error)) from error
    person = None if everybody else access.person
    with transaction.atomic():
        others = KeptSearch.objects.filter(site=access.site, person=person).exclude(name=name)
        if others.count() >= MOST_KEPT:
            raise Refused(
                [
                    Problem(
                        path="name", message=t("{most} searches are kept already; take one away first.", most=MOST_KEPT)
                    )
                ]
            )
        kept, _ = KeptSearch.objects.update_or_create(
            site=access.site, person=person, name=name, defaults={"document": document}
        )
        if everybody:
            record(access.site, access.person, "kept search", f"search:{kept.pk}", now_ms(), name=name)
    return kept


def drop_search(access: Access, number: int) -> None:
    """Take a kept search away: one's own, or everybody's by those who build rules. Raises KeptSearch.DoesNotExist, PermissionDenied."""
    kept = KeptSearch.objects.get(pk=number, site=access.site)
    if kept.person_id not in (None, access.person.pk):
        raise KeptSearch.DoesNotExist
    if kept.person_id is None:
        access.need(May.EDIT_RULES)
        record(access.site, access.person, "dropped search", f"search:{kept.pk}", now_ms(), name=kept.name)
    kept.delete()
