"""Checks on the response as a whole."""

from collections.abc import Iterator

from dromikon.core.facts import Facts
from dromikon.core.rules.checks.base import Finding
from dromikon.core.rules.document import RuleDocument

EMPTY, INSTRUCTION, NEVER_ENDS, ORDER_OF_STEPS = "no-response", "no-instruction", "never-ends", "needs-alarm"


def empty_response(document: RuleDocument, facts: Facts) -> Iterator[Finding]:
    """A rule that does nothing."""
    if not document.response:
        yield Finding(EMPTY, "error", "response", "The rule does nothing.", "Add an alarm, a bookmark or another step.")


def missing_instruction(document: RuleDocument, facts: Facts) -> Iterator[Finding]:
    """A critical alarm that does not say what to do."""
    for i, step in enumerate(document.response):
        if step.do == "alarm" and getattr(step, "priority", "") == "critical" and not getattr(step, "instruction", ""):
            reason = "A critical alarm should say what to do."
            yield Finding(INSTRUCTION, "warning", f"response.{i}.instruction", reason, "Two or three short steps.")


def never_ends(document: RuleDocument, facts: Facts) -> Iterator[Finding]:
    """An output held, or a step waiting for an end, where the cause has no end."""
    if document.cause.ends:
        return
    for i, step in enumerate(document.response):
        if step.hold == "state":
            reason = "The cause is momentary: there is no end to hold until, so the output is released at once."
            yield Finding(NEVER_ENDS, "error", f"response.{i}.held", reason, "Hold it for a number of seconds.")


def needs_alarm(document: RuleDocument, facts: Facts) -> Iterator[Finding]:
    """A step that waits for an acknowledgement where nothing can be acknowledged."""
    if any(step.do == "alarm" for step in document.response):
        return
    for i, step in enumerate(document.response):
        if step.anchor in ("acknowledged", "unanswered"):
            reason = "This step waits for an acknowledgement, but the rule raises no alarm."
            yield Finding(ORDER_OF_STEPS, "error", f"response.{i}.anchor", reason, "Add an alarm, or start it at once.")
