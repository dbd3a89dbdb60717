"""Comparing plates and other codes that were read from a picture, tolerating what readers get wrong.

Readers mix up characters that look alike, and now and then misread, miss or add one. Distance is the Levenshtein
distance (V. Levenshtein, 1966) over codes whose look-alike characters have been made the same.
"""

from collections.abc import Iterable
from dataclasses import dataclass, field

from rapidfuzz import process
from rapidfuzz.distance import Levenshtein

from dromikon.core.words import t

#: Characters that readers take for each other, each group written as its first.
ALIKE = ("0OQD", "1IL", "2Z", "5S", "6G", "8B", "7T")
_SAME = str.maketrans({other: group[0] for group in ALIKE for other in group[1:]})


def tidy(code: str) -> str:
    """A code without spaces, dashes and dots, in capitals."""
    return "".join(c for c in code.upper() if c.isalnum())


def rough(code: str) -> str:
    """A tidy code in which characters that look alike are the same."""
    return code.translate(_SAME)


@dataclass(frozen=True, slots=True)
class Reading:
    """How a read code relates to a known one. `errors` counts what is not explained by characters that look alike."""

    known: str
    errors: int
    why: str


@dataclass(slots=True)
class Codes:
    """Known codes, ready to be compared with what was read."""

    by_code: dict[str, str] = field(default_factory=dict)
    by_rough: dict[str, list[str]] = field(default_factory=dict)

    @classmethod
    def of(cls, codes: Iterable[str]) -> "Codes":
        made = cls()
        for code in codes:
            clean = tidy(code)
            if clean:
                made.by_code.setdefault(clean, code)
                made.by_rough.setdefault(rough(clean), []).append(clean)
        return made

    def exact(self, read: str) -> Reading | None:
        """The same code, whatever its spaces and case."""
        known = self.by_code.get(tidy(read))
        return Reading(known, 0, t("the same")) if known is not None else None

    def tolerant(self, read: str, errors: int) -> Reading | None:
        """The nearest known code within `errors` reading errors, look-alike characters being free of charge."""
        same = self.exact(read)
        if same is not None:
            return same
        clean = tidy(read)
        if not clean:
            return None
        found = self.by_rough.get(rough(clean))
        if found:
            known = min(found, key=lambda code: (Levenshtein.distance(clean, code), code))
            return Reading(self.by_code[known], 0, _differences(clean, known, t("looks like")))
        if errors < 1:
            return None
        # A short code must not be swallowed whole by its tolerance.
        allowed = min(errors, max(0, len(clean) - 3))
        near = process.extractOne(rough(clean), self.by_rough.keys(), scorer=Levenshtein.distance, score_cutoff=allowed)
        if near is None or allowed < 1:
            return None
        known = sorted(self.by_rough[near[0]])[0]
        return Reading(self.by_code[known], int(near[1]), _differences(clean, known, t("read for")))


def _differences(read: str, known: str, words: str) -> str:
    parts = []
    for edit in Levenshtein.editops(read, known):
        if edit.tag == "replace":
            parts.append(f"{read[edit.src_pos]} {words} {known[edit.dest_pos]}")
        elif edit.tag == "delete":
            parts.append(f"{read[edit.src_pos]} too many")
        else:
            parts.append(f"{known[edit.dest_pos]} missing")
    return ", ".join(parts)
