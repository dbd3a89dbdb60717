"""Every rule reads as one sentence, made from the document alone."""

from dromikon.core.facts import Facts
from dromikon.core.kinds import KINDS
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.parts import Phrase, enumerated, seconds


def sentence(document: RuleDocument, facts: Facts) -> list[Phrase]:
    """The rule in words, as phrases that point at the parts they describe."""
    words = [Phrase("When "), *document.cause.phrases(facts)]
    if document.provided is not None:
        kind = document.cause.event_kind()
        words += [Phrase(", provided ", "provided"), *document.provided.phrases(facts, kind, "provided")]
    words += _hours(document, facts)
    words += _hold_off(document)
    words.append(Phrase(": "))
    steps = [
        [*s.phrases(facts, f"response.{i}"), *_when(s.often() + s.when(), i)] for i, s in enumerate(document.response)
    ]
    words += enumerated(steps) if steps else [Phrase("do nothing yet", "response", name=True)]
    words += _again(document)
    words += _stop(document)
    words.append(Phrase("."))
    return words


def plain(phrases: list[Phrase]) -> str:
    """The sentence as plain text."""
    return "".join(p.text for p in phrases)


def _when(text: str, step: int) -> list[Phrase]:
    return [Phrase(text, f"response.{step}")] if text else []


def _hours(document: RuleDocument, facts: Facts) -> list[Phrase]:
    part = document.hours
    if part is None:
        return []
    known = facts.hours_by_id.get(part.hours.id)
    name = known.name if known else part.hours.name or part.hours.id
    return [Phrase(f", {'inside' if part.inside else 'outside'} ", "hours"), Phrase(name, "hours", name=True)]


def _hold_off(document: RuleDocument) -> list[Phrase]:
    part = document.hold_off
    if part is None:
        return []
    kind = KINDS[document.cause.event_kind()]
    field = kind.field(part.field) if part.per == "field" else None
    per = field.label if field else part.per
    rest = {"ignore": "", "join": ", repeats joined to the open alarm", "sum": ", the rest summed up in one line"}
    if part.most > 1:
        return [
            Phrase(", at most ", "hold_off"),
            Phrase(f"{part.most} times in {seconds(part.seconds)}", "hold_off", name=True),
            Phrase(f" per {per}{rest[part.then]}", "hold_off"),
        ]
    return [
        Phrase(", then quiet for ", "hold_off"),
        Phrase(seconds(part.seconds), "hold_off", name=True),
        Phrase(f" per {per}{rest[part.then]}", "hold_off"),
    ]


def _again(document: RuleDocument) -> list[Phrase]:
    words = {
        "extend": "hold for longer when it comes again",
        "restart": "begin anew when it comes again",
        "ignore": "take no notice when it comes again meanwhile",
    }
    return [Phrase("; ", "again"), Phrase(words[document.again], "again")] if document.again in words else []


def _stop(document: RuleDocument) -> list[Phrase]:
    part = document.stop
    if part is None:
        return []
    when = [[Phrase("it ends", "stop")]] if part.on_end else []
    when += [[Phrase("somebody acknowledges", "stop")]] if part.on_acknowledged else []
    when += [[Phrase(f"nobody does within {seconds(part.unanswered)}", "stop")]] if part.unanswered else []
    return [Phrase("; stop when ", "stop"), *enumerated(when, "or")]
