"""What Dromikon asks of an ONVIF device."""

import asyncio
import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from urllib.parse import urlsplit, urlunsplit

from lxml import etree

from dromikon.wire.onvif.namespaces import TAN, TDS, TEV, TMD, TRT, TT, WSA, WSNT, WSTOP
from dromikon.wire.onvif.soap import DeviceError, SoapClient

Clock = Callable[[], datetime]


@dataclass(frozen=True, slots=True)
class DeviceInformation:
    """What a device says of itself."""

    manufacturer: str
    model: str
    firmware: str
    serial: str


@dataclass(frozen=True, slots=True)
class Detector:
    """One analytics rule of a device: its name, type and parameters. `channel` is the token of the video source
    configuration whose picture it watches, as its events name it."""

    name: str
    type: str
    parameters: dict[str, str]
    channel: str = ""

    @property
    def waits(self) -> float:
        """Seconds it watches before it reports (its TimeThreshold), 0 when it reports at once."""
        return duration(self.parameters.get("TimeThreshold", "")) or 0.0


@dataclass(frozen=True, slots=True)
class Profile:
    """A media profile: its token, that of its video source configuration, and that of its analytics, where it has any."""

    token: str
    video: str
    analytics: str


@dataclass(frozen=True, slots=True)
class PullPoint:
    """A subscription: its address, reference parameters to be repeated, and when it ends by our clock."""

    address: str
    reference: tuple[etree._Element, ...]
    ends: datetime


