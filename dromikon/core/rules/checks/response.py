"""Checks on the response as a whole."""

from collections.abc import Iterator

from dromikon.core.kinds import KINDS
from dromikon.core.rules.actions.alarm import AlarmAction
from dromikon.core.rules.checks.base import Finding, Mend, Reading
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.parts import seconds
from dromikon.core.words import t

EMPTY, INSTRUCTION, NEVER_ENDS, ORDER_OF_STEPS = "no-response", "no-instruction", "never-ends", "needs-alarm"
END_NEVER_COMES, STOP, UNHEARD = "end-never-comes", "stop-without-end", "unheard-alarm"


def no_response(reading: Reading) -> Iterator[Finding]:
    """A rule that does nothing."""
    if not reading.document.response:
        yield Finding(
            EMPTY, "error", "response", t("The rule does nothing."), t("Add an alarm, a bookmark or another step.")
        )


def no_instruction(reading: Reading) -> Iterator[Finding]:
    """A critical alarm that does not say what to do."""
    for i, step in enumerate(reading.document.response):
        if step.do == "alarm" and getattr(step, "priority", "") == "critical" and not getattr(step, "instruction", ""):
            reason = t("A critical alarm should say what to do.")
            yield Finding(INSTRUCTION, "warning", f"response.{i}.instruction", reason, t("Two or three short steps."))


def unheard(reading: Reading) -> Iterator[Finding]:
    """An urgent alarm without a sound: whoever looks away misses it."""
    for i, step in enumerate(reading.document.response):
        if isinstance(step, AlarmAction) and step.priority in ("critical", "high") and step.sound == "none":
            reason = t(
                "An alarm of priority {priority} makes no sound: whoever looks away misses it.", priority=step.priority
            )
            mend = Mend(t("Sound “urgent”"), f"response.{i}.sound", "urgent")
            yield Finding(UNHEARD, "warning", f"response.{i}.sound", reason, t("Give it a sound."), mend)


def never_ends(reading: Reading) -> Iterator[Finding]:
    """An output held for as long as a state where the cause has no end."""
    if reading.document.cause.ends:
        return
    for i, step in enumerate(reading.document.response):
        if step.hold == "state":
            reason = t("The cause is momentary: there is no end to hold until, so the output is released at once.")
            mend = Mend(t("Hold it for 30 s"), f"response.{i}.held", 30)
            yield Finding(
                NEVER_ENDS, "error", f"response.{i}.held", reason, t("Hold it for a number of seconds."), mend
            )


def ends_never(reading: Reading) -> Iterator[Finding]:
    """Steps for the end of a momentary cause, which come at once."""
    if reading.document.cause.ends:
        return
    for i, step in enumerate(reading.document.response):
        if step.anchor == "end":
            after = t(" after {seconds}", seconds=seconds(step.after)) if step.after else t(" at once")
            reason = t("The cause is momentary and has no end: this step comes{after}.", after=after)
            mend = Mend(t("Count from the start"), f"response.{i}.anchor", "start")
            yield Finding(END_NEVER_COMES, "warning", f"response.{i}.anchor", reason, t("Count from the start."), mend)


def stop_without_end(reading: Reading) -> Iterator[Finding]:
    """A response that stops at an end or an answer that never comes."""
    stop = reading.document.stop
    if stop is None:
        return
    if stop.on_end and not reading.document.cause.ends:
        kind = KINDS[reading.document.cause.event_kind()].label
        yield Finding(
            STOP,
            "warning",
            "stop.on_end",
            t("“{kind}” has no end here, so nothing stops at it.", kind=kind),
            t("Take it out."),
        )
    alarmed = _can_be_answered(reading.document)
    for field in ("on_acknowledged", "unanswered"):
        if getattr(stop, field) and not alarmed:
            reason = t("The rule raises no alarm, so nobody can answer it.")
            yield Finding(STOP, "error", f"stop.{field}", reason, t("Add an alarm, or take it out."))


def _can_be_answered(document: RuleDocument) -> bool:
    """Whether the rule raises something to be answered, other than for want of an answer."""
    return any(step.asks and step.anchor in ("start", "end") for step in document.response)


def needs_alarm(reading: Reading) -> Iterator[Finding]:
    """A step that waits for an acknowledgement where nothing can be acknowledged; repeats joined to no alarm."""
    document = reading.document
    if _can_be_answered(document):
        return
    for i, step in enumerate(document.response):
        if step.until_answered or step.anchor in ("acknowledged", "unanswered"):
            reason = t("This step waits for an acknowledgement, but the rule raises no alarm.")
            yield Finding(
                ORDER_OF_STEPS, "error", f"response.{i}.anchor", reason, t("Add an alarm, or start it at once.")
            )
    if document.hold_off is not None and document.hold_off.then == "join":
        reason = t("Repeats are joined to the open alarm, but the rule raises none.")
        mend = Mend(t("Ignore repeats"), "hold_off.then", "ignore")
        yield Finding(ORDER_OF_STEPS, "error", "hold_off.then", reason, t("Add an alarm, or ignore repeats."), mend)
