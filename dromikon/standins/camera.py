"""A stand-in ONVIF camera: device management, media, analytics rules and events with pull points.

Every answer holds to the official WSDLs; a client that is not ours checks that in the tests.
"""

import asyncio
import contextlib
import secrets
import time
from collections.abc import AsyncIterator, Awaitable, Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from xml.sax.saxutils import quoteattr

from starlette.applications import Starlette
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request as HttpRequest
from starlette.responses import Response
from starlette.routing import Route

from dromikon.standins import soap
from dromikon.standins.picture.frame import HEIGHT, WIDTH, Studio
from dromikon.standins.soap import NAMES, Account, Fault, Request
from dromikon.standins.world.scenes import CAMERAS, LineDetector, StayDetector
from dromikon.standins.world.world import Report

XML = "application/soap+xml; charset=utf-8"
DIALECT = "http://www.onvif.org/ver10/tev/topicExpression/ConcreteSet"
LONGEST = timedelta(minutes=10)
Handler = Callable[[Request], str | Awaitable[str]]


@dataclass
class Subscription:
    """A pull point: what waits to be pulled, and until when it lives."""

    id: str
    ends: datetime
    waiting: list[str] = field(default_factory=list)
    arrived: asyncio.Event = field(default_factory=asyncio.Event)

    def add(self, messages: list[str]) -> None:
        self.waiting = (self.waiting + messages)[-1000:]
        if self.waiting:
            self.arrived.set()

    def take(self, limit: int) -> list[str]:
        taken, self.waiting = self.waiting[:limit], self.waiting[limit:]
        if not self.waiting:
            self.arrived.clear()
        return taken


