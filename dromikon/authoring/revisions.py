"""The revisions of a rule, and what each says otherwise than the one before it."""

from dataclasses import dataclass

from pydantic import ValidationError

from dromikon.core.facts import Facts
from dromikon.core.rules.changes import Changed, changes
from dromikon.core.rules.document import RuleDocument
from dromikon.rulebook.models import Revision, Rule

#: So many are listed.
MOST = 20


@dataclass(frozen=True, slots=True)
class Step:
    """One revision: whether it counts, or is the draft; and its changes in words."""

    revision: Revision
    live: bool
    draft: bool
    changes: list[Changed]


def revisions_of(rule: Rule, facts: Facts) -> list[Step]:
    """The newest first."""
    known = list(rule.revisions.select_related("by")[: MOST + 1])
    read = [_read(r) for r in known]
    pairs = zip(read[1:], read, strict=False)
    told = [changes(before, after, facts) if before and after else [] for before, after in pairs]
    told += [[] for _ in known[len(told) :]]
    return [
        Step(r, r.number == rule.revision, r.number == rule.draft, said)
        for r, said in zip(known[:MOST], told, strict=False)
    ]


@dataclass(frozen=True, slots=True)
class Meanwhile:
    """What became of a rule while somebody worked on a copy of it: the newest revision, what it says otherwise than the one
    they began with, and what theirs says otherwise than the newest."""

    newest: Revision
    theirs: list[Changed]
    mine: list[Changed]


def meanwhile(rule: Rule, began_with: int, mine: RuleDocument, facts: Facts) -> Meanwhile:
    """Whoever saves second sees the difference before anything is overwritten."""
    kept = {r.number: r for r in rule.revisions.filter(number__in=[rule.latest, began_with]).select_related("by")}
    newest, before = kept[rule.latest], kept.get(began_with)
    read = _read(newest)
    old = _read(before) if before is not None else None
    theirs = changes(old, read, facts) if old and read else []
    return Meanwhile(newest, theirs, changes(read, mine, facts) if read else [])


def _read(revision: Revision) -> RuleDocument | None:
    """A revision of long ago may not fit the schema of today any more."""
    try:
        return RuleDocument.model_validate(revision.document)
    except ValidationError:
        return None
