"""Device management: who it is, what time it is, which services it has, its relays."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from xml.sax.saxutils import quoteattr

from dromikon.standins.onvif.device import Handler, Service, StandInDevice
from dromikon.standins.onvif.soap import NAMES, Fault, Request

#: What GetCapabilities calls a service, and what it says of it besides its address.
_CAPABILITIES = {
    "analytics": "<tt:Analytics>{address}<tt:RuleSupport>true</tt:RuleSupport>"
    "<tt:AnalyticsModuleSupport>true</tt:AnalyticsModuleSupport></tt:Analytics>",
    "device": "<tt:Device>{address}</tt:Device>",
    "event": "<tt:Events>{address}<tt:WSSubscriptionPolicySupport>false</tt:WSSubscriptionPolicySupport>"
    "<tt:WSPullPointSupport>true</tt:WSPullPointSupport><tt:WSPausableSubscriptionManagerInterfaceSupport>false"
    "</tt:WSPausableSubscriptionManagerInterfaceSupport></tt:Events>",
    "media": "<tt:Media>{address}<tt:StreamingCapabilities/></tt:Media>",
    "ptz": "<tt:PTZ>{address}</tt:PTZ>",
}


class Management(Service):
    """`relays`: tokens of its relay outputs; `switch` is told when one is switched; `ends`: seconds after which some go off
    by themselves."""

    prefix, path = "tds", "device"

    def __init__(
        self,
        device: StandInDevice,
        relays: Sequence[str] = (),
        switch: Callable[[str, bool], None] | None = None,
        ends: Iterable[tuple[str, float]] = (),
    ) -> None:
        super().__init__(device)
        self.relays, self.switch, self.ends = relays, switch, dict(ends)

    def operations(self) -> Mapping[str, Handler]:
        return {
            "GetSystemDateAndTime": self._time,
            "GetDeviceInformation": self._information,
            "GetServices": self._services,
            "GetCapabilities": self._capabilities,
            "GetRelayOutputs": self._relays,
            "SetRelayOutputState": self._set_relay,
        }

    def _time(self, asked: Request) -> str:
        now = self.device.clock()
        moment = (
            f"<tt:Time><tt:Hour>{now.hour}</tt:Hour><tt:Minute>{now.minute}</tt:Minute><tt:Second>{now.second}</tt:Second>"
            f"</tt:Time><tt:Date><tt:Year>{now.year}</tt:Year><tt:Month>{now.month}</tt:Month><tt:Day>{now.day}</tt:Day></tt:Date>"
        )
        return (
            "<tds:GetSystemDateAndTimeResponse><tds:SystemDateAndTime><tt:DateTimeType>NTP</tt:DateTimeType>"
            "<tt:DaylightSavings>false</tt:DaylightSavings><tt:TimeZone><tt:TZ>UTC0</tt:TZ></tt:TimeZone>"
            f"<tt:UTCDateTime>{moment}</tt:UTCDateTime></tds:SystemDateAndTime></tds:GetSystemDateAndTimeResponse>"
        )

    def _information(self, asked: Request) -> str:
        who = self.device.identity
        return (
            f"<tds:GetDeviceInformationResponse><tds:Manufacturer>{who.manufacturer}</tds:Manufacturer>"
            f"<tds:Model>{who.model}</tds:Model><tds:FirmwareVersion>{who.firmware}</tds:FirmwareVersion>"
            f"<tds:SerialNumber>{who.serial}</tds:SerialNumber><tds:HardwareId>1</tds:HardwareId>"
            "</tds:GetDeviceInformationResponse>"
        )

    def _services(self, asked: Request) -> str:
        inner = "".join(
            f"<tds:Service><tds:Namespace>{NAMES[s.prefix]}</tds:Namespace><tds:XAddr>{self._address(s)}</tds:XAddr>"
            f"<tds:Version><tt:Major>{s.version[0]}</tt:Major><tt:Minor>{s.version[1]}</tt:Minor></tds:Version></tds:Service>"
            for s in self.device.services
        )
        return f"<tds:GetServicesResponse>{inner}</tds:GetServicesResponse>"

    def _capabilities(self, asked: Request) -> str:
        known = {s.path: s for s in self.device.services}
        inner = "".join(
            said.format(address=f"<tt:XAddr>{self._address(known[path])}</tt:XAddr>")
            for path, said in _CAPABILITIES.items()
            if path in known
        )
        return (
            f"<tds:GetCapabilitiesResponse><tds:Capabilities>{inner}</tds:Capabilities></tds:GetCapabilitiesResponse>"
        )

    def _address(self, service: Service) -> str:
        return f"{self.device.address}/onvif/{service.path}_service"

    def _relays(self, asked: Request) -> str:
        inner = "".join(
            f"<tds:RelayOutputs token={quoteattr(token)}><tt:Properties>"
            f"<tt:Mode>{'Monostable' if token in self.ends else 'Bistable'}</tt:Mode>"
            f"<tt:DelayTime>PT{self.ends.get(token, 0):g}S</tt:DelayTime><tt:IdleState>open</tt:IdleState>"
            "</tt:Properties></tds:RelayOutputs>"
            for token in self.relays
        )
        return f"<tds:GetRelayOutputsResponse>{inner}</tds:GetRelayOutputsResponse>"

    def _set_relay(self, asked: Request) -> str:
        token, state = asked.text("RelayOutputToken") or "", asked.text("LogicalState")
        if token not in self.relays or self.switch is None:
            raise Fault("ter:RelayToken", "There is no such relay.")
        if state not in ("active", "inactive"):
            raise Fault("ter:InvalidArgVal", "The state is active or inactive.")
        self.switch(token, state == "active")
        return "<tds:SetRelayOutputStateResponse/>"
