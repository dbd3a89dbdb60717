"""The garden's doors as their controller knows them: open or closed, locked or not, who was let in, who was not."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from dromikon.standins.world.plant.signals import Signal
from dromikon.standins.world.reports import Report

#: How long a door stays unlocked for somebody who is let in, in ms.
UNLOCKED = 5_000
#: What has no contact is normal again so long after it was forced, in ms.
FORCED_FOR = 20_000
PHYSICAL, LOCK, ALARM = (f"tns1:Door/State/{name}" for name in ("DoorPhysicalState", "LockPhysicalState", "DoorAlarm"))
GRANTED, DENIED = "tns1:AccessControl/AccessGranted/Credential", "tns1:AccessControl/Denied/Credential"


@dataclass(frozen=True, slots=True)
class Door:
    """A door of the controller: its tokens, what the garden's other systems call it, and which states of it are watched."""

    token: str
    name: str
    point: str
    watched: tuple[str, ...] = (PHYSICAL, LOCK, ALARM)

    @property
    def access_point(self) -> str:
        return f"reader-{self.token}"


DOORS = (
    Door("vault", "Vault door", "vault-door"),
    Door("palm", "Palm house door", "palm-door"),
    # It has neither contact nor bolt: it lets one through at a time, and tells when somebody climbs over.
    Door("turnstile", "Turnstile", "turnstile", (ALARM,)),
)
BY_POINT = {door.point: door for door in DOORS}


def of_doors(signal: Signal) -> bool:
    """Whether a signal is told by the controller rather than by the gateway."""
    return signal.point in BY_POINT


@dataclass(frozen=True, slots=True)
class Command:
    """A door was told something: release, lock, unlock, hold_open or block."""

    at: int
    door: str
    verb: str


def door_reports(signals: Iterable[Signal], commands: Iterable[Command], start: int, end: int) -> list[Report]:
    """What the controller tells in [start, end), in order. What began up to a minute before may end in it."""
    told = [r for s in signals if s.point in BY_POINT for r in _of_signal(s, BY_POINT[s.point])]
    told += [r for c in commands for r in _of_command(c)]
    return sorted((r for r in told if start <= r.at < end and _is_watched(r)), key=lambda r: r.at)


def _is_watched(report: Report) -> bool:
    return not report.property or any(d.token == report.source[0][1] and report.topic in d.watched for d in DOORS)


def _of_signal(signal: Signal, door: Door) -> Iterator[Report]:
    at, begins = signal.at, signal.phase == "begin"
    if signal.kind == "door.open":
        yield _state(at, PHYSICAL, door, "Open" if begins else "Closed")
        if not begins:
            yield _state(at, ALARM, door, "Normal")
    elif signal.kind == "door.held_open" and begins:
        yield _state(at, ALARM, door, "DoorOpenTooLong")
    elif signal.kind == "door.forced":
        yield _state(at, ALARM, door, "DoorForcedOpen")
        if PHYSICAL not in door.watched:
            # Nothing closes by which it would be normal again.
            yield _state(at + FORCED_FOR, ALARM, door, "Normal")
    elif signal.kind in ("access.granted", "access.denied"):
        yield from _access(signal, door)


def _access(signal: Signal, door: Door) -> Iterator[Report]:
    granted = signal.kind == "access.granted"
    holder = (("CredentialToken", str(signal.fields["card"])), ("CredentialHolderName", str(signal.fields["person"])))
    reason = () if granted else (("Reason", "Unauthorized"),)
    source = (("AccessPointToken", door.access_point),)
    yield Report(signal.at, GRANTED if granted else DENIED, source, (("External", "false"), *holder, *reason))
    if granted:
        yield from _released(signal.at, door)


def _of_command(command: Command) -> Iterator[Report]:
    door = next(d for d in DOORS if d.token == command.door)
    if command.verb == "release":
        yield from _released(command.at, door)
    else:
        yield _state(command.at, LOCK, door, "Unlocked" if command.verb in ("unlock", "hold_open") else "Locked")


def _released(at: int, door: Door) -> Iterator[Report]:
    yield _state(at, LOCK, door, "Unlocked")
    yield _state(at + UNLOCKED, LOCK, door, "Locked")


def _state(at: int, topic: str, door: Door, state: str) -> Report:
    return Report(at, topic, (("DoorToken", door.token),), (("State", state),), property=True)


def door_states(reports: Iterable[Report], at: int) -> list[Report]:
    """Every property of every door at an instant, from what was told lately."""
    rest = {PHYSICAL: "Closed", LOCK: "Locked", ALARM: "Normal"}
    found = {
        (topic, door.token): _state(at, topic, door, state)
        for door in DOORS
        for topic, state in rest.items()
        if topic in door.watched
    }
    found.update({(r.topic, r.source[0][1]): r for r in reports if r.property})
    return list(found.values())
