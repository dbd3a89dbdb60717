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


def driven(reading: Reading) -> Iterator[tuple[int, Action, str, str]]:
    """Every step that sets a named point: its place, the step, the point, and what it is set to."""
    for i, step in enumerate(reading.document.response):
        set_to = step.drives()
        if set_to is not None:
            yield i, step, set_to[0].id, set_to[1]


def gap_too_short(reading: Reading) -> Iterator[Finding]:
    """Two commands of one response to one device that are planned closer than the device wants them."""
    by_device: dict[str, list[tuple[float, int]]] = defaultdict(list)
    for i, step, point, _ in driven(reading):
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
    starts = [step.after + later for later in step.planned()]
    held = float(step.hold) if isinstance(step.hold, int | float) else None
    return [m for start in starts for m in ((start, start + held) if held is not None else (start,))]


def load_too_high(reading: Reading) -> Iterator[Finding]:
    """An output whose load exceeds its contact's rating."""
    for i, _, point in relays(reading):
        known = reading.facts.point_by_id.get(point)
        reason = _overload(known.electrical) if known and known.electrical else ""
        if reason and known is not None:
            hint = t("Put an interposing relay between them: its coil on this contact, the load on its own contacts.")
            yield Finding(LOAD, "error", f"response.{i}.target", f"{known.name}: {reason}", hint)
        elif known is not None and known.electrical is not None and _unrated(known.electrical):
            reason = t("{name}: what its contact may switch of direct current is not known.", name=known.name)
            hint = t(
                "A contact breaks far less direct than alternating current: look it up, or use an interposing relay."
            )
            yield Finding(LOAD, "warning", f"response.{i}.target", reason, hint)


def _unrated(told: Electrical) -> bool:
    return told.load_current == "dc" and not (told.rated_dc_volts and told.rated_dc_amps)


def _overload(told: Electrical) -> str:
    """Why a contact must not switch its load; empty where it may, or where its rating is not known."""
    direct = told.load_current == "dc"
    if direct and _unrated(told):
        return ""
    volts = told.rated_dc_volts if direct else told.rated_volts
    amps = told.rated_dc_amps if direct else told.rated_amps
    sort = t("of direct current") if direct else t("of alternating current")
    if told.load_volts > volts:
        return t(
            "the load has {load} V, the contact may switch {rated} V {sort}.",
            load=f"{told.load_volts:g}", rated=f"{volts:g}", sort=sort,
        )  # fmt: skip
    if told.load_amps > amps:
        return t(
            "the load draws {load} A, the contact may switch {rated} A {sort}.",
            load=f"{told.load_amps:g}", rated=f"{amps:g}", sort=sort,
        )  # fmt: skip
    return ""
