"""Every rule reads as one sentence, made from the document alone."""

from dromikon.core.facts import Facts
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.parts import Phrase, listed, seconds


def sentence(document: RuleDocument, facts: Facts) -> list[Phrase]:
    """The rule in words, as phrases that point at the parts they describe."""
    words = [Phrase("When "), *document.cause.phrases(facts)]
    if document.provided is not None:
        kind = document.cause.event_kind()
        words += [Phrase(", provided ", "provided"), *document.provided.phrases(facts, kind, "provided")]
    words += _hours(document, facts)
    words += _hold_off(document)
    words.append(Phrase(": "))
    steps = [[*s.phrases(facts, f"response.{i}"), *_when(s.when(), i)] for i, s in enumerate(document.response)]
    words += listed(steps) if steps else [Phrase("do nothing yet", "response", name=True)]
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
    per = part.field if part.per == "field" else part.per
    if part.most > 1:
        return [
            Phrase(", at most ", "hold_off"),
            Phrase(f"{part.most} times in {seconds(part.seconds)}", "hold_off", name=True),
            Phrase(f" per {per}", "hold_off"),
        ]
    return [
        Phrase(", then quiet for ", "hold_off"),
        Phrase(seconds(part.seconds), "hold_off", name=True),
        Phrase(f" per {per}", "hold_off"),
    ]
