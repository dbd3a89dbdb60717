"""Checks: nobody receives it, somebody has no number to be texted at, nobody may press its button."""

from collections.abc import Iterator

from dromikon.core.rules.causes.button import PRESSED
from dromikon.core.rules.checks.base import Finding, Mend, Reading
from dromikon.core.words import t

RECEIVES, PRESSES, NUMBER = "no-recipient", "no-presser", "no-number"


def no_recipient(reading: Reading) -> Iterator[Finding]:
    """A step for persons that names no group, or only groups with nobody in them."""
    facts = reading.facts
    filled = [g for g in facts.groups if g.roles or g.persons]
    for i, step in enumerate(reading.document.response):
        groups = step.recipients()
        if groups is None or any(g.id == known.id for g in groups for known in filled):
            continue
        reason = t("Nobody receives the {kind}.", kind=step.label.lower())
        if groups:
            reason = t("Nobody receives the {kind}: the groups it names are empty or gone.", kind=step.label.lower())
        first = filled[0] if filled else None
        value = [{"id": first.id, "name": first.name}] if first else None
        mend = Mend(t("Send it to {name}", name=first.name), f"response.{i}.groups", value) if first else None
        yield Finding(RECEIVES, "error", f"response.{i}.groups", reason, t("Choose who sees it."), mend)


def no_number(reading: Reading) -> Iterator[Finding]:
    """A text message to somebody who has no number; an error when nobody of them has one."""
    for i, step in enumerate(reading.document.response):
        if step.do != "text":
            continue
        members = reading.facts.members_of(g.id for g in step.recipients() or ())
        without = [m.name for m in members if not m.number]
        if members and not without:
            continue
        everybody = len(without) == len(members)
        who = t("Nobody who is to be texted") if everybody else f"{', '.join(without)}"
        reason = (
            t("{who} has a telephone number.", who=who)
            if everybody
            else t("{who}: no telephone number to text.", who=who)
        )
        severity = "error" if everybody else "warning"
        yield Finding(NUMBER, severity, f"response.{i}.groups", reason, t("Add the number, or choose others."))


def no_presser(reading: Reading) -> Iterator[Finding]:
    """A rule about a desk button at a site where nobody may press any."""
    members = reading.facts.members
    pressed = any(kind == PRESSED for _, kind, _ in reading.document.cause.selections())
    if pressed and members and not any(m.presses for m in members):
        reason = t("Nobody at this site may press desk buttons, so this never fires.")
        yield Finding(PRESSES, "error", "cause", reason, t("Make somebody an operator under People."))
