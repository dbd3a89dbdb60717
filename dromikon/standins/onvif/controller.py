"""The stand-in door controller: the garden's doors and their readers, and no channel."""

from dromikon.standins.onvif.device import Identity, StandInDevice
from dromikon.standins.onvif.doors import AccessControl, DoorControl, Kept
from dromikon.standins.onvif.events import Events
from dromikon.standins.onvif.management import Management
from dromikon.standins.onvif.quirks import AS_IT_SHOULD, Quirk
from dromikon.standins.onvif.soap import Account
from dromikon.standins.onvif.topics import Items, Topic
from dromikon.standins.world.access import ALARM, DENIED, GRANTED, LOCK, PHYSICAL, door_states
from dromikon.standins.world.reports import Report
from dromikon.standins.world.world import LATELY, World

DOOR: Items = (("DoorToken", "pt:ReferenceToken"),)
READER: Items = (("AccessPointToken", "pt:ReferenceToken"),)
HOLDER: Items = (
    ("External", "xs:boolean"),
    ("CredentialToken", "pt:ReferenceToken"),
    ("CredentialHolderName", "xs:string"),
)
STATES = {PHYSICAL: "tdc:DoorPhysicalState", LOCK: "tdc:LockPhysicalState", ALARM: "tdc:DoorAlarmState"}


class StandInController(StandInDevice):
    """One door controller at `address`."""

    def __init__(self, world: World, address: str, account: Account, quirk: Quirk = AS_IT_SHOULD) -> None:
        super().__init__(Identity("Wicket 8", "QG-DC-0008", "Stand-in Locks", "1.9.0"), address, account, quirk=quirk)
        self.world = world
        self.events = Events(self)
        kept = Kept(lambda: self.properties(self.now_ms()), self._command)
        self.services = [Management(self), self.events, DoorControl(self, kept), AccessControl(self)]

    def topics(self) -> list[Topic]:
        states = [Topic(t.removeprefix("tns1:"), True, DOOR, (("State", type),)) for t, type in STATES.items()]
        return [
            *states,
            Topic(GRANTED.removeprefix("tns1:"), False, READER, HOLDER),
            Topic(DENIED.removeprefix("tns1:"), False, READER, (*HOLDER, ("Reason", "xs:string"))),
        ]

    def reports(self, start: int, end: int) -> list[Report]:
        return self.world.door_reports(start, end)

    def properties(self, at: int) -> list[Report]:
        return door_states(self.world.door_reports(at - LATELY, at + 1), at)

    def _command(self, door: str, verb: str) -> None:
        self.world.command_door(door, verb, self.now_ms())
        self.provoked.set()