class OnvifDevice:
    """Calls to one device at `address` (its device service)."""

    def __init__(self, address: str, user: str, password: str, clock: Clock = lambda: datetime.now(UTC)) -> None:
        self.address = address
        self.clock = clock
        self.soap = SoapClient(user, password)
        self._services: dict[str, str] = {}

    async def close(self) -> None:
        await self.soap.close()

    async def measure_clock(self, samples: int = 1, pause: float = 0.2) -> timedelta:
        """Ask for the device's time (no authentication needed) and keep the offset, device minus ours.

        The answer is cut to whole seconds, so one answer is up to a second too low. The highest of several, asked a
        fraction of a second apart, is wrong by at most that fraction; half of what is left is added.
        """
        offsets = []
        for i in range(samples):
            if i:
                await asyncio.sleep(pause)
            offsets.append(await self._clock_once())
        offset = max(offsets) + timedelta(seconds=(1.0 if samples == 1 else pause) / 2)
        # Below that, what is measured is the resolution of the answer.
        self.soap.clock_offset = offset if abs(offset) >= timedelta(seconds=1.5) else timedelta()
        return self.soap.clock_offset

    async def _clock_once(self) -> timedelta:
        sent = self.clock()
        body = etree.Element(f"{{{TDS}}}GetSystemDateAndTime")
        answer = await self.soap.call(self.address, f"{TDS}/GetSystemDateAndTime", body, sent, authenticate=False)
        middle = sent + (self.clock() - sent) / 2
        utc = answer.find(f".//{{{TT}}}UTCDateTime")
        if utc is None:
            raise DeviceError("malformed", "The device does not tell its time in UTC.")
        try:
            parts = [
                int(utc.findtext(f".//{{{TT}}}{n}") or 0) for n in ("Year", "Month", "Day", "Hour", "Minute", "Second")
            ]
            told = datetime(parts[0], parts[1], parts[2], parts[3], parts[4], parts[5], tzinfo=UTC)
        except ValueError as error:
            raise DeviceError("malformed", "The device tells a time that does not exist.") from error
        return told - middle

    async def information(self) -> DeviceInformation:
        answer = await self._call(self.address, f"{TDS}/GetDeviceInformation", f"{{{TDS}}}GetDeviceInformation")
        said = {
            n: answer.findtext(f"{{{TDS}}}{n}") or ""
            for n in ("Manufacturer", "Model", "FirmwareVersion", "SerialNumber")
        }
        return DeviceInformation(*said.values())

    async def discover_services(self) -> dict[str, str]:
        """Namespace -> address of each service, addresses brought to the host we reached the device at."""
        body = etree.Element(f"{{{TDS}}}GetServices")
        etree.SubElement(body, f"{{{TDS}}}IncludeCapability").text = "false"
        answer = await self.soap.call(self.address, f"{TDS}/GetServices", body, self.clock())
        found = {}
        for service in answer.iter(f"{{{TDS}}}Service"):
            space, address = service.findtext(f"{{{TDS}}}Namespace"), service.findtext(f"{{{TDS}}}XAddr")
            if space and address:
                found[space.strip()] = self._reachable(address)
        self._services = found
        return found

    async def channels(self) -> list[str]:
        """Tokens of the device's video sources."""
        answer = await self._call(self._service(TRT), f"{TRT}/GetVideoSources", f"{{{TRT}}}GetVideoSources")
        return [s.get("token", "") for s in answer.iter(f"{{{TRT}}}VideoSources")]

    async def profiles(self) -> list[Profile]:
        """The device's media profiles."""
        answer = await self._call(self._service(TRT), f"{TRT}/GetProfiles", f"{{{TRT}}}GetProfiles")
        return [
            Profile(
                profile.get("token", ""),
                _token_of(profile, "VideoSourceConfiguration"),
                _token_of(profile, "VideoAnalyticsConfiguration"),
            )
            for profile in answer.iter(f"{{{TRT}}}Profiles")
        ]

    async def snapshot_address(self, profile: Profile) -> str | None:
        """Where a profile's snapshot is fetched."""
        body = etree.Element(f"{{{TRT}}}GetSnapshotUri")
        etree.SubElement(body, f"{{{TRT}}}ProfileToken").text = profile.token
        answer = await self.soap.call(self._service(TRT), f"{TRT}/GetSnapshotUri", body, self.clock())
        address = answer.findtext(f".//{{{TT}}}Uri")
        return self._reachable(address) if address else None

    async def relays(self) -> list[str]:
        """Tokens of the relay outputs."""
        answer = await self._call(self.address, f"{TDS}/GetRelayOutputs", f"{{{TDS}}}GetRelayOutputs")
        return [r.get("token", "") for r in answer.iter(f"{{{TDS}}}RelayOutputs")]

    async def inputs(self) -> list[str]:
        """Tokens of the digital inputs; none when the device has no service for them."""
        if TMD not in self._services:
            return []
        answer = await self._call(self._services[TMD], f"{TMD}/GetDigitalInputs", f"{{{TMD}}}GetDigitalInputs")
        return [i.get("token", "") for i in answer.iter(f"{{{TMD}}}DigitalInputs")]

    async def topics(self) -> list[str]:
        """The catalogue: every topic the device can send."""
        action = f"{TEV}/EventPortType/GetEventPropertiesRequest"
        answer = await self._call(self._service(TEV), action, f"{{{TEV}}}GetEventProperties")
        topic_set = answer.find(f"{{{WSTOP}}}TopicSet")
        return [] if topic_set is None else sorted(_topics_below(topic_set, ""))

    async def detectors(self, profiles: list[Profile]) -> list[Detector]:
        """Analytics rules with their settings, of each analytics configuration that the profiles name; none when the
        device has no analytics service."""
        if TAN not in self._services:
            return []
        channels = {p.analytics: p.video for p in profiles if p.analytics}
        found = []
        for analytics, channel in channels.items():
            body = etree.Element(f"{{{TAN}}}GetRules")
            etree.SubElement(body, f"{{{TAN}}}ConfigurationToken").text = analytics
            answer = await self.soap.call(self._services[TAN], f"{TAN}/GetRules", body, self.clock())
            found += [_detector(rule, channel) for rule in answer.iter(f"{{{TAN}}}Rule")]
        return found

    async def create_pull_point(self, lasts: timedelta) -> PullPoint:
        body = etree.Element(f"{{{TEV}}}CreatePullPointSubscription")
        etree.SubElement(body, f"{{{TEV}}}InitialTerminationTime").text = f"PT{int(lasts.total_seconds())}S"
        action = f"{TEV}/EventPortType/CreatePullPointSubscriptionRequest"
        answer = await self.soap.call(self._service(TEV), action, body, self.clock())
        reference = answer.find(f"{{{TEV}}}SubscriptionReference")
        address = reference.findtext(f"{{{WSA}}}Address") if reference is not None else None
        if reference is None or not address:
            raise DeviceError("malformed", "The device opened a subscription without an address.")
        parameters = reference.find(f"{{{WSA}}}ReferenceParameters")
        kept = tuple(parameters) if parameters is not None else ()
        return PullPoint(self._reachable(address.strip()), kept, self._end_of(answer, lasts))

    async def pull(self, point: PullPoint, wait: timedelta, limit: int = 100) -> list[bytes]:
        """Wait for messages; each as the bytes of its wsnt:NotificationMessage."""
        body = etree.Element(f"{{{TEV}}}PullMessages")
        etree.SubElement(body, f"{{{TEV}}}Timeout").text = f"PT{int(wait.total_seconds())}S"
        etree.SubElement(body, f"{{{TEV}}}MessageLimit").text = str(limit)
        answer = await self.soap.call(
            point.address,
            f"{TEV}/PullPointSubscription/PullMessagesRequest",
            body,
            self.clock(),
            timeout=wait.total_seconds() + 5,
            reference=point.reference,
        )
        if answer.tag != f"{{{TEV}}}PullMessagesResponse":
            raise DeviceError("malformed", "The device answered a pull with something else.")
        return [etree.tostring(message) for message in answer.iter(f"{{{WSNT}}}NotificationMessage")]

    async def renew(self, point: PullPoint, lasts: timedelta) -> PullPoint:
        body = etree.Element(f"{{{WSNT}}}Renew")
        etree.SubElement(body, f"{{{WSNT}}}TerminationTime").text = f"PT{int(lasts.total_seconds())}S"
        action = "http://docs.oasis-open.org/wsn/bw-2/SubscriptionManager/RenewRequest"
        answer = await self.soap.call(point.address, action, body, self.clock(), reference=point.reference)
        return PullPoint(point.address, point.reference, self._end_of(answer, lasts))

    async def synchronize(self, point: PullPoint) -> None:
        """Ask for the present state of every property."""
        action = f"{TEV}/PullPointSubscription/SetSynchronizationPointRequest"
        body = etree.Element(f"{{{TEV}}}SetSynchronizationPoint")
        await self.soap.call(point.address, action, body, self.clock(), reference=point.reference)

    async def unsubscribe(self, point: PullPoint) -> None:
        action = "http://docs.oasis-open.org/wsn/bw-2/SubscriptionManager/UnsubscribeRequest"
        body = etree.Element(f"{{{WSNT}}}Unsubscribe")
        await self.soap.call(point.address, action, body, self.clock(), reference=point.reference)

    async def set_relay(self, token: str, active: bool) -> None:
        """Switch a relay output (tds:SetRelayOutputState)."""
        body = etree.Element(f"{{{TDS}}}SetRelayOutputState")
        etree.SubElement(body, f"{{{TDS}}}RelayOutputToken").text = token
        etree.SubElement(body, f"{{{TDS}}}LogicalState").text = "active" if active else "inactive"
        await self.soap.call(self.address, f"{TDS}/SetRelayOutputState", body, self.clock(), timeout=4)

    async def _call(self, address: str, action: str, tag: str) -> etree._Element:
        return await self.soap.call(address, action, etree.Element(tag), self.clock())

    def _service(self, space: str) -> str:
        if space not in self._services:
            raise DeviceError("fault", f"The device does not offer the service {space.rsplit('/', 2)[-2]}.")
        return self._services[space]

    def _reachable(self, told: str) -> str:
        """Keep to the host the device was reached at: a device behind address translation tells its inner address,
        and a hostile one may not send us elsewhere."""
        ours, theirs = urlsplit(self.address), urlsplit(told)
        return urlunsplit((ours.scheme, ours.netloc, theirs.path, theirs.query, ""))

    def _end_of(self, answer: etree._Element, wanted: timedelta) -> datetime:
        now = self.clock()
        current = answer.findtext(f"{{{WSNT}}}CurrentTime")
        end = answer.findtext(f"{{{WSNT}}}TerminationTime")
        try:
            told = datetime.fromisoformat(str(end).strip()) - datetime.fromisoformat(str(current).strip())
        except (ValueError, TypeError):
            told = wanted
        return now + max(min(told, wanted), timedelta(seconds=5))


