"""Checks on outputs: commands closer than a device wants them, loads above what a contact may switch."""

from collections import defaultdict
from collections.abc import Iterator
from itertools import pairwise

from dromikon.core.facts import Electrical
from dromikon.core.rules.actions import Action
from dromikon.core.rules.actions.relay import RelayAction
from dromikon.core.rules.checks.base import Finding, Reading
from dromikon.core.words import t

GAP, LOAD = "gap-too-short", "load-too-high"


def relays(reading: Reading) -> Iterator[tuple[int, RelayAction, str]]:
    """Every relay step that names its output, with its place and the point."""
    for i, step in enumerate(reading.document.response):
        if isinstance(step, RelayAction) and step.target.point is not None:
            yield i, step, step.target.point.id


def gap_too_short(reading: Reading) -> Iterator[Finding]:
    """Two commands of one response to one device that are planned closer than the device wants them."""
    by_device: dict[str, list[tuple[float, int]]] = defaultdict(list)
    for i, step, point in relays(reading):
        known = reading.facts.point_by_id.get(point)
        if known is not None and known.device is not None:
            by_device[known.device] += [(moment, i) for moment in _moments(step)]
    for device, moments in by_device.items():
        known_device = reading.facts.device_by_id.get(device)
        gap = known_device.gap if known_device else 0.0
        moments.sort()
        for (first, _), (second, i) in pairwise(moments):
            if second - first < gap and known_device is not None:
                reason = t(
                    "{name} wants {gap} s between two commands; these are {value} s apart.",
                    name=known_device.name,
                    gap=f"{gap:g}",
                    value=f"{second - first:g}",
                )
                hint = t("They are sent one after the other all the same, so the second comes late.")
                yield Finding(GAP, "warning", f"response.{i}.after", reason, hint)
                break


def _moments(step: Action) -> list[float]:
    """When a step sends commands, in seconds from its anchor; anchors are not compared with each other."""
    if step.anchor != "start":
        return []
    starts = [step.after + step.gap * n for n in range(step.times)]
    held = float(step.hold) if isinstance(step.hold, int | float) else None
    return [m for start in starts for m in ((start, start + held) if held is not None else (start,))]


def load_too_high(reading: Reading) -> Iterator[Finding]:
    """An output whose load exceeds its contact's rating."""
    for i, _, point in relays(reading):
        known = reading.facts.point_by_id.get(point)
        reason = _overload(known.electrical) if known and known.electrical else ""
        if reason and known is not None:
            hint = t("Switch the load through a contactor that is rated for it.")
            yield Finding(LOAD, "error", f"response.{i}.target", f"{known.name}: {reason}", hint)


def _overload(told: Electrical) -> str:
    if told.load_volts > told.rated_volts:
        return t(
            "the load has {load_volts} V, the contact may switch {rated_volts} V.",
            load_volts=f"{told.load_volts:g}",
            rated_volts=f"{told.rated_volts:g}",
        )
    if told.load_amps > told.rated_amps:
        return t(
            "the load draws {load_amps} A, the contact may switch {rated_amps} A.",
            load_amps=f"{told.load_amps:g}",
            rated_amps=f"{told.rated_amps:g}",
        )
    return ""
