"""Similarity of face templates: the cosine of the angle between two vectors, as a percentage.

A template is the standard base64 of little-endian 32-bit floats, as many as the camera's model makes (16 to 1,024).
"""

import base64
import binascii
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dromikon.core.words import t

SMALLEST, LARGEST = 16, 1024


class NoTemplate(ValueError):
    """The text is not a face template; the message says why."""


def read_template(text: str) -> NDArray[np.float32]:
    """The unit vector of a template. Raises NoTemplate."""
    try:
        raw = base64.b64decode(text, validate=True)
    except (binascii.Error, ValueError) as error:
        raise NoTemplate(t("a face template is base64 text")) from error
    if len(raw) % 4 or not SMALLEST <= len(raw) // 4 <= LARGEST:
        raise NoTemplate(
            t("a face template holds {SMALLEST} to {LARGEST} 32-bit numbers", SMALLEST=SMALLEST, LARGEST=LARGEST)
        )
    vector = np.frombuffer(raw, dtype="<f4")
    length = float(np.linalg.norm(vector)) if np.isfinite(vector).all() else 0.0
    if not length or not np.isfinite(length):
        raise NoTemplate(t("a face template has numbers that are finite and not all zero"))
    return (vector / length).astype(np.float32)


def write_template(numbers: Sequence[float]) -> str:
    """The inverse of `read_template`, but for length."""
    return base64.b64encode(np.asarray(numbers, dtype="<f4").tobytes()).decode()


@dataclass(frozen=True, slots=True)
class Templates:
    """Known templates of several lengths; only those as long as the one seen can be compared with it."""

    rows: dict[int, tuple[list[int], NDArray[np.float32]]]

    @classmethod
    def of(cls, templates: Sequence[str]) -> "Templates":
        """Entries that are not templates are passed over; a list is checked when it is written."""
        found: dict[int, tuple[list[int], list[NDArray[np.float32]]]] = {}
        for place, text in enumerate(templates):
            try:
                vector = read_template(text)
            except NoTemplate:
                continue
            places, vectors = found.setdefault(len(vector), ([], []))
            places.append(place)
            vectors.append(vector)
        return cls({size: (places, np.stack(vectors)) for size, (places, vectors) in found.items()})

    def nearest(self, text: str) -> tuple[int, float] | None:
        """The place of the most similar entry and the similarity in percent (0 to 100); None when nothing compares."""
        try:
            seen = read_template(text)
        except NoTemplate:
            return None
        known = self.rows.get(len(seen))
        if known is None:
            return None
        cosines = known[1] @ seen
        best = int(np.argmax(cosines))
        return known[0][best], _percent(cosines[best])

    def like(self, text: str, least: float) -> list[tuple[int, float]]:
        """The places of all entries at least so similar, in percent, with their similarity. Raises NoTemplate."""
        seen = read_template(text)
        places, vectors = self.rows.get(len(seen), ([], np.empty((0, len(seen)), np.float32)))
        found = ((place, _percent(cosine)) for place, cosine in zip(places, vectors @ seen, strict=True))
        return [(place, percent) for place, percent in found if percent >= least]


def _percent(cosine: float) -> float:
    return max(0.0, min(100.0, float(cosine) * 100))
