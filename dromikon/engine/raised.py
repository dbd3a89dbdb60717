"""Events that Dromikon raises itself: a counter that changed, a step in trouble, nobody reached."""

from collections.abc import Mapping
from typing import NamedTuple

from dromikon.core.events import Scalar
from dromikon.core.kinds import COUNTED, STEP_EXPIRED, STEP_FAILED, STEP_UNREACHED
from dromikon.core.rules.outcome import Unreached
from dromikon.daybook.models import ActRow, EventRow, RunRow

NOBODY = "nobody is on duty and can be reached"


class Raised(NamedTuple):
    """A momentary event. `chain`: the rules that led to it, none of which it sets off again."""

    kind: str
    point: str
    fields: dict[str, Scalar]
    chain: tuple[str, ...] = ()
    late: bool = False


def counted(id: str, name: str, before: int, value: int, chain: tuple[str, ...]) -> Raised | None:
    """A counter now stands at a value; None where it stood there before."""
    if value == before:
        return None
    return Raised(COUNTED, "", {"counter": name, "id": id, "value": value, "before": before}, chain)


def in_trouble(act: ActRow, rule_names: Mapping[str, str]) -> Raised:
    """A step that could not be sent in time, or failed. Its chain is that of its run with the rule, so that two rules about
    trouble do not set each other off for ever."""
    run = RunRow.objects.filter(ref=act.body["run"]).first()
    kind = STEP_EXPIRED if act.type == "expired" else STEP_FAILED
    fields = _fields(rule_names, run.rule if run else "", str(act.body["action"]), str(act.body["answer"]))
    if run is None:
        return Raised(kind, "", fields)
    before = EventRow.objects.filter(seq=run.event).values_list("chain", flat=True).first() or ()
    return Raised(kind, run.point, fields, (*before, run.rule))


def nobody_reached(unreached: Unreached, rule_names: Mapping[str, str]) -> Raised:
    """A step for people that nobody could be told by."""
    event, fields = unreached.event, _fields(rule_names, unreached.rule, unreached.action, NOBODY)
    return Raised(STEP_UNREACHED, event.point, fields, (*event.chain, unreached.rule), event.late)


def _fields(rule_names: Mapping[str, str], rule: str, step: str, reason: str) -> dict[str, Scalar]:
    return {"by_rule": rule_names.get(rule, rule), "step": step, "reason": reason}
