"""Check: the bookmark begins after what caused the event."""

import math
from collections.abc import Iterator

from dromikon.core.facts import Facts
from dromikon.core.rules.checks.base import Finding, Mend
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.timeplan import detector_wait

ID = "pre-roll-too-short"


def pre_roll(document: RuleDocument, facts: Facts) -> Iterator[Finding]:
    """The detector watches for a while before it reports; a shorter pre-roll misses how it began."""
    waits = detector_wait(document, facts)
    for i, step in enumerate(document.response):
        if step.do != "bookmark" or -step.span()[0] >= waits:
            continue
        before, enough = -step.span()[0], math.ceil(waits) + 5
        reason = f"The bookmark starts {before:g} s before the event, but the detector watches {waits:g} s before it reports."
        mend = Mend(f"Start {enough} s before", f"response.{i}.before", enough)
        yield Finding(ID, "warning", f"response.{i}.before", reason, "What led to the event would be missing.", mend)
