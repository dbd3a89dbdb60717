"""Checks on where a rule's events and pictures come from."""

from collections.abc import Iterator

from dromikon.core.events import Phase
from dromikon.core.kinds import KINDS
from dromikon.core.rules.causes.event import EventCause
from dromikon.core.rules.checks.base import Finding, Mend, Reading
from dromikon.core.rules.comparison import FieldCondition
from dromikon.core.rules.target import Target
from dromikon.core.words import t

CANNOT_SEND, NO_CAMERA, EVERY_READING = "cannot-send", "no-camera", "every-reading"
#: So many points are named; the rest are counted.
NAMED = 3


def cannot_send(reading: Reading) -> Iterator[Finding]:
    """A point that was chosen by name and cannot send what the rule waits for."""
    for path, kind, where in reading.document.cause.selections():
        for ref in where.points:
            sends = reading.known.sends.get(ref.id)
            if sends is not None and kind not in sends and reading.facts.name_of("point", ref.id) is not None:
                name = reading.facts.name_of("point", ref.id) or ref.name
                reason = t(
                    "{name} cannot send “{label}”, or has not in the past week.", name=name, label=KINDS[kind].label
                )
                yield Finding(
                    CANNOT_SEND,
                    "warning",
                    f"cause.{path}",
                    reason,
                    t("Choose a point that can; Sources shows what each sends."),
                )


def no_camera(reading: Reading) -> Iterator[Finding]:
    """A step that wants pictures of points that no camera looks at."""
    facts = reading.facts
    blind = sorted({p for _, p in reading.triggers if p and not facts.cameras_of(p)})
    if not blind:
        return
    names = [facts.name_of("point", p) or p for p in blind]
    shown = ", ".join(names[:NAMED]) + (t(" and {value} more", value=len(names) - NAMED) if len(names) > NAMED else "")
    for i, step in enumerate(reading.document.response):
        cameras = getattr(step, "cameras", None)
        if isinstance(cameras, Target) and cameras.of in ("sightlines", "first_sightline") and step.do != "alarm":
            reason = t(
                "No camera looks at {shown}, so there is nothing for the {kind}.",
                shown=shown,
                kind=step.label.lower(),
            )
            yield Finding(
                NO_CAMERA,
                "warning",
                f"response.{i}",
                reason,
                t("Say which camera looks there, or name one in the step."),
            )


def every_reading(reading: Reading) -> Iterator[Finding]:
    """A rule that acts on every single reading, where a level is meant."""
    cause = reading.document.cause
    if not isinstance(cause, EventCause) or cause.phase is not Phase.READING:
        return
    provided = reading.document.provided
    leaf = next((c for _, c in provided.leaves("") if isinstance(c, FieldCondition)), None) if provided else None
    mend = None
    if leaf is not None and leaf.op in ("at_least", "at_most") and isinstance(leaf.value, int | float):
        level = {
            "cause": "level", "kind": cause.kind, "field": leaf.field, "way": "up" if leaf.op == "at_least" else "down",
            "value": leaf.value, "where": cause.where.model_dump(mode="json", exclude_defaults=True),
        }  # fmt: skip
        mend = Mend(t("Make it a level"), "cause", level)
    reason = t("It acts on every reading, again and again while the value stays there.")
    yield Finding(
        EVERY_READING,
        "warning",
        "cause",
        reason,
        t("A level fires once when a value is passed, and again only after it came back."),
        mend,
    )
