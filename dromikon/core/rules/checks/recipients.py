"""Check: nobody receives it."""

from collections.abc import Iterator

from dromikon.core.facts import Facts
from dromikon.core.rules.checks.base import Finding, Mend
from dromikon.core.rules.document import RuleDocument

ID = "no-recipient"


def no_recipient(document: RuleDocument, facts: Facts) -> Iterator[Finding]:
    """A step for persons that names no group, or only groups with nobody in them."""
    for i, step in enumerate(document.response):
        groups = step.recipients()
        if groups is None:
            continue
        filled = [g for g in facts.groups if g.roles or g.persons]
        if any(g.id == known.id for g in groups for known in filled):
            continue
        reason = f"Nobody receives the {step.label.lower()}."
        if groups:
            reason = f"Nobody receives the {step.label.lower()}: the groups it names are empty or gone."
        first = filled[0] if filled else None
        mend = (
            Mend(f"Send it to {first.name}", f"response.{i}.groups", [{"id": first.id, "name": first.name}])
            if first
            else None
        )
        yield Finding(ID, "error", f"response.{i}.groups", reason, "Choose who sees it.", mend)
