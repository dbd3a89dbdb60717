"""A detector run over the past: what it would have told, how often by the hour, how that moves with its settings, and which
settings part what it should tell from what it should not."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from dromikon.core.events import Phase
from dromikon.core.instants import Instant
from dromikon.core.optics import Optics
from dromikon.core.scene.detecting import Detected, Detecting
from dromikon.core.scene.seeing import Seeing
from dromikon.core.scene.sight import Sight
from dromikon.core.scene.watching import Detector

#: A mark is one of the hit that lies so near, in ms. Other settings tell of the same object earlier or later.
NEAR = 5_000
#: What parts marks is looked for in what lies so near them, in ms.
AROUND = 150_000
#: Numbers that may be varied, with what is tried besides the present one.
VARIED: dict[str, tuple[float, ...]] = {
    "sure": (0, 30, 50, 60, 70, 80, 90), "smallest": (0, 2, 5, 8, 12, 20, 30), "largest": (10, 20, 35, 50, 70, 100),
    "seconds": (0, 1, 2, 5, 10, 20, 30, 60, 120), "overlap": (10, 20, 30, 40, 50, 60, 80), "most": (1, 2, 3, 5, 8, 12, 20),
    "within": (20, 40, 60, 80), "faster": (1.0, 1.3, 1.6, 2.0, 2.5), "shortest": (0, 0.5, 1, 1.4, 2), "tallest": (0, 1, 1.5, 2, 3),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Hit:
    """One time that it would have told something, and of whom: its number is the same whatever the settings are. `box`: where
    in the picture, in shares."""

    at: Instant
    object: int | None
    kind: str
    sure: float
    box: tuple[float, float, float, float] | None


@dataclass(frozen=True, slots=True)
class Mark:
    """What somebody said of a hit."""

    at: Instant
    should: bool


@dataclass(frozen=True, slots=True)
class Offer:
    """The detector with a setting that parts the marks better: `kept` of those that should be told are, and `dropped` of the
    others are not."""

    setting: str
    value: float
    detector: Detector
    kept: int
    dropped: int


def hits_of(
    detectors: Mapping[str, Detector],
    sights: Iterable[Sight],
    seeing: Seeing | None = None,
    optics: Optics | None = None,
) -> dict[str, list[Hit]]:
    """What detectors would have told of pictures in their order; of a state, its beginning. However many they are, objects are
    followed once."""
    detecting, found = Detecting(detectors, seeing, optics), {name: list[Hit]() for name in detectors}
    for sight in sights:
        for told in detecting.take(sight):
            if told.phase is not Phase.END:
                found[told.point].append(_hit(told))
    return found


def _hit(told: Detected) -> Hit:
    number = told.fields.get("object")
    sure = float(told.fields.get("confidence") or 0)
    return Hit(told.at, int(number) if number is not None else None, str(told.fields.get("class", "")), sure, told.box)


def by_hour(found: Sequence[Hit], start: Instant, end: Instant) -> list[int]:
    """How many in each hour from the start on."""
    hour = 3_600_000
    counts = [0] * max(1, -(-(end - start) // hour))
    for hit in found:
        counts[min(len(counts) - 1, max(0, (hit.at - start) // hour))] += 1
    return counts


def varied(detector: Detector, setting: str) -> list[tuple[float, Detector]]:
    """The detector with other values of a setting, in order; those that cannot be are left out."""
    now = getattr(detector, setting, None)
    if now is None or setting not in VARIED:
        return []
    made = ((value, _with(detector, setting, value)) for value in sorted({*VARIED[setting], float(now)}))
    return [(value, other) for value, other in made if other is not None]


def _with(detector: Detector, setting: str, value: float) -> Detector | None:
    content: dict[str, Any] = {**detector.model_dump(), setting: type(getattr(detector, setting))(value)}
    try:
        return type(detector).model_validate(content)
    except ValidationError:
        return None


def settings_of(kind: type[Detector]) -> list[str]:
    """The settings of a kind that may be varied."""
    return [name for name in VARIED if name in kind.model_fields]


def offers(
    detector: Detector, near: Iterable[Sight], marks: Sequence[Mark], seeing: Seeing | None = None,
    optics: Optics | None = None, most: int = 3,
) -> list[Offer]:  # fmt: skip
    """Values of single settings that part the marks better than the present ones do, the best first; of those that part
    equally the one that changes least. `near`: what was seen around the marks."""
    others = {
        f"{setting} {value}": (setting, value, other)
        for setting in settings_of(type(detector))
        for value, other in varied(detector, setting)
    }
    told = hits_of({"": detector, **{name: other for name, (_, _, other) in others.items()}}, near, seeing, optics)
    meant = [_meant(mark, told[""]) for mark in marks]
    now = sum(_judged(told[""], marks, meant))
    best: dict[str, tuple[int, float, str]] = {}
    for name, (setting, value, _) in others.items():
        parted = sum(_judged(told[name], marks, meant))
        present = float(getattr(detector, setting))
        rank = (-parted, abs(value - present) / max(abs(present), 1.0), name)
        if parted > now and (setting not in best or rank < best[setting]):
            best[setting] = rank
    names = [name for _, _, name in sorted(best.values())[:most]]
    return [Offer(*others[name], *_judged(told[name], marks, meant)) for name in names]


def _meant(mark: Mark, told: Sequence[Hit]) -> int | None:
    """The object that a mark is about."""
    near = [hit for hit in told if abs(hit.at - mark.at) <= NEAR]
    return min(near, key=lambda hit: abs(hit.at - mark.at)).object if near else None


def _judged(told: Sequence[Hit], marks: Sequence[Mark], meant: Sequence[int | None]) -> tuple[int, int]:
    """How many marks that should be told are, and how many of the others are not."""
    objects = {hit.object for hit in told if hit.object is not None}
    kept = dropped = 0
    for mark, number in zip(marks, meant, strict=True):
        there = number in objects if number is not None else any(abs(hit.at - mark.at) <= NEAR for hit in told)
        kept += mark.should and there
        dropped += not mark.should and not there
    return kept, dropped
