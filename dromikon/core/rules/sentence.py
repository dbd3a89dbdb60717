"""Every rule reads as one sentence, made from the document alone."""

from dromikon.core.facts import Facts
from dromikon.core.kinds import KINDS
from dromikon.core.rules.actions import Action
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.parts import Phrase, enumerated, seconds, told
from dromikon.core.words import N_, t


def sentence(document: RuleDocument, facts: Facts) -> list[Phrase]:
    """The rule in words, as phrases that point at the parts they describe."""
    steps = _steps(document, facts)
    nothing = [Phrase(t("do nothing yet"), "response", name=True)]
    return told(
        "When {cause}{provided}{hours}{hold_off}: {steps}{again}{stop}.",
        cause=document.cause.phrases(facts),
        provided=_provided(document, facts),
        hours=_hours(document, facts),
        hold_off=_hold_off(document),
        steps=list(enumerated(steps)) if steps else nothing,
        again=_again(document),
        stop=_stop(document),
    )


def parts_in_words(document: RuleDocument, facts: Facts) -> dict[str, str]:
    """Each part that says something in words of its own, by its path."""
    parts = {
        "cause": document.cause.phrases(facts),
        "provided": document.provided.phrases(facts, document.cause.event_kind(), "") if document.provided else [],
        "hours": _hours(document, facts),
        "hold_off": _hold_off(document),
        **{f"response.{i}": words for i, words in enumerate(_steps(document, facts))},
        "again": _again(document),
        "stop": _stop(document),
    }
    return {path: plain(words).strip(" ,;") for path, words in parts.items() if words}


def _steps(document: RuleDocument, facts: Facts) -> list[list[Phrase]]:
    return [
        [
            *s.phrases(facts, f"response.{i}"),
            *_when(s.often() + s.when(), i),
            *_asked(s, document, facts, f"response.{i}"),
        ]
        for i, s in enumerate(document.response)
    ]


def _provided(document: RuleDocument, facts: Facts) -> list[Phrase]:
    if document.provided is None:
        return []
    words = document.provided.phrases(facts, document.cause.event_kind(), "provided")
    return told(", provided {conditions}", "provided", conditions=words)


def plain(phrases: list[Phrase]) -> str:
    """The sentence as plain text."""
    return "".join(p.text for p in phrases)


def _when(text: str, step: int) -> list[Phrase]:
    return [Phrase(text, f"response.{step}")] if text else []


def _asked(step: Action, document: RuleDocument, facts: Facts, part: str) -> list[Phrase]:
    """What a step asks when it is due."""
    words = step.provided.phrases(facts, document.cause.event_kind(), f"{part}.provided") if step.provided else []
    asked = told(", only if then {conditions}", part, conditions=words) if words else []
    return asked + (step.hours.phrases(facts, f"{part}.hours") if step.hours else [])


def _hours(document: RuleDocument, facts: Facts) -> list[Phrase]:
    return document.hours.phrases(facts, "hours") if document.hours else []


def _hold_off(document: RuleDocument) -> list[Phrase]:
    part = document.hold_off
    if part is None:
        return []
    kind = KINDS[document.cause.event_kind()]
    field = kind.field(part.field) if part.per == "field" else None
    per = Phrase(field.label if field else t(part.per), "hold_off")
    if part.most > 1:
        times = t("{count} times in {time}", count=part.most, time=seconds(part.seconds))
        words = told(", at most {times} per {subject}", "hold_off", times=times, subject=per)
    else:
        words = told(", then quiet for {time} per {subject}", "hold_off", time=seconds(part.seconds), subject=per)
    if part.then == "join":
        words += told(", repeats joined to the open alarm", "hold_off")
    if part.then == "sum":
        words += told(", the rest summed up in one line", "hold_off")
    return words


def _again(document: RuleDocument) -> list[Phrase]:
    words = {
        "extend": N_("; hold for longer when it comes again"),
        "restart": N_("; begin anew when it comes again"),
        "ignore": N_("; take no notice when it comes again meanwhile"),
    }
    return told(words[document.again], "again") if document.again in words else []


def _stop(document: RuleDocument) -> list[Phrase]:
    part = document.stop
    if part is None:
        return []
    when = [told("it ends", "stop")] if part.on_end else []
    if part.on_acknowledged:
        when.append(told("somebody acknowledges", "stop"))
    if part.unanswered:
        when.append(told("nobody does within {time}", "stop", time=Phrase(seconds(part.unanswered), "stop")))
    return told("; stop when {moments}", "stop", moments=list(enumerated(when, "or")))
