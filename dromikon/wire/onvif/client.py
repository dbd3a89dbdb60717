"""What Dromikon asks of an ONVIF device."""

import asyncio
import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from urllib.parse import urlsplit, urlunsplit

from lxml import etree

from dromikon.wire.onvif.clock import told_time
from dromikon.wire.onvif.namespaces import TAN, TDS, TEV, TMD, TPTZ, TRT, TT
from dromikon.wire.onvif.soap import DeviceError, SoapClient

Clock = Callable[[], datetime]

#: What GetCapabilities calls the services that matter here.
OLD_NAMES = {"Analytics": TAN, "Events": TEV, "Media": TRT, "PTZ": TPTZ, "DeviceIO": TMD}


@dataclass(frozen=True, slots=True)
class Profile:
    """A media profile: its token, that of its video source configuration and of the source itself, and those of its
    analytics, its movement and its metadata, where it has any; and the encoding of its sound ("G711")."""

    token: str
    video: str
    source: str = ""
    analytics: str = ""
    moves: str = ""
    metadata: str = ""
    sound: str = ""


class OnvifDevice:
    """Calls to one device at `address` (its device service)."""

    def __init__(
        self, address: str, user: str, password: str, clock: Clock = lambda: datetime.now(UTC), certificate: str = ""
    ) -> None:
        self.address = address
        self.clock = clock
        self.soap = SoapClient(user, password, certificate=certificate)
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
        return told_time(answer) - middle

    async def discover_services(self) -> dict[str, str]:
        """Namespace -> address of each service, addresses brought to the host we reached the device at. Devices older than
        GetServices are asked for their capabilities."""
        try:
            answer = await self.ask(TDS, "GetServices", IncludeCapability="false")
            found = [
                (s.findtext(f"{{{TDS}}}Namespace"), s.findtext(f"{{{TDS}}}XAddr"))
                for s in answer.iter(f"{{{TDS}}}Service")
            ]
        except DeviceError as error:
            if error.reason != "fault":
                raise
            answer = await self.ask(TDS, "GetCapabilities", Category="All")
            found = [(space, answer.findtext(f".//{{{TT}}}{name}/{{{TT}}}XAddr")) for name, space in OLD_NAMES.items()]
        self._services = {space.strip(): self.reachable(address) for space, address in found if space and address}
        return self._services

    async def ask(
        self, space: str, name: str, *, timeout: float | None = None, **content: str | etree._Element
    ) -> etree._Element:
        """One request of a service, by its namespace: child elements by name, as text or ready made. Raises DeviceError."""
        body = etree.Element(f"{{{space}}}{name}")
        for child, value in content.items():
            if isinstance(value, str):
                etree.SubElement(body, f"{{{space}}}{child}").text = value
            else:
                body.append(value)
        return await self.soap.call(self.service(space), _action(space, name), body, self.clock(), timeout=timeout)

    def has(self, space: str) -> bool:
        """Whether the device has a service."""
        return space in self._services

    async def profiles(self) -> list[Profile]:
        """The device's media profiles."""
        answer = await self.ask(TRT, "GetProfiles")
        return [
            Profile(
                profile.get("token", ""),
                _token_of(profile, "VideoSourceConfiguration"),
                (profile.findtext(f"{{{TT}}}VideoSourceConfiguration/{{{TT}}}SourceToken") or "").strip(),
                _token_of(profile, "VideoAnalyticsConfiguration"),
                _token_of(profile, "PTZConfiguration"),
                _token_of(profile, "MetadataConfiguration"),
                (profile.findtext(f"{{{TT}}}AudioEncoderConfiguration/{{{TT}}}Encoding") or "").strip(),
            )
            for profile in answer.iter(f"{{{TRT}}}Profiles")
        ]

    async def set_relay(self, token: str, active: bool) -> None:
        """Switch a relay output (tds:SetRelayOutputState)."""
        state = "active" if active else "inactive"
        await self.ask(TDS, "SetRelayOutputState", timeout=4, RelayOutputToken=token, LogicalState=state)

    def service(self, space: str) -> str:
        """The address of a service. Raises DeviceError."""
        if space == TDS:
            return self.address
        if space not in self._services:
            raise DeviceError("fault", f"The device does not offer the service {space.rsplit('/', 2)[-2]}.")
        return self._services[space]

    def reachable(self, told: str) -> str:
        """Keep to the host the device was reached at: a device behind address translation tells its inner address,
        and a hostile one may not send us elsewhere."""
        ours, theirs = urlsplit(self.address), urlsplit(told)
        return urlunsplit((ours.scheme, ours.netloc, theirs.path, theirs.query, ""))

    def at_its_host(self, told: str) -> str:
        """An address of another protocol, by the port that the device tells, at the host it was reached at."""
        ours, theirs = urlsplit(self.address), urlsplit(told)
        host = f"[{ours.hostname}]" if ":" in (ours.hostname or "") else ours.hostname or ""
        port = f":{theirs.port}" if theirs.port else ""
        return urlunsplit((theirs.scheme, f"{host}{port}", theirs.path, theirs.query, ""))


def duration(text: str) -> float | None:
    """Seconds of an xs:duration made of days, hours, minutes and seconds ("PT10S"), else None."""
    match = re.fullmatch(r"P(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+(?:\.\d+)?)S)?)?", text.strip())
    if match is None or not any(match.groups()):
        return None
    days, hours, minutes, seconds = (float(g or 0) for g in match.groups())
    return days * 86400 + hours * 3600 + minutes * 60 + seconds


def _action(space: str, name: str) -> str:
    """The SOAP action of a request, as the service descriptions have it."""
    return f"{space}/EventPortType/{name}Request" if space == TEV else f"{space}/{name}"


def _token_of(profile: etree._Element, configuration: str) -> str:
    found = profile.find(f"{{{TT}}}{configuration}")
    return found.get("token", "") if found is not None else ""
