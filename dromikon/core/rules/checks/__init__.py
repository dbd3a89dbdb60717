"""The checks. Register one more with one line below: for one rule in `CHECKS`, between rules in `RULEBOOK_CHECKS`."""

from collections.abc import Iterable

from dromikon.core.facts import Facts
from dromikon.core.registry import Registry
from dromikon.core.rules.checks.base import NOTHING_KNOWN, Check, Finding, Known, Mend, Reading, RulebookCheck
from dromikon.core.rules.checks.between import against_each_other, duplicate, never_switched_off, sets_itself_off
from dromikon.core.rules.checks.commands import unknown_preset, unknown_signal
from dromikon.core.rules.checks.identity import door_by_picture
from dromikon.core.rules.checks.never import contradiction, hours_never_count, impossible_pattern
from dromikon.core.rules.checks.outputs import gap_too_short, load_too_high
from dromikon.core.rules.checks.overlap import two_alarms
from dromikon.core.rules.checks.preroll import pre_roll, unrecorded
from dromikon.core.rules.checks.recipients import no_address, no_number, no_presser, no_recipient
from dromikon.core.rules.checks.response import (
    ends_never,
    needs_alarm,
    never_ends,
    no_instruction,
    no_response,
    stop_without_end,
    unheard,
)  # fmt: skip
from dromikon.core.rules.checks.scripts import no_script
from dromikon.core.rules.checks.sources import cannot_send, every_reading, no_camera
from dromikon.core.rules.checks.traffic import forgets, no_hold_off, not_tested, stale_list
from dromikon.core.rules.checks.unknown import no_point, unknown_field, unknown_reference
from dromikon.core.rules.document import RuleDocument

CHECKS: Registry[Check] = Registry("check")
CHECKS.add("no-recipient", no_recipient)
CHECKS.add("no-number", no_number)
CHECKS.add("no-address", no_address)
CHECKS.add("no-presser", no_presser)
CHECKS.add("unknown-reference", unknown_reference)
CHECKS.add("no-point", no_point)
CHECKS.add("cannot-send", cannot_send)
CHECKS.add("no-camera", no_camera)
CHECKS.add("every-reading", every_reading)
CHECKS.add("unknown-field", unknown_field)
CHECKS.add("pre-roll-too-short", pre_roll)
CHECKS.add("pre-roll-unrecorded", unrecorded)
CHECKS.add("no-response", no_response)
CHECKS.add("no-instruction", no_instruction)
CHECKS.add("unheard-alarm", unheard)
CHECKS.add("never-ends", never_ends)
CHECKS.add("end-never-comes", ends_never)
CHECKS.add("stop-without-end", stop_without_end)
CHECKS.add("needs-alarm", needs_alarm)
CHECKS.add("no-script", no_script)
CHECKS.add("contradiction", contradiction)
CHECKS.add("hours-never-count", hours_never_count)
CHECKS.add("impossible-pattern", impossible_pattern)
CHECKS.add("no-hold-off", no_hold_off)
CHECKS.add("not-tested", not_tested)
CHECKS.add("forgets-subjects", forgets)
CHECKS.add("stale-list", stale_list)
CHECKS.add("gap-too-short", gap_too_short)
CHECKS.add("load-too-high", load_too_high)
CHECKS.add("door-by-picture", door_by_picture)
CHECKS.add("unknown-preset", unknown_preset)
CHECKS.add("unknown-signal", unknown_signal)

RULEBOOK_CHECKS: Registry[RulebookCheck] = Registry("rulebook check")
RULEBOOK_CHECKS.add("duplicate", duplicate)
RULEBOOK_CHECKS.add("sets-itself-off", sets_itself_off)
RULEBOOK_CHECKS.add("against-each-other", against_each_other)
RULEBOOK_CHECKS.add("never-switched-off", never_switched_off)
RULEBOOK_CHECKS.add("two-alarms", two_alarms)


def check(document: RuleDocument, facts: Facts, known: Known = NOTHING_KNOWN, id: str = "") -> list[Finding]:
    """All findings for one rule by itself, errors first."""
    return _of_one(Reading(id, document, facts, known))


def check_rulebook(
    rules: Iterable[tuple[str, RuleDocument]], facts: Facts, known: Known = NOTHING_KNOWN
) -> dict[str, list[Finding]]:
    """All findings for each rule of a rulebook, alone and beside the others, errors first."""
    readings = [Reading(id, document, facts, known) for id, document in rules]
    found = {reading.id: _of_one(reading) for reading in readings}
    for run in RULEBOOK_CHECKS:
        for id, finding in run(readings):
            found[id].append(finding)
    return {id: _sorted(findings) for id, findings in found.items()}


def check_beside(
    draft: RuleDocument,
    others: Iterable[tuple[str, RuleDocument]],
    facts: Facts,
    known: Known = NOTHING_KNOWN,
    id: str = "",
) -> list[Finding]:
    """What is found of a draft beside the other rules of its rulebook. `id`: the rule among them that it stands for."""
    readings = [Reading(other, document, facts, known) for other, document in others if other != id]
    readings.append(Reading(id, draft, facts, known))
    return _sorted([f for run in RULEBOOK_CHECKS for about, f in run(readings) if about == id])


def _of_one(reading: Reading) -> list[Finding]:
    return _sorted([finding for run in CHECKS for finding in run(reading)])


def _sorted(found: list[Finding]) -> list[Finding]:
    return sorted(found, key=lambda f: (f.severity != "error", f.path))


__all__ = ["CHECKS", "RULEBOOK_CHECKS", "Finding", "Known", "Mend", "check", "check_beside", "check_rulebook"]
