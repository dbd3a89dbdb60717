"""What one version of a rule says otherwise than another, part by part, in words."""

import json
from collections.abc import Iterator
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Any

from dromikon.core.facts import Facts
from dromikon.core.rules.controls import Control
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.parts import Part
from dromikon.core.rules.sentence import parts_in_words
from dromikon.core.words import t


@dataclass(frozen=True, slots=True)
class Changed:
    """One part that differs: its path in the later version (in the earlier one where it is gone), what it is called, and
    how it read before and reads now; empty where it was not or is not."""

    part: str
    label: str
    before: str
    after: str


def changes(before: RuleDocument, after: RuleDocument, facts: Facts) -> list[Changed]:
    """In the order of the document. Steps are told apart by what they are, not by their place."""
    said = parts_in_words(before, facts), parts_in_words(after, facts)
    found = []
    for name in RuleDocument.model_fields:
        if name in ("format", "response"):
            continue
        old, new = getattr(before, name), getattr(after, name)
        if old != new:
            found.append(_changed(name, _label(RuleDocument, name), (old, new), (said[0].get(name), said[1].get(name))))
    return [*found, *_steps(before, after, said)]


def _steps(before: RuleDocument, after: RuleDocument, said: tuple[dict[str, str], dict[str, str]]) -> Iterator[Changed]:
    keys = [[json.dumps(s.model_dump(mode="json"), sort_keys=True) for s in d.response] for d in (before, after)]
    for what, a, b, c, d in SequenceMatcher(None, keys[0], keys[1], autojunk=False).get_opcodes():
        if what == "equal":
            continue
        for i in range(max(b - a, d - c)):
            old = before.response[a + i] if a + i < b else None
            new = after.response[c + i] if c + i < d else None
            words = (said[0].get(f"response.{a + i}") if old else "", said[1].get(f"response.{c + i}") if new else "")
            part = f"response.{c + i}" if new else f"response.{a + i}"
            step = new or old
            assert step is not None
            alike = (old, new) if type(old) is type(new) else (None, None)
            yield _changed(part, t(step.label), alike, words)


def _changed(part: str, label: str, values: tuple[Any, Any], words: tuple[str | None, str | None]) -> Changed:
    """In the words of the part; where these are the same, by the fields that differ."""
    before, after = words[0] or _plain(values[0]), words[1] or _plain(values[1])
    if before == after and isinstance(values[0], Part) and type(values[0]) is type(values[1]):
        fields = [n for n in type(values[0]).model_fields if getattr(values[0], n) != getattr(values[1], n)]
        before, after = (", ".join(f"{_label(type(v), n)}: {_plain(getattr(v, n))}" for n in fields) for v in values)
    return Changed(part, label, before, after)


def _label(part: type[Part], name: str) -> str:
    control = next((m for m in part.model_fields[name].metadata if isinstance(m, Control)), None)
    return t(control.label) if control and control.label else name


def _plain(value: Any) -> str:
    if value is None or value == "" or value == ():
        return ""
    if isinstance(value, bool):
        return t("yes") if value else t("no")
    if isinstance(value, Part):
        named = getattr(value, "name", "")
        return (
            named
            if isinstance(named, str) and named
            else json.dumps(value.model_dump(mode="json", exclude_defaults=True))
        )
    if isinstance(value, tuple):
        return ", ".join(map(_plain, value))
    return f"{value:g}" if isinstance(value, float) else str(value)