def duration(text: str) -> float | None:
    """Seconds of an xs:duration made of days, hours, minutes and seconds ("PT10S"), else None."""
    match = re.fullmatch(r"P(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+(?:\.\d+)?)S)?)?", text.strip())
    if match is None or not any(match.groups()):
        return None
    days, hours, minutes, seconds = (float(g or 0) for g in match.groups())
    return days * 86400 + hours * 3600 + minutes * 60 + seconds


def _topics_below(element: etree._Element, path: str) -> list[str]:
    """Topics of a wstop:TopicSet: every element marked wstop:topic="true", as a path."""
    found = []
    for child in element:
        if not isinstance(child.tag, str) or child.tag == f"{{{TT}}}MessageDescription":
            continue
        name = etree.QName(child).localname
        here = f"{path}/{name}" if path else f"tns1:{name}"
        if child.get(f"{{{WSTOP}}}topic") in ("true", "1"):
            found.append(here)
        found += _topics_below(child, here)
    return found


def _detector(rule: etree._Element, channel: str) -> Detector:
    items = {i.get("Name", ""): i.get("Value", "") for i in rule.iter(f"{{{TT}}}SimpleItem")}
    return Detector(rule.get("Name", ""), rule.get("Type", ""), items, channel)


def _token_of(profile: etree._Element, configuration: str) -> str:
    found = profile.find(f"{{{TT}}}{configuration}")
    return found.get("token", "") if found is not None else ""
