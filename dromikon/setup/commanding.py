"""Tests of what commands are sent to: an output, a siren, a speaker, a door, a camera that moves.

A test is carried out in the same lane as the commands of rules, with the same holders. Nothing that a rule holds or has
left on is touched.
"""

from collections.abc import Callable
from dataclasses import dataclass

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.rules.actions import Action
from dromikon.core.rules.actions.announce import AnnounceAction
from dromikon.core.rules.actions.door import DoorAction
from dromikon.core.rules.actions.ptz import PtzAction
from dromikon.core.rules.actions.relay import RelayAction
from dromikon.core.rules.actions.signal import SignalAction
from dromikon.core.rules.parts import Ref
from dromikon.core.rules.target import Target
from dromikon.core.words import N_
from dromikon.daybook.holders import holders, left_on
from dromikon.daybook.models import RunRow, Step
from dromikon.daybook.trial import TEST, put_command
from dromikon.facts import names_of
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.setup.sort import SENT, Saved, Verb, refuse
from dromikon.setup.trying import firing_of_a_test
from dromikon.sources.models import Point

#: What is held goes off again after so many ms.
LASTS = 3_000


@dataclass(frozen=True, slots=True)
class Command:
    """A test by one kind of command: what its button reads, what is asked before, and the step that is carried out."""

    verb: str
    label: str
    asks: str
    #: Whether a point can be told so, as far as its device says.
    fits: Callable[[Point], bool]
    action: Callable[[Point], Action]


def _at(point: Point) -> Target:
    return Target(point=Ref(id=point.id, name=point.name))


def _signal(point: Point) -> Action:
    assert point.siren is not None
    return SignalAction(target=_at(point), signal=point.siren["signals"][0]["name"])


COMMANDS = (
    Command(
        "switch", N_("Switch on for 3 s"), N_("What hangs on this output is switched on for three seconds. Now?"),
        lambda p: p.kind == "relay", lambda p: RelayAction(target=_at(p), held=LASTS / 1000),
    ),
    Command(
        "sound", N_("Sound for 3 s"), N_("The siren gives its first signal for three seconds: it is loud. Now?"),
        lambda p: p.kind == "siren" and bool(p.siren and p.siren.get("signals")), _signal,
    ),
    Command(
        "announce", N_("Play the chime"), N_("Whoever is there hears the chime. Now?"),
        lambda p: p.kind in ("speaker", "station"), lambda p: AnnounceAction(target=_at(p), sound="chime"),
    ),
    Command(
        "open", N_("Let it be opened once"), N_("Whoever stands at this door can open it, once. Now?"),
        lambda p: p.kind == "door", lambda p: DoorAction(target=_at(p), set="release"),
    ),
    Command(
        "home", N_("Turn to its home position"), N_("The camera turns away from where it looks now. Now?"),
        lambda p: p.kind == "camera" and bool(p.told.get("presets")), lambda p: PtzAction(camera=_at(p), to="home"),
    ),
)  # fmt: skip


def commands_of(point: Point) -> tuple[str, ...]:
    """The tests that a point can be put to: none while it belongs to no device."""
    return tuple(c.verb for c in COMMANDS if point.device_id and c.fits(point))


def try_command(access: Access, id: str, command: Command) -> str:
    """Have a point carry out a test. Returns the run under which its outcome is found. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    point = Point.objects.filter(site=access.site, id=id, retired_at=None).first()
    if point is None or command.verb not in commands_of(point):
        raise refuse("id", "There is no such point any more.")
    action, at = command.action(point), now_ms()
    _check_free(point.id, action.do)
    run, lane = f"{TEST}{at}", f"device:{point.device_id}"
    with transaction.atomic():
        for order in action.orders(firing_of_a_test(names_of(access.site), at)):
            put_command(access.site.id, run, action.do, order, lane, at, _lasts(action, order.hold))
        record(access.site, access.person, "tested", f"point:{point.id}", at, name=point.name, command=command.verb)
    return run


def _lasts(action: Action, own: object) -> int | None:
    """After how many ms it is undone; None for what passes by itself."""
    held = action.hold if own is None else own
    return None if held is None else LASTS if held == "state" else min(LASTS, round(float(str(held)) * 1000))


def _check_free(target: str, action: str) -> None:
    """Raises Refused while something holds it, or has left it on."""
    held = next(holders(target, (action,)), None)
    if held is not None:
        raise refuse("id", f"{_who(held)} holds it now. Try it when it is free.")
    left = left_on(target, action)
    if left is not None:
        raise refuse("id", f"{_who(left)} has left it on. Switch it off first.")


def _who(step: Step) -> str:
    run = RunRow.objects.filter(ref=step.run).first()
    return f"“{run.rule_name}”" if run else "Another test" if step.run.startswith(TEST) else f"Run {step.run}"


def _verb(command: Command) -> Verb:
    def do(access: Access, id: str) -> Saved:
        try_command(access, id, command)
        return Saved(id, said=SENT)

    return Verb(command.verb, command.label, do, command.asks)


VERBS = tuple(_verb(command) for command in COMMANDS)
