"""A stand-in camera of the garden. Every answer holds to the official service descriptions; a client that is not ours checks
that in the tests."""

from collections.abc import Callable
from functools import partial
from urllib.parse import urlsplit

from dromikon.standins.onvif.analytics import SORTS, Analytics, Kept
from dromikon.standins.onvif.device import Identity, StandInDevice
from dromikon.standins.onvif.events import Events
from dromikon.standins.onvif.io import InputOutput
from dromikon.standins.onvif.management import Management
from dromikon.standins.onvif.media import Media
from dromikon.standins.onvif.ptz import Movement
from dromikon.standins.onvif.quirks import AS_IT_SHOULD, Quirk
from dromikon.standins.onvif.radiometry import drawn_afterwards, readings
from dromikon.standins.onvif.seen import frame_of
from dromikon.standins.onvif.soap import Account
from dromikon.standins.onvif.stream import Stream, sound_of
from dromikon.standins.onvif.thermal import Heat
from dromikon.standins.onvif.topics import RECTANGLE, Items, Topic
from dromikon.standins.picture.frame import Studio
from dromikon.standins.world.detectors import Detector, Region
from dromikon.standins.world.heat import Measuring
from dromikon.standins.world.instruments import COUNT, HEAT, PLATE, SPOT
from dromikon.standins.world.reports import Report
from dromikon.standins.world.scenes import CAMERAS

DETECTED: Items = (
    ("VideoSourceConfigurationToken", "tt:ReferenceToken"),
    ("VideoAnalyticsConfigurationToken", "tt:ReferenceToken"),
    ("Rule", "xs:string"),
)
OBJECT: Items = (
    ("ObjectId", "xs:integer"),
    ("ClassTypes", "tt:StringItems"),
    ("Likelihood", "xs:float"),
    ("Height", "xs:float"),
    ("BoundingBox", RECTANGLE),
)
#: What each topic tells besides the object.
TELLS = {"tt:LineDetector": ("Direction", "xs:string"), "tt:LoiteringDetector": ("State", "xs:boolean")}
INPUT = Topic(
    "Device/Trigger/DigitalInput", True, (("InputToken", "tt:ReferenceToken"),), (("LogicalState", "xs:boolean"),)
)

#: Where a measured temperature comes from.
RADIOMETRY: Items = (("VideoSourceConfigurationToken", "tt:ReferenceToken"), ("AnalyticsModuleName", "xs:string"))
#: What is told of regions, by what is done in them.
READ = {
    "plates": Topic(
        PLATE.removeprefix("tns1:"), False, DETECTED,
        (("PlateNumber", "xs:string"), ("Likelihood", "xs:float"), ("Direction", "xs:string")),
    ),
    "count": Topic(COUNT.removeprefix("tns1:"), False, DETECTED, (("Count", "xs:nonNegativeInteger"),)),
    "heat": Topic(
        HEAT.removeprefix("tns1:"), False, RADIOMETRY,
        (("ItemID", "tt:ReferenceToken"), *((f"{which}Temperature", "xs:float") for which in ("Max", "Min", "Average"))),
    ),
    "heat at a spot": Topic(
        SPOT.removeprefix("tns1:"), False, RADIOMETRY, (("ItemID", "tt:ReferenceToken"), ("SpotTemperature", "xs:float"))
    ),
}  # fmt: skip


class StandInCamera(StandInDevice):
    """One camera at `address`."""

    def __init__(
        self, camera: str, studio: Studio, address: str, account: Account, clock_offset: float = 0.0,
        quirk: Quirk = AS_IT_SHOULD, stream_port: int = 0, heard: Callable[[str, bytes], None] | None = None,
    ) -> None:  # fmt: skip
        self.place = CAMERAS[camera]
        super().__init__(Identity(self.place.model, self.place.serial), address, account, clock_offset, quirk)
        self.world, self.studio = studio.world, studio
        kept = Kept(self._detectors, self._set_detector, self._delete_detector)
        self.events = Events(self)
        self.services = [
            Management(self, self.place.relays, self._switch, self.place.ends),
            Media(self, self.place, partial(studio.jpeg, camera), self._stream_address(stream_port)),
            self.events,
            Analytics(self, self.place.lens, kept),
            InputOutput(self, self.place.inputs),
        ]
        if stream_port:
            told = partial(heard, camera) if heard is not None and self.place.speaks else None
            sound = partial(sound_of, self.world, self.place) if self.place.hears else None
            seen = partial(frame_of, studio, self.place, self)
            drawn = partial(studio.frame, self.place.id)
            self.beside.append(Stream(self, stream_port, seen, drawn, sound, told).run)
        if self.place.thermal:
            self.services.append(Heat(self, self._measuring, self._measure))
        if self.place.presets:
            self.services.append(Movement(self, self.place.presets, self._preset, self._goto))

    def _measuring(self) -> Measuring:
        return self.world.measuring(self.place.id, self.now_ms())

    def _measure(self, wanted: Measuring) -> None:
        self.world.set_measuring(self.place.id, wanted, self.now_ms())

    def _stream_address(self, port: int) -> str:
        return f"rtsp://{urlsplit(self.address).hostname}:{port}/metadata" if port else ""

    def topics(self) -> list[Topic]:
        found = [
            Topic(sort.topic.removeprefix("tns1:"), sort.state, DETECTED, (*OBJECT, TELLS[name]))
            for name, sort in SORTS.items()
        ]
        regions = {d.sort for d in self.place.detectors if isinstance(d, Region)}
        found += [topic for sort, topic in READ.items() if sort.split()[0] in regions]
        return [*found, INPUT] if self.place.inputs else found

    def reports(self, start: int, end: int) -> list[Report]:
        told = self.world.reports(self.place.id, start, end)
        regions = drawn_afterwards(self._detectors()) if self.place.thermal else []
        heat = partial(self.studio.heat, self.place.id)
        measured = list(readings(regions, heat, self._measuring().reads, start, end)) if regions else []
        return sorted((*told, *measured), key=lambda report: report.at) if measured else told

    def properties(self, at: int) -> list[Report]:
        return self.world.properties(self.place.id, at)

    def cut_off(self, at: int) -> bool:
        return self.world.cut_off(self.place.id, at)

    def _switch(self, relay: str, active: bool) -> None:
        self.world.command_relay(self.place.id, relay, active, self.now_ms())

    def _preset(self) -> str:
        return self.world.preset(self.place.id, self.now_ms())

    def _goto(self, token: str) -> None:
        self.world.goto_preset(self.place.id, token, self.now_ms())

    def _detectors(self) -> tuple[Detector, ...]:
        return self.world.detectors(self.place.id, self.now_ms())

    def _set_detector(self, detector: Detector) -> None:
        self.world.set_detector(self.place.id, detector, self.now_ms())
        self.provoked.set()

    def _delete_detector(self, name: str) -> None:
        self.world.delete_detector(self.place.id, name, self.now_ms())
        self.provoked.set()
