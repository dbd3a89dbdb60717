"""Rules as files: export, and import that takes over all of a file or nothing."""

from collections.abc import Iterable
from dataclasses import dataclass, field

from django.db import transaction

from dromikon.authoring.services import save, switch
from dromikon.core.facts import Facts
from dromikon.core.rules.checks import Finding, check
from dromikon.core.rules.document import Problem, RuleDocument
from dromikon.core.rules.exchange import (
    UNBOUND,
    Bindings,
    Kept,
    NotReadable,
    Syntax,
    missing,
    read_rules,
    rebound,
    write_rules,
)  # fmt: skip
from dromikon.facts import names_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule


@dataclass(slots=True)
class Missing:
    """Something that rules of a file name and that the site does not have: by which rules, and what it could be here."""

    what: str
    id: str
    name: str
    rules: list[str]
    options: list[tuple[str, str]]


@dataclass(slots=True)
class Imported:
    """What an import did, or would do, by the names of the rules. `left_off` were on in the file, but a check found an
    error that must be mended first."""

    made: list[str] = field(default_factory=list)
    changed: list[str] = field(default_factory=list)
    same: list[str] = field(default_factory=list)
    left_off: list[str] = field(default_factory=list)
    findings: dict[str, list[Finding]] = field(default_factory=dict)
    missing: list[Missing] = field(default_factory=list)


def export_rules(access: Access, syntax: Syntax, only: Iterable[Rule] | None = None) -> str:
    """All rules of the site, or some, as a file."""
    access.need(May.EDIT_RULES)
    rules = only if only is not None else Rule.objects.filter(site=access.site, deleted=False)
    kept = [Kept(id=r.id, enabled=r.enabled, document=RuleDocument.model_validate(r.document)) for r in rules]
    return write_rules(kept, syntax)


class _Undo(Exception):
    """Leaves the transaction of a trial."""


def import_rules(access: Access, text: bytes, trial: bool = False, bindings: Bindings = UNBOUND) -> Imported:
    """Take over the rules of a file. A rule whose id is known here becomes the next revision, others are made anew;
    references are bound as `bindings` say, or by name where the id is of another site. New rules are off unless the file has them on and no
    check finds an error.

    With `trial` nothing is kept. Raises Refused with the path of every problem; then nothing was taken over.
    """
    access.need(May.EDIT_RULES)
    try:
        kept = read_rules(text)
    except NotReadable as error:
        raise Refused(error.problems) from error
    facts, done = names_of(access.site), Imported()
    try:
        with transaction.atomic():
            for i, one in enumerate(kept):
                try:
                    _take_over(access, one, facts, done, bindings)
                except Refused as refused:
                    raise Refused(
                        [Problem(path=f"rules.{i}.document.{p.path}", message=p.message) for p in refused.problems]
                    ) from refused
            if trial:
                raise _Undo
    except _Undo:
        pass
    return done


def _note_missing(document: RuleDocument, facts: Facts, done: Imported) -> None:
    for what, ref in missing(document, facts):
        known = next((m for m in done.missing if (m.what, m.id) == (what, ref.id)), None)
        if known is None:
            known = Missing(what, ref.id, ref.name or ref.id, [], list(facts.things(what)))
            done.missing.append(known)
        known.rules.append(document.name)


def _take_over(access: Access, kept: Kept, facts: Facts, done: Imported, bindings: Bindings) -> None:
    document = rebound(kept.document, facts, bindings)
    _note_missing(document, facts, done)
    found = check(document, facts)
    if found:
        done.findings[document.name] = found
    rule = Rule.objects.filter(pk=kept.id, site=access.site, deleted=False).first() if kept.id else None
    if rule is not None and rule.document == document.to_json():
        done.same.append(document.name)
        return
    known_elsewhere = kept.id and Rule.objects.filter(pk=kept.id).exists()
    saved = save(access, document.to_json(), rule, id="" if known_elsewhere else kept.id)
    (done.changed if rule else done.made).append(document.name)
    if kept.enabled and rule is None:
        if any(f.severity == "error" for f in found):
            done.left_off.append(document.name)
        else:
            switch(access, saved, True)