class StandInCamera:
    """One camera at `address`. `clock_offset` is how wrong its clock goes."""

    def __init__(self, camera: str, studio: Studio, address: str, account: Account, clock_offset: float = 0.0) -> None:
        self.place = CAMERAS[camera]
        self.studio, self.world = studio, studio.world
        self.address, self.account = address, account
        self.offset = timedelta(seconds=clock_offset)
        self.subscriptions: dict[str, Subscription] = {}
        self.provoked = asyncio.Event()
        #: Set when the process is about to end: whoever waits for messages is answered at once.
        self.stopping = asyncio.Event()
        self._told = self._now_ms()

    def app(self) -> Starlette:
        """The camera as an ASGI application."""

        @contextlib.asynccontextmanager
        async def lifespan(app: Starlette) -> AsyncIterator[None]:
            task = asyncio.create_task(self._report_for_ever())
            yield
            task.cancel()

        routes = [
            Route(f"/onvif/{name}_service", self._serve, methods=["POST"])
            for name in ("device", "media", "event", "analytics", "deviceio")
        ]
        routes += [
            Route("/onvif/subscription/{id}", self._serve, methods=["POST"]),
            Route("/onvif/snapshot", self._snapshot),
        ]
        app = Starlette(routes=routes, lifespan=lifespan)
        app.state.stop = self.stopping.set
        return app

    # -- time and reports ----------------------------------------------------------------------------------------------

    def _now_ms(self) -> int:
        return time.time_ns() // 1_000_000

    def clock(self) -> datetime:
        """What the camera believes the time to be."""
        return datetime.now(UTC) + self.offset

    async def _report_for_ever(self) -> None:
        """Tell each report at its moment: sleep until the next one is due, or until somebody provokes something."""
        while True:
            now = self._now_ms()
            if self.world.cut_off(self.place.id, now):
                self.subscriptions.clear()
            else:
                self._tell(self.world.reports(self.place.id, self._told, now + 1))
            self._told = now + 1
            due = self.world.next_report(self.place.id, self._told, 2000)
            pause = (due - self._now_ms() + 1) / 1000 if due else 1.0
            self.provoked.clear()
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(self.provoked.wait(), max(0.001, pause))

    def _tell(self, reports: list[Report], operation: str = "Changed") -> None:
        messages = [self.message(r, operation if r.property else "") for r in reports]
        alive = datetime.now(UTC)
        for key, subscription in list(self.subscriptions.items()):
            if subscription.ends < alive:
                del self.subscriptions[key]
            elif messages:
                subscription.add(messages)

    def message(self, report: Report, operation: str) -> str:
        """One wsnt:NotificationMessage; `operation` is empty for a message that is no property."""
        at = datetime.fromtimestamp(report.at / 1000, UTC) + self.offset
        items = [
            "".join(f"<tt:SimpleItem Name={quoteattr(n)} Value={quoteattr(v)}/>" for n, v in part)
            for part in (report.source, report.data)
        ]
        kind = f' PropertyOperation="{operation}"' if operation else ""
        return (
            f'<wsnt:NotificationMessage><wsnt:Topic Dialect="{DIALECT}">{report.topic}</wsnt:Topic>'
            f'<wsnt:Message><tt:Message UtcTime="{_stamp(at)}"{kind}><tt:Source>{items[0]}</tt:Source>'
            f"<tt:Data>{items[1]}</tt:Data></tt:Message></wsnt:Message></wsnt:NotificationMessage>"
        )

    # -- HTTP ----------------------------------------------------------------------------------------------------------

    async def _serve(self, request: HttpRequest) -> Response:
        await self._hang_when_cut_off()
        try:
            asked = soap.read(await request.body())
            if asked.name != "GetSystemDateAndTime" and not self._knows(asked, request):
                denied = soap.fault(Fault("ter:NotAuthorized", "The sender is not authorized."))
                return Response(denied, 401, {"WWW-Authenticate": self.account.challenge()}, XML)
            handler = self._handler(asked, request.path_params.get("id"))
            said = handler(asked)
            body = said if isinstance(said, str) else await said
        except Fault as problem:
            return Response(soap.fault(problem), problem.status, media_type=XML)
        await self._hang_when_cut_off()
        return Response(soap.answer(body, _reply_action(asked)), media_type=XML)

    def _knows(self, asked: Request, request: HttpRequest) -> bool:
        if self.account.token_is_good(asked, self.clock()):
            return True
        return self.account.digest_is_good(request.headers.get("authorization", ""), request.method)

    async def _hang_when_cut_off(self) -> None:
        """A camera without power does not answer; the connection just stays silent."""
        while self.world.cut_off(self.place.id, self._now_ms()):
            await asyncio.sleep(0.5)

    async def _snapshot(self, request: HttpRequest) -> Response:
        await self._hang_when_cut_off()
        if not self.account.digest_is_good(request.headers.get("authorization", ""), "GET"):
            return Response("", 401, {"WWW-Authenticate": self.account.challenge()})
        picture = await run_in_threadpool(self.studio.jpeg, self.place.id, self._now_ms())
        return Response(picture, media_type="image/jpeg")

    def _handler(self, asked: Request, subscription: str | None) -> Handler:
        if subscription is not None:
            point = self.subscriptions.get(subscription)
            if point is None:
                raise Fault("ter:InvalidArgVal", "There is no such subscription.")
            known: dict[str, Handler] = {
                "PullMessages": lambda r: self._pull(r, point),
                "Renew": lambda r: self._renew(r, point),
                "Unsubscribe": lambda r: self._unsubscribe(point),
                "SetSynchronizationPoint": lambda r: self._synchronize(point),
            }
        else:
            known = {
                "GetSystemDateAndTime": self._time, "GetDeviceInformation": self._information, "GetServices": self._services,
                "GetCapabilities": self._capabilities, "GetRelayOutputs": self._relays, "SetRelayOutputState": self._set_relay,
                "GetVideoSources": self._sources, "GetProfiles": self._profiles, "GetSnapshotUri": self._snapshot_uri,
                "GetDigitalInputs": self._inputs,
                "GetRules": self._rules, "GetEventProperties": self._event_properties,
                "CreatePullPointSubscription": self._subscribe, "GetServiceCapabilities": self._service_capabilities,
            }  # fmt: skip
        if asked.name not in known:
            raise Fault("ter:ActionNotSupported", f"{asked.name} is not supported.")
        return known[asked.name]

    # -- device management ---------------------------------------------------------------------------------------------

    def _time(self, asked: Request) -> str:
        now = self.clock()
        return (
            "<tds:GetSystemDateAndTimeResponse><tds:SystemDateAndTime><tt:DateTimeType>NTP</tt:DateTimeType>"
            "<tt:DaylightSavings>false</tt:DaylightSavings><tt:TimeZone><tt:TZ>UTC0</tt:TZ></tt:TimeZone><tt:UTCDateTime>"
            f"<tt:Time><tt:Hour>{now.hour}</tt:Hour><tt:Minute>{now.minute}</tt:Minute><tt:Second>{now.second}</tt:Second></tt:Time>"
            f"<tt:Date><tt:Year>{now.year}</tt:Year><tt:Month>{now.month}</tt:Month><tt:Day>{now.day}</tt:Day></tt:Date>"
            "</tt:UTCDateTime></tds:SystemDateAndTime></tds:GetSystemDateAndTimeResponse>"
        )

    def _information(self, asked: Request) -> str:
        return (
            "<tds:GetDeviceInformationResponse><tds:Manufacturer>Stand-in Optics</tds:Manufacturer>"
            f"<tds:Model>{self.place.model}</tds:Model><tds:FirmwareVersion>3.2.1</tds:FirmwareVersion>"
            f"<tds:SerialNumber>{self.place.serial}</tds:SerialNumber><tds:HardwareId>1</tds:HardwareId>"
            "</tds:GetDeviceInformationResponse>"
        )

    def _services(self, asked: Request) -> str:
        services = (
            ("tds", "device", 2, 60),
            ("trt", "media", 2, 60),
            ("tev", "event", 2, 60),
            ("tan", "analytics", 2, 50),
            ("tmd", "deviceio", 2, 60),
        )
        inner = "".join(
            f"<tds:Service><tds:Namespace>{NAMES[prefix]}</tds:Namespace><tds:XAddr>{self.address}/onvif/{path}_service</tds:XAddr>"
            f"<tds:Version><tt:Major>{major}</tt:Major><tt:Minor>{minor}</tt:Minor></tds:Version></tds:Service>"
            for prefix, path, major, minor in services
        )
        return f"<tds:GetServicesResponse>{inner}</tds:GetServicesResponse>"

    def _capabilities(self, asked: Request) -> str:
        base = f"{self.address}/onvif"
        return (
            "<tds:GetCapabilitiesResponse><tds:Capabilities>"
            f"<tt:Analytics><tt:XAddr>{base}/analytics_service</tt:XAddr><tt:RuleSupport>true</tt:RuleSupport>"
            "<tt:AnalyticsModuleSupport>false</tt:AnalyticsModuleSupport></tt:Analytics>"
            f"<tt:Device><tt:XAddr>{base}/device_service</tt:XAddr></tt:Device>"
            f"<tt:Events><tt:XAddr>{base}/event_service</tt:XAddr><tt:WSSubscriptionPolicySupport>false</tt:WSSubscriptionPolicySupport>"
            "<tt:WSPullPointSupport>true</tt:WSPullPointSupport><tt:WSPausableSubscriptionManagerInterfaceSupport>false"
            "</tt:WSPausableSubscriptionManagerInterfaceSupport></tt:Events>"
            f"<tt:Media><tt:XAddr>{base}/media_service</tt:XAddr><tt:StreamingCapabilities/></tt:Media>"
            "</tds:Capabilities></tds:GetCapabilitiesResponse>"
        )

    def _service_capabilities(self, asked: Request) -> str:
        if asked.namespace == NAMES["tev"]:
            inner = '<tev:Capabilities WSSubscriptionPolicySupport="false" WSPausableSubscriptionManagerInterfaceSupport="false" MaxPullPoints="16"/>'
            return f"<tev:GetServiceCapabilitiesResponse>{inner}</tev:GetServiceCapabilitiesResponse>"
        raise Fault("ter:ActionNotSupported", "GetServiceCapabilities is answered by the event service only.")

    def _relays(self, asked: Request) -> str:
        inner = "".join(
            f'<tds:RelayOutputs token="{token}"><tt:Properties><tt:Mode>Bistable</tt:Mode><tt:DelayTime>PT0S</tt:DelayTime>'
            "<tt:IdleState>open</tt:IdleState></tt:Properties></tds:RelayOutputs>"
            for token in self.place.relays
        )
        return f"<tds:GetRelayOutputsResponse>{inner}</tds:GetRelayOutputsResponse>"

    def _set_relay(self, asked: Request) -> str:
        token, state = asked.text("RelayOutputToken"), asked.text("LogicalState")
        if token not in self.place.relays:
            raise Fault("ter:RelayToken", "There is no such relay.")
        if state not in ("active", "inactive"):
            raise Fault("ter:InvalidArgVal", "The state is active or inactive.")
        self.world.command_relay(self.place.id, token, state == "active", self._now_ms())
        return "<tds:SetRelayOutputStateResponse/>"

    # -- media and analytics -------------------------------------------------------------------------------------------

    def _sources(self, asked: Request) -> str:
        return (
            '<trt:GetVideoSourcesResponse><trt:VideoSources token="vs0"><tt:Framerate>8</tt:Framerate><tt:Resolution>'
            f"<tt:Width>{WIDTH}</tt:Width><tt:Height>{HEIGHT}</tt:Height></tt:Resolution></trt:VideoSources></trt:GetVideoSourcesResponse>"
        )

    def _profiles(self, asked: Request) -> str:
        return (
            '<trt:GetProfilesResponse><trt:Profiles token="main" fixed="true"><tt:Name>main</tt:Name>'
            '<tt:VideoSourceConfiguration token="vsc0"><tt:Name>view</tt:Name><tt:UseCount>1</tt:UseCount><tt:SourceToken>vs0</tt:SourceToken>'
            f'<tt:Bounds x="0" y="0" width="{WIDTH}" height="{HEIGHT}"/></tt:VideoSourceConfiguration>'
            '<tt:VideoAnalyticsConfiguration token="analytics"><tt:Name>analytics</tt:Name><tt:UseCount>1</tt:UseCount>'
            "<tt:AnalyticsEngineConfiguration/><tt:RuleEngineConfiguration/></tt:VideoAnalyticsConfiguration>"
            "</trt:Profiles></trt:GetProfilesResponse>"
        )

    def _snapshot_uri(self, asked: Request) -> str:
        if asked.text("ProfileToken") != "main":
            raise Fault("ter:NoProfile", "There is no such profile.")
        return (
            f"<trt:GetSnapshotUriResponse><trt:MediaUri><tt:Uri>{self.address}/onvif/snapshot</tt:Uri>"
            "<tt:InvalidAfterConnect>false</tt:InvalidAfterConnect><tt:InvalidAfterReboot>false</tt:InvalidAfterReboot>"
            "<tt:Timeout>PT0S</tt:Timeout></trt:MediaUri></trt:GetSnapshotUriResponse>"
        )

    def _inputs(self, asked: Request) -> str:
        inner = "".join(f'<tmd:DigitalInputs token="{token}" IdleState="open"/>' for token in self.place.inputs)
        return f"<tmd:GetDigitalInputsResponse>{inner}</tmd:GetDigitalInputsResponse>"

    def _rules(self, asked: Request) -> str:
        if asked.text("ConfigurationToken") != "analytics":
            raise Fault("ter:NoConfig", "There is no such analytics configuration.")
        inner = "".join(_rule(detector) for detector in self.place.detectors)
        return f"<tan:GetRulesResponse>{inner}</tan:GetRulesResponse>"

    # -- events --------------------------------------------------------------------------------------------------------

    def _event_properties(self, asked: Request) -> str:
        topics = ""
        if any(isinstance(d, LineDetector) for d in self.place.detectors):
            topics += '<LineDetector><Crossed wstop:topic="true">' + _description(False) + "</Crossed></LineDetector>"
        if any(isinstance(d, StayDetector) for d in self.place.detectors):
            topics += (
                '<LoiteringDetector><ObjectIsLoitering wstop:topic="true">'
                + _description(True)
                + "</ObjectIsLoitering></LoiteringDetector>"
            )
        inputs = (
            '<tns1:Device><Trigger><DigitalInput wstop:topic="true"><tt:MessageDescription IsProperty="true"><tt:Source>'
            '<tt:SimpleItemDescription Name="InputToken" Type="tt:ReferenceToken"/></tt:Source><tt:Data>'
            '<tt:SimpleItemDescription Name="LogicalState" Type="xs:boolean"/></tt:Data></tt:MessageDescription></DigitalInput></Trigger></tns1:Device>'
            if self.place.inputs
            else ""
        )
        return (
            "<tev:GetEventPropertiesResponse><tev:TopicNamespaceLocation>http://www.onvif.org/onvif/ver10/topics/topicns.xml</tev:TopicNamespaceLocation>"
            "<wsnt:FixedTopicSet>true</wsnt:FixedTopicSet>"
            f"<wstop:TopicSet><tns1:RuleEngine>{topics}</tns1:RuleEngine>{inputs}</wstop:TopicSet>"
            f"<wsnt:TopicExpressionDialect>{DIALECT}</wsnt:TopicExpressionDialect>"
            "<tev:MessageContentFilterDialect>http://www.onvif.org/ver10/tev/messageContentFilter/ItemFilter</tev:MessageContentFilterDialect>"
            "<tev:MessageContentSchemaLocation>http://www.onvif.org/onvif/ver10/schema/onvif.xsd</tev:MessageContentSchemaLocation>"
            "</tev:GetEventPropertiesResponse>"
        )

    def _subscribe(self, asked: Request) -> str:
        if len(self.subscriptions) >= 16:
            raise Fault("wsnt:SubscribeCreationFailedFault", "All pull points are taken.")
        ends = datetime.now(UTC) + self._lifetime(asked.text("InitialTerminationTime"))
        point = Subscription(secrets.token_hex(8), ends)
        self.subscriptions[point.id] = point
        self._synchronize(point)
        return (
            "<tev:CreatePullPointSubscriptionResponse><tev:SubscriptionReference>"
            f"<wsa:Address>{self.address}/onvif/subscription/{point.id}</wsa:Address></tev:SubscriptionReference>"
            f"{self._times(point)}</tev:CreatePullPointSubscriptionResponse>"
        )

    async def _pull(self, asked: Request, point: Subscription) -> str:
        wait = min(_seconds(asked.text("Timeout") or "PT1S"), 60)
        arrived, stopping = asyncio.ensure_future(point.arrived.wait()), asyncio.ensure_future(self.stopping.wait())
        try:
            await asyncio.wait({arrived, stopping}, timeout=wait, return_when=asyncio.FIRST_COMPLETED)
        finally:
            arrived.cancel()
            stopping.cancel()
        taken = point.take(max(1, int(asked.text("MessageLimit") or 1)))
        now = self.clock()
        return (
            f"<tev:PullMessagesResponse><tev:CurrentTime>{_stamp(now)}</tev:CurrentTime>"
            f"<tev:TerminationTime>{_stamp(point.ends + self.offset)}</tev:TerminationTime>{''.join(taken)}</tev:PullMessagesResponse>"
        )

    def _renew(self, asked: Request, point: Subscription) -> str:
        point.ends = datetime.now(UTC) + self._lifetime(asked.text("TerminationTime"))
        return (
            f"<wsnt:RenewResponse><wsnt:TerminationTime>{_stamp(point.ends + self.offset)}</wsnt:TerminationTime>"
            f"<wsnt:CurrentTime>{_stamp(self.clock())}</wsnt:CurrentTime></wsnt:RenewResponse>"
        )

    def _unsubscribe(self, point: Subscription) -> str:
        self.subscriptions.pop(point.id, None)
        return "<wsnt:UnsubscribeResponse/>"

    def _synchronize(self, point: Subscription) -> str:
        point.add([self.message(r, "Initialized") for r in self.world.properties(self.place.id, self._now_ms())])
        return "<tev:SetSynchronizationPointResponse/>"

    def _times(self, point: Subscription) -> str:
        return (
            f"<wsnt:CurrentTime>{_stamp(self.clock())}</wsnt:CurrentTime>"
            f"<wsnt:TerminationTime>{_stamp(point.ends + self.offset)}</wsnt:TerminationTime>"
        )

    def _lifetime(self, wanted: str | None) -> timedelta:
        if not wanted:
            return timedelta(minutes=1)
        if wanted.startswith("P"):
            return min(timedelta(seconds=_seconds(wanted)), LONGEST)
        try:
            return min(datetime.fromisoformat(wanted) - self.clock(), LONGEST)
        except (ValueError, TypeError) as error:
            raise Fault("ter:InvalidArgVal", "The termination time cannot be read.") from error


