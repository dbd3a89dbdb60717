"""Check: the bookmark or recording begins after what caused the event."""

import math
from collections.abc import Iterator

from dromikon.core.rules.checks.base import Finding, Mend, Reading
from dromikon.core.rules.timeplan import detector_wait
from dromikon.core.words import t

ID, UNRECORDED = "pre-roll-too-short", "pre-roll-unrecorded"


def pre_roll(reading: Reading) -> Iterator[Finding]:
    """The detector watches for a while before it reports; a shorter pre-roll misses how it began."""
    steps = [(i, s) for i, s in enumerate(reading.document.response) if s.do in ("bookmark", "record")]
    waits = detector_wait(reading.document, reading.facts) if steps else 0.0
    for i, step in steps:
        before, enough = -step.span()[0], math.ceil(waits) + 5
        # Equal is not enough: the picture would begin in the middle of what the detector has been watching.
        if before > waits or not waits:
            continue
        reason = t(
            "The {kind} starts {before} s before the event, but the detector watches {waits} s before it reports.",
            kind=step.label.lower(),
            before=f"{before:g}",
            waits=f"{waits:g}",
        )
        mend = Mend(t("Start {enough} s before", enough=enough), f"response.{i}.before", enough)
        yield Finding(ID, "warning", f"response.{i}.before", reason, t("What led to the event would be missing."), mend)


def unrecorded(reading: Reading) -> Iterator[Finding]:
    """A step that wants pictures from before, of cameras that are recorded by event or not at all."""
    facts = reading.facts
    cameras = {c for _, point in reading.triggers if point for c in facts.cameras_of(point)}
    partly = sorted(c for c in cameras if reading.known.recorded.get(c) in ("events", "none"))
    if not partly:
        return
    names = ", ".join(facts.name_of("point", c) or c for c in partly[:3])
    for i, step in enumerate(reading.document.response):
        if step.do in ("bookmark", "record") and step.span()[0] < 0:
            reason = t(
                "What was before the event may not be recorded: {names} by event only, or not at all.", names=names
            )
            hint = t("Have the recorder record all the time, or do without the pictures from before.")
            yield Finding(UNRECORDED, "warning", f"response.{i}.before", reason, hint)
