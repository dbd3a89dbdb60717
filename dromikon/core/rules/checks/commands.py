"""Checks on what cameras and sirens are told: positions and signals that they do not know."""

from collections.abc import Iterator

from dromikon.core.rules.actions.ptz import PtzAction
from dromikon.core.rules.actions.signal import SignalAction, signal_of
from dromikon.core.rules.checks.base import Finding, Reading
from dromikon.core.words import t

PRESET, SIGNAL, SHORT = "unknown-preset", "unknown-signal", "signal-cut-short"


def unknown_preset(reading: Reading) -> Iterator[Finding]:
    """A position that the camera does not know, as far as it has told; or none in which it looks at what happens."""
    facts = reading.facts
    for i, step in enumerate(reading.document.response):
        if not isinstance(step, PtzAction):
            continue
        named = step.camera.point.id if step.camera.point else ""
        if step.to == "sight":
            points = [facts.point_by_id[p] for _, p in reading.triggers if p in facts.point_by_id]
            blind = [p.name for p in points if not (named in p.seen_in if named else p.seen_in)]
            if blind:
                reason = t(
                    "In which position a camera looks at {names} is not known.", names=", ".join(sorted(set(blind)))
                )
                hint = t("Say so on the plan, at the point's cameras.")
                yield Finding(
                    PRESET, "error" if len(blind) == len(points) else "warning", f"response.{i}.to", reason, hint
                )
        known = facts.point_by_id.get(named)
        if known is None or not known.told.presets:
            continue
        for field in ("preset", "back"):
            wanted = getattr(step, field)
            if wanted and wanted.casefold() not in {p.casefold() for p in known.told.presets}:
                reason = t("{name} knows no position “{wanted}”.", name=known.name, wanted=wanted)
                hint = t("It knows: {list}.", list=", ".join(known.told.presets))
                yield Finding(PRESET, "error", f"response.{i}.{field}", reason, hint)


def unknown_signal(reading: Reading) -> Iterator[Finding]:
    """A signal that the siren does not have, or one that its device ends before it is over."""
    for i, step in enumerate(reading.document.response):
        if not isinstance(step, SignalAction) or step.target.point is None:
            continue
        known = reading.facts.point_by_id.get(step.target.point.id)
        if known is None or known.siren is None:
            continue
        signal, names = signal_of(known.siren, step.signal), ", ".join(s.name for s in known.siren.signals)
        if signal is None:
            reason = t("{name} has no signal “{wanted}”.", name=known.name, wanted=step.signal)
            hint = t("It has: {list}.", list=names or t("none"))
            yield Finding(SIGNAL, "error", f"response.{i}.signal", reason, hint)
            continue
        held = step.held if step.lasts == "held" and isinstance(step.held, float) else None
        for what, output, own in (
            (t("light"), known.siren.light, signal.light), (t("sound"), known.siren.sound, signal.sound),
        ):  # fmt: skip
            ends, wanted = known.told.times.get(output), (held or own) if own else 0.0
            if ends is not None and wanted > ends:
                reason = t(
                    "{name} ends its {what} by itself after {ends} s; {wanted} s are wanted.",
                    name=known.name, what=what, ends=f"{ends:g}", wanted=f"{wanted:g}",
                )  # fmt: skip
                hint = t("Set the output's time on the device, or ask for less.")
                yield Finding(SHORT, "warning", f"response.{i}.signal", reason, hint)
