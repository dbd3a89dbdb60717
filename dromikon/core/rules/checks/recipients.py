"""Checks: nobody receives it, somebody cannot be reached in the way that is chosen, nobody may press its button."""

from collections.abc import Iterator

from dromikon.core.rules.actions.summon import SummonAction
from dromikon.core.rules.causes.button import PRESSED
from dromikon.core.rules.checks.base import Finding, Mend, Reading
from dromikon.core.words import N_, t

RECEIVES, PRESSES, NUMBER, LINK = "no-recipient", "no-presser", "no-number", "no-address"
#: What somebody lacks who cannot be reached in a way.
LACKS = {
    "text": N_("telephone number"),
    "call": N_("telephone number"),
    "mail": N_("mail address"),
    "push": N_("address for push messages"),
    "chat": N_("name in the chat"),
}


def no_recipient(reading: Reading) -> Iterator[Finding]:
    """A step for persons that names nobody, or only groups with nobody in them."""
    facts = reading.facts
    filled = {g.id: g for g in facts.groups if g.roles or g.persons}
    for i, step in enumerate(reading.document.response):
        groups = step.recipients()
        if (
            groups is None
            or any(g.id in filled for g in groups)
            or any(p.id in facts.member_by_id for p in step.by_name())
        ):
            continue
        reason = t("Nobody receives the {kind}.", kind=t(step.label).lower())
        if groups:
            reason = t("Nobody receives the {kind}: the groups it names are empty or gone.", kind=t(step.label).lower())
        first = next(iter(filled.values()), None)
        mend = None
        if first and not isinstance(step, SummonAction):
            value = [{"id": first.id, "name": first.name}]
            mend = Mend(t("Send it to {name}", name=first.name), f"response.{i}.groups", value)
        yield Finding(RECEIVES, "error", f"response.{i}.groups", reason, t("Choose who sees it."), mend)


def no_number(reading: Reading) -> Iterator[Finding]:
    """A message to somebody who cannot be reached in its way; an error when nobody of them can."""
    for i, step in enumerate(reading.document.response):
        ways = step.ways if isinstance(step, SummonAction) else (step.way,) if step.way else ()
        if not ways or step.recipients() is None:
            continue
        members = reading.facts.recipients((g.id for g in step.recipients() or ()), (p.id for p in step.by_name()))
        without = [m.name for m in members if not any(m.has(way) for way in ways)]
        if members and not without:
            continue
        lacks = t(" or ").join(dict.fromkeys(t(LACKS[way]) for way in ways))
        if len(without) == len(members):
            reason, severity = t("Nobody whom it is for has a {what}.", what=lacks), "error"
        else:
            reason, severity = t("{who}: no {what}.", who=", ".join(without), what=lacks), "warning"
        yield Finding(NUMBER, severity, f"response.{i}.groups", reason, t("Add it under People, or choose others."))


def no_address(reading: Reading) -> Iterator[Finding]:
    """A text that names the link to the moment where nobody has said where people reach the installation."""
    if reading.facts.address:
        return
    for i, step in enumerate(reading.document.response):
        for name, text in step.texts():
            if "{link}" in text:
                reason = t("The text names a link, but nobody has said under which address people reach Dromikon.")
                hint = t("Say so under Installation · Addresses; until then the link is empty.")
                yield Finding(LINK, "warning", f"response.{i}.{name}", reason, hint)


def no_presser(reading: Reading) -> Iterator[Finding]:
    """A rule about a desk button at a site where nobody may press any."""
    members = reading.facts.members
    pressed = any(kind == PRESSED for _, kind, _ in reading.document.cause.selections())
    if pressed and members and not any(m.presses for m in members):
        reason = t("Nobody at this site may press desk buttons, so this never fires.")
        yield Finding(PRESSES, "error", "cause", reason, t("Make somebody an operator under People."))
