"""The checks. Register one more with one line below."""

from dromikon.core.facts import Facts
from dromikon.core.registry import Registry
from dromikon.core.rules.checks.base import Check, Finding, Mend
from dromikon.core.rules.checks.preroll import pre_roll
from dromikon.core.rules.checks.recipients import no_recipient
from dromikon.core.rules.checks.response import empty_response, missing_instruction, needs_alarm, never_ends
from dromikon.core.rules.checks.unknown import no_point, unknown_field, unknown_reference
from dromikon.core.rules.document import RuleDocument

CHECKS: Registry[Check] = Registry("check")
CHECKS.add("no-recipient", no_recipient)
CHECKS.add("unknown-reference", unknown_reference)
CHECKS.add("no-point", no_point)
CHECKS.add("unknown-field", unknown_field)
CHECKS.add("pre-roll-too-short", pre_roll)
CHECKS.add("no-response", empty_response)
CHECKS.add("no-instruction", missing_instruction)
CHECKS.add("never-ends", never_ends)
CHECKS.add("needs-alarm", needs_alarm)


def check(document: RuleDocument, facts: Facts) -> list[Finding]:
    """All findings for one rule, errors first."""
    found = [finding for run in CHECKS for finding in run(document, facts)]
    return sorted(found, key=lambda f: (f.severity != "error", f.path))


__all__ = ["CHECKS", "Finding", "Mend", "check"]
