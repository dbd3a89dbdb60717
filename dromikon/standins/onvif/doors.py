"""Door control and access control: the doors, how they are, what they can be told; the readers that lead to them."""

from collections.abc import Callable, Mapping
from typing import NamedTuple
from xml.sax.saxutils import quoteattr

from dromikon.standins.onvif.device import Handler, Service, StandInDevice
from dromikon.standins.onvif.soap import Fault, Request
from dromikon.standins.world.access import ALARM, DOORS, LOCK, PHYSICAL, Door
from dromikon.standins.world.reports import Report

#: What each operation tells a door.
VERBS = {
    "AccessDoor": "release", "LockDoor": "lock", "UnlockDoor": "unlock", "BlockDoor": "block", "LockOpenDoor": "hold_open",
    "LockOpenReleaseDoor": "lock",
}  # fmt: skip

#: How each state that is watched is called in the state of a door, in the order of its schema.
STATES = {PHYSICAL: "DoorPhysicalState", LOCK: "LockPhysicalState", ALARM: "Alarm"}


class Kept(NamedTuple):
    """How the doors are, and who is told what they are to do."""

    now: Callable[[], list[Report]]
    command: Callable[[str, str], None]


class DoorControl(Service):
    prefix, path, version = "tdc", "doorcontrol", (21, 6)

    def __init__(self, device: StandInDevice, kept: Kept) -> None:
        super().__init__(device)
        self.kept = kept

    def operations(self) -> Mapping[str, Handler]:
        return {
            "GetDoorInfoList": self._list,
            "GetDoorState": self._state,
            **dict.fromkeys(VERBS, self._command),
        }

    def _list(self, asked: Request) -> str:
        doors, following = _page(asked)
        inner = "".join(
            f"<tdc:DoorInfo token={quoteattr(d.token)}><tdc:Name>{d.name}</tdc:Name>{_capabilities(d)}</tdc:DoorInfo>"
            for d in doors
        )
        following = f"<tdc:NextStartReference>{following}</tdc:NextStartReference>" if following else ""
        return f"<tdc:GetDoorInfoListResponse>{following}{inner}</tdc:GetDoorInfoListResponse>"

    def _state(self, asked: Request) -> str:
        door = _door(asked)
        now = {r.topic: r.data[0][1] for r in self.kept.now() if r.source[0][1] == door.token}
        mode = "Unlocked" if now.get(LOCK) == "Unlocked" else "Locked"
        told = "".join(f"<tdc:{name}>{now[topic]}</tdc:{name}>" for topic, name in STATES.items() if topic in now)
        return (
            f"<tdc:GetDoorStateResponse><tdc:DoorState>{told}<tdc:DoorMode>{mode}</tdc:DoorMode></tdc:DoorState>"
            "</tdc:GetDoorStateResponse>"
        )

    def _command(self, asked: Request) -> str:
        self.kept.command(_door(asked).token, VERBS[asked.name])
        return f"<tdc:{asked.name}Response/>"


class AccessControl(Service):
    prefix, path, version = "tac", "accesscontrol", (21, 6)

    def operations(self) -> Mapping[str, Handler]:
        return {"GetAccessPointInfoList": self._list}

    def _list(self, asked: Request) -> str:
        doors, following = _page(asked)
        inner = "".join(
            f"<tac:AccessPointInfo token={quoteattr(d.access_point)}><tac:Name>{d.name}</tac:Name>"
            f'<tac:Entity>{d.token}</tac:Entity><tac:Capabilities DisableAccessPoint="false"/></tac:AccessPointInfo>'
            for d in doors
        )
        following = f"<tac:NextStartReference>{following}</tac:NextStartReference>" if following else ""
        return f"<tac:GetAccessPointInfoListResponse>{following}{inner}</tac:GetAccessPointInfoListResponse>"


def _capabilities(door: Door) -> str:
    """What it can be told, and what of it is watched."""
    verbs = "".join(f' {verb}="true"' for verb in ("Access", "Lock", "Unlock", "Block", "LockOpen"))
    monitors = {"DoorMonitor": PHYSICAL, "LockMonitor": LOCK, "Alarm": ALARM}
    watched = "".join(f' {name}="{str(topic in door.watched).lower()}"' for name, topic in monitors.items())
    return f"<tdc:Capabilities{verbs}{watched}/>"


def _page(asked: Request) -> tuple[tuple[Door, ...], str]:
    """One door a page, so that whoever asks must turn it; and where the next page begins."""
    start = int(asked.text("StartReference") or 0)
    return DOORS[start : start + 1], str(start + 1) if start + 1 < len(DOORS) else ""


def _door(asked: Request) -> Door:
    found = next((d for d in DOORS if d.token == asked.text("Token")), None)
    if found is None:
        raise Fault("ter:NotFound", "There is no such door.")
    return found