def _stamp(at: datetime) -> str:
    return at.strftime("%Y-%m-%dT%H:%M:%S.") + f"{at.microsecond // 1000:03d}Z"


def _seconds(duration: str) -> float:
    """Seconds of PTnHnMnS."""
    total, number = 0.0, ""
    for sign in duration.removeprefix("P").removeprefix("T"):
        if sign.isdigit() or sign == ".":
            number += sign
        elif sign in "HMS" and number:
            total += float(number) * {"H": 3600, "M": 60, "S": 1}[sign]
            number = ""
    return total


def _reply_action(asked: Request) -> str:
    space = asked.namespace
    if space == NAMES["tev"]:
        port = (
            "EventPortType"
            if asked.name in ("CreatePullPointSubscription", "GetEventProperties", "GetServiceCapabilities")
            else "PullPointSubscription"
        )
        return f"{space}/{port}/{asked.name}Response"
    if space == NAMES["wsnt"]:
        return f"http://docs.oasis-open.org/wsn/bw-2/SubscriptionManager/{asked.name}Response"
    return f"{space}/{asked.name}Response"


def _rule(detector: LineDetector | StayDetector) -> str:
    if isinstance(detector, LineDetector):
        (x0, y0), (x1, y1) = detector.a, detector.b
        shape = f'<tt:ElementItem Name="Segments"><tt:Polyline><tt:Point x="{x0}" y="{y0}"/><tt:Point x="{x1}" y="{y1}"/></tt:Polyline></tt:ElementItem>'
        return (
            f'<tan:Rule Name={quoteattr(detector.name)} Type="tt:LineDetector"><tt:Parameters><tt:SimpleItem Name="Direction" Value="Any"/>'
            f"{shape}</tt:Parameters></tan:Rule>"
        )
    points = "".join(f'<tt:Point x="{x}" y="{y}"/>' for x, y in detector.zone)
    return (
        f'<tan:Rule Name={quoteattr(detector.name)} Type="tt:LoiteringDetector"><tt:Parameters>'
        f'<tt:SimpleItem Name="TimeThreshold" Value="PT{detector.threshold}S"/>'
        f'<tt:ElementItem Name="Field"><tt:Polygon>{points}</tt:Polygon></tt:ElementItem></tt:Parameters></tan:Rule>'
    )


def _description(is_property: bool) -> str:
    source = "".join(
        f'<tt:SimpleItemDescription Name="{name}" Type="{kind}"/>'
        for name, kind in (
            ("VideoSourceConfigurationToken", "tt:ReferenceToken"),
            ("VideoAnalyticsConfigurationToken", "tt:ReferenceToken"),
            ("Rule", "xs:string"),
        )
    )
    items = [
        ("ObjectId", "xs:integer"),
        ("ClassTypes", "tt:StringItems"),
        ("Likelihood", "xs:float"),
        ("Height", "xs:float"),
    ]
    items.append(("State", "xs:boolean") if is_property else ("Direction", "xs:string"))
    data = "".join(f'<tt:SimpleItemDescription Name="{name}" Type="{kind}"/>' for name, kind in items)
    return f'<tt:MessageDescription IsProperty="{str(is_property).lower()}"><tt:Source>{source}</tt:Source><tt:Data>{data}</tt:Data></tt:MessageDescription>'
