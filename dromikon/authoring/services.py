"""Verbs on rules. Editor, API and import all come through `read_document`: one schema, one way in."""

import json
from typing import Any

from django.db import transaction
from django.db.models import F, Max, QuerySet
from pydantic import ValidationError

from dromikon.authoring.known import known_of
from dromikon.clock import now_ms
from dromikon.core.rules.checks import Finding, check, check_beside, check_rulebook
from dromikon.core.rules.document import Problem, RuleDocument, problems_of
from dromikon.daybook import feed
from dromikon.daybook.services import record_act, tell
from dromikon.facts import names_of
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Overtaken, Refused
from dromikon.rulebook.models import Revision, Rule
from dromikon.sites.models import Site


def read_document(content: Any) -> RuleDocument:
    """Validate a rule document. Raises Refused with the path of each offending part."""
    try:
        return RuleDocument.model_validate(content)
    except ValidationError as error:
        raise Refused(problems_of(error)) from error


def findings(access: Access, document: RuleDocument, rule: str = "") -> list[Finding]:
    """What the checks say of a document at this site; `rule` is the id of the rule it belongs to."""
    return check(document, names_of(access.site), known_of(access.site.id), rule)


def findings_beside(access: Access, document: RuleDocument, rule: str = "") -> list[Finding]:
    """What the checks say of a draft beside the other rules of the site; `rule` is the one that it is to replace."""
    others = [(r.rule_id, document_of(r)) for r in current_revisions(access.site)]
    return check_beside(document, others, names_of(access.site), known_of(access.site.id), rule)


def document_of(revision: Revision) -> RuleDocument:
    """A revision's document, read once: a revision never changes."""
    key = revision.pk, json.dumps(revision.document)
    kept = _read.get(key)
    if kept is None:
        if len(_read) >= MOST_READ:
            _read.clear()
        kept = _read[key] = RuleDocument.model_validate(revision.document)
    return kept


#: Documents of revisions by their keys and texts, so many at most.
MOST_READ = 4_000
_read: dict[tuple[int, str], RuleDocument] = {}


def rulebook_findings(access: Access) -> dict[str, list[Finding]]:
    """What the checks say of each rule of the site, alone and beside the others."""
    documents = [(r.rule_id, document_of(r)) for r in current_revisions(access.site)]
    return check_rulebook(documents, names_of(access.site), known_of(access.site.id))


def current_revisions(site: Site, retired: bool = False) -> QuerySet[Revision]:
    """The revision that counts of each rule of a site, live or not, with its rule: one query however many there are."""
    known = Revision.objects.filter(rule__site=site, rule__deleted=retired, number=F("rule__revision"))
    return known.select_related("rule").order_by("rule__name")


def save(
    access: Access, content: Any, rule: Rule | None = None, expected_revision: int | None = None, id: str = "",
    live: bool = True,
) -> Rule:  # fmt: skip
    """Save a document as a new rule (with an `id` of its own choice), or as the next revision of one. A rule that is on
    must stay free of errors; it goes on as it is, and the revision is a draft, where it is not to be `live` at once.

    Raises Refused, Overtaken, PermissionDenied.
    """
    access.need(May.EDIT_RULES)
    document = read_document(content)
    if rule is not None and rule.enabled and live:
        _must_be_sound(access, document)
    at = now_ms()
    with transaction.atomic():
        if rule is None:
            rule = Rule(site=access.site, name=document.name, changed_at=at, **({"id": id} if id else {}))
            rule.save(force_insert=True)
            verb = "made rule"
        else:
            rule = Rule.objects.get(pk=rule.pk)
            if expected_revision is not None and rule.latest != expected_revision:
                raise Overtaken(f"{rule.name} was saved by somebody else meanwhile (revision {rule.latest}).")
            number = _next_revision(rule)
            if rule.enabled and not live:
                rule.draft = number
            else:
                rule.revision, rule.draft, rule.name, rule.changed_at = number, None, document.name, at
            rule.save()
            verb = "drafted change" if rule.draft else "changed rule"
        number = rule.latest
        Revision.objects.create(rule=rule, number=number, document=document.to_json(), by=access.person, at=at)
        record(access.site, access.person, verb, f"rule:{rule.id}", at, name=rule.name, revision=number)
        _changed(rule, at)
    return rule


def put_live(access: Access, rule: Rule) -> Rule:
    """Have a draft count from now on. Raises Refused where there is none, or a check finds an error in it."""
    access.need(May.EDIT_RULES)
    at = now_ms()
    with transaction.atomic():
        rule = Rule.objects.get(pk=rule.pk)
        if rule.draft is None:
            raise Refused(
                [Problem(path="", message="There is no draft of this rule: it is live as it was saved last.")]
            )
        document = read_document(rule.document_of(rule.draft))
        if rule.enabled:
            _must_be_sound(access, document)
        rule.revision, rule.draft, rule.name, rule.changed_at = rule.draft, None, document.name, at
        rule.save(update_fields=["revision", "draft", "name", "changed_at"])
        record(access.site, access.person, "put live", f"rule:{rule.id}", at, name=rule.name, revision=rule.revision)
        _changed(rule, at)
    return rule


def drop_draft(access: Access, rule: Rule) -> Rule:
    """Let a draft be; it stays among the revisions."""
    access.need(May.EDIT_RULES)
    at = now_ms()
    with transaction.atomic():
        rule.draft, dropped = None, rule.draft
        rule.save(update_fields=["draft"])
        record(access.site, access.person, "dropped draft", f"rule:{rule.id}", at, name=rule.name, revision=dropped)
        tell(feed.rule(rule.site_id, rule.id, rule.enabled, at))
    return rule


def _next_revision(rule: Rule) -> int:
    """Numbers are never used again, also those of drafts that were dropped."""
    return (rule.revisions.aggregate(last=Max("number"))["last"] or 0) + 1


def switch(access: Access, rule: Rule, on: bool) -> Rule:
    """Switch a rule on or off. Raises Refused when a check finds an error in a rule to be switched on."""
    access.need(May.EDIT_RULES)
    if on:
        _must_be_sound(access, read_document(rule.document))
    at = now_ms()
    with transaction.atomic():
        rule.enabled, rule.changed_at = on, at
        rule.save(update_fields=["enabled", "changed_at"])
        record(
            access.site, access.person, "switched on" if on else "switched off", f"rule:{rule.id}", at, name=rule.name
        )
        _changed(rule, at)
    return rule


def delete(access: Access, rule: Rule, deleted: bool = True) -> Rule:
    """Take a rule out of the rulebook, or put it back (switched off). Its history stays."""
    access.need(May.EDIT_RULES)
    at = now_ms()
    with transaction.atomic():
        rule.deleted, rule.changed_at = deleted, at
        rule.enabled = False
        rule.save(update_fields=["deleted", "enabled", "changed_at"])
        verb = "deleted rule" if deleted else "restored rule"
        record(access.site, access.person, verb, f"rule:{rule.id}", at, name=rule.name)
        _changed(rule, at)
    return rule


def _must_be_sound(access: Access, document: RuleDocument) -> None:
    errors = [f for f in findings(access, document) if f.severity == "error"]
    if errors:
        raise Refused([Problem(path=f.path, message=f.reason) for f in errors])


def _changed(rule: Rule, at: int) -> None:
    """Told to the engine; a change that is none for it is none in the journal."""
    record_act(rule.site_id, "facts", at, rule=rule.id)
    tell(feed.rule(rule.site_id, rule.id, rule.enabled, at))
