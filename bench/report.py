"""How a measure is told."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Result:
    """A measured value against its limit. `at_most` says which side is good."""

    what: str
    value: float
    limit: float
    unit: str = ""
    at_most: bool = True

    @property
    def kept(self) -> bool:
        return self.value <= self.limit if self.at_most else self.value >= self.limit

    def line(self) -> str:
        side = "at most" if self.at_most else "at least"
        ratio = self.value / self.limit
        verdict = "kept" if self.kept else "MISSED"
        return f"{verdict:6} {self.what}: {self.value:,.3g} {self.unit} ({side} {self.limit:,.3g}; ratio {ratio:.2f})"


def percentile(values: list[float], share: float) -> float:
    """The value below which a share (0..1) of them lies."""
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, int(share * len(ordered)))]
