"""Events: what can be sent, pull points, and notifications that are pushed (WS-BaseNotification)."""

import asyncio
import contextlib
import secrets
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from xml.sax.saxutils import quoteattr

import httpx
from starlette.routing import BaseRoute, Route

from dromikon.standins.onvif import soap
from dromikon.standins.onvif.device import Handler, Service, StandInDevice
from dromikon.standins.onvif.soap import Fault, Request
from dromikon.standins.onvif.topics import topic_set
from dromikon.standins.world.reports import Rectangle, Report

DIALECT = "http://www.onvif.org/ver10/tev/topicExpression/ConcreteSet"
LONGEST = timedelta(minutes=10)
MOST_WAITING = 1000


@dataclass
class Subscription:
    """What waits for somebody, and until when: to be pulled, or to be pushed to `consumer`."""

    id: str
    ends: datetime
    consumer: str = ""
    waiting: list[str] = field(default_factory=list)
    arrived: asyncio.Event = field(default_factory=asyncio.Event)

    def add(self, messages: list[str]) -> None:
        self.waiting = (self.waiting + messages)[-MOST_WAITING:]
        if self.waiting:
            self.arrived.set()

    def take(self, limit: int) -> list[str]:
        taken, self.waiting = self.waiting[:limit], self.waiting[limit:]
        if not self.waiting:
            self.arrived.clear()
        return taken


class Events(Service):
    prefix, path = "tev", "event"

    def __init__(self, device: StandInDevice, most: int = 16) -> None:
        super().__init__(device)
        self.most = device.quirk.most_subscriptions or most
        self.subscriptions: dict[str, Subscription] = {}
        self._told = device.now_ms()
        self._pushing: dict[str, asyncio.Task[None]] = {}

    def operations(self) -> Mapping[str, Handler]:
        return {
            "GetServiceCapabilities": self._capabilities,
            "GetEventProperties": self._properties,
            "CreatePullPointSubscription": self._create,
            "Subscribe": self._subscribe,
            "PullMessages": self._pull,
            "Renew": self._renew,
            "Unsubscribe": self._unsubscribe,
            "SetSynchronizationPoint": self._synchronize,
        }

    def routes(self) -> list[BaseRoute]:
        return [Route("/onvif/subscription/{id}", self.device.serve, methods=["POST"])]

    # -- telling -------------------------------------------------------------------------------------------------------

    async def lives(self) -> None:
        """Tell each report at its moment: sleep until the next one is due, or until somebody provokes something."""
        device = self.device
        while True:
            now = device.now_ms()
            if device.cut_off(now):
                self.subscriptions.clear()
            else:
                self._tell(device.reports(self._told, now + 1))
            self._told = now + 1
            due = device.next_report(self._told, 2000)
            pause = (due - device.now_ms() + 1) / 1000 if due else 1.0
            device.provoked.clear()
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(device.provoked.wait(), max(0.001, pause))

    def _tell(self, reports: list[Report]) -> None:
        messages = [self.message(r, "Changed" if r.property else "") for r in reports]
        alive = datetime.now(UTC)
        for key, subscription in list(self.subscriptions.items()):
            if subscription.ends < alive:
                del self.subscriptions[key]
            elif messages:
                subscription.add(messages)

    def message(self, report: Report, operation: str) -> str:
        """One wsnt:NotificationMessage; `operation` is empty for a message that is no property."""
        at = datetime.fromtimestamp(report.at / 1000, UTC) + self.device.offset
        items = [
            "".join(f"<tt:SimpleItem Name={quoteattr(n)} Value={quoteattr(v)}/>" for n, v in p)
            for p in (report.source, report.data)
        ]
        items[1] += "" if report.box is None else _rectangle(report.box)
        kind = f' PropertyOperation="{operation}"' if operation else ""
        return (
            f'<wsnt:NotificationMessage><wsnt:Topic Dialect="{DIALECT}">{report.topic}</wsnt:Topic>'
            f'<wsnt:Message><tt:Message UtcTime="{self.device.quirk.stamp(at)}"{kind}><tt:Source>{items[0]}</tt:Source>'
            f"<tt:Data>{items[1]}</tt:Data></tt:Message></wsnt:Message></wsnt:NotificationMessage>"
        )

    # -- operations ----------------------------------------------------------------------------------------------------

    def _capabilities(self, asked: Request) -> str:
        inner = (
            '<tev:Capabilities WSSubscriptionPolicySupport="false" WSPausableSubscriptionManagerInterfaceSupport="false" '
            f'MaxPullPoints="{self.most}"/>'
        )
        return f"<tev:GetServiceCapabilitiesResponse>{inner}</tev:GetServiceCapabilitiesResponse>"

    def _properties(self, asked: Request) -> str:
        return (
            "<tev:GetEventPropertiesResponse><tev:TopicNamespaceLocation>http://www.onvif.org/onvif/ver10/topics/topicns.xml</tev:TopicNamespaceLocation>"
            f"<wsnt:FixedTopicSet>true</wsnt:FixedTopicSet>{topic_set(self.device.topics())}"
            f"<wsnt:TopicExpressionDialect>{DIALECT}</wsnt:TopicExpressionDialect>"
            "<tev:MessageContentFilterDialect>http://www.onvif.org/ver10/tev/messageContentFilter/ItemFilter</tev:MessageContentFilterDialect>"
            "<tev:MessageContentSchemaLocation>http://www.onvif.org/onvif/ver10/schema/onvif.xsd</tev:MessageContentSchemaLocation>"
            "</tev:GetEventPropertiesResponse>"
        )

    def _create(self, asked: Request) -> str:
        point = self._open(asked)
        return (
            "<tev:CreatePullPointSubscriptionResponse><tev:SubscriptionReference>"
            f"<wsa:Address>{self._address(point)}</wsa:Address></tev:SubscriptionReference>"
            f"{self._times(point)}</tev:CreatePullPointSubscriptionResponse>"
        )

    def _subscribe(self, asked: Request) -> str:
        """Notifications are pushed to the consumer, whose address the request names."""
        consumer = asked.text("Address") or ""
        if not consumer.startswith(("http://", "https://")):
            raise Fault("ter:InvalidArgVal", "The consumer has no address that can be called.")
        point = self._open(asked, consumer)
        self._pushing[point.id] = asyncio.create_task(self._push(point))
        return (
            f"<wsnt:SubscribeResponse><wsnt:SubscriptionReference><wsa:Address>{self._address(point)}</wsa:Address>"
            f"</wsnt:SubscriptionReference>{self._times(point)}</wsnt:SubscribeResponse>"
        )

    def _open(self, asked: Request, consumer: str = "") -> Subscription:
        alive = datetime.now(UTC)
        self.subscriptions = {k: s for k, s in self.subscriptions.items() if s.ends >= alive}
        if len(self.subscriptions) >= self.most:
            raise Fault("wsnt:SubscribeCreationFailedFault", "All subscriptions are taken.")
        ends = alive + self._lifetime(asked.text("InitialTerminationTime"))
        point = Subscription(secrets.token_hex(8), ends, consumer)
        self.subscriptions[point.id] = point
        self._refresh(point)
        return point

    async def _push(self, point: Subscription) -> None:
        async with httpx.AsyncClient(timeout=5) as http:
            while point.id in self.subscriptions:
                with contextlib.suppress(TimeoutError):
                    await asyncio.wait_for(point.arrived.wait(), 1)
                if taken := self.device.quirk.messages(point.take(50)):
                    body = soap.answer(f"<wsnt:Notify>{''.join(taken)}</wsnt:Notify>")
                    with contextlib.suppress(httpx.HTTPError):
                        await http.post(point.consumer, content=body, headers={"Content-Type": "application/soap+xml"})
        self._pushing.pop(point.id, None)

    async def _pull(self, asked: Request) -> str:
        point = self._point(asked)
        wait = min(_seconds(asked.text("Timeout") or "PT1S"), 60)
        arrived = asyncio.ensure_future(point.arrived.wait())
        stopping = asyncio.ensure_future(self.device.stopping.wait())
        try:
            await asyncio.wait({arrived, stopping}, timeout=wait, return_when=asyncio.FIRST_COMPLETED)
        finally:
            arrived.cancel()
            stopping.cancel()
        taken = self.device.quirk.messages(point.take(max(1, int(asked.text("MessageLimit") or 1))))
        return (
            f"<tev:PullMessagesResponse><tev:CurrentTime>{stamp(self.device.clock())}</tev:CurrentTime>"
            f"<tev:TerminationTime>{stamp(point.ends + self.device.offset)}</tev:TerminationTime>{''.join(taken)}"
            "</tev:PullMessagesResponse>"
        )

    def _renew(self, asked: Request) -> str:
        point = self._point(asked)
        point.ends = datetime.now(UTC) + self._lifetime(asked.text("TerminationTime"))
        return f"<wsnt:RenewResponse>{self._times(point, ends_first=True)}</wsnt:RenewResponse>"

    def _unsubscribe(self, asked: Request) -> str:
        self.subscriptions.pop(self._point(asked).id, None)
        return "<wsnt:UnsubscribeResponse/>"

    def _synchronize(self, asked: Request) -> str:
        self._refresh(self._point(asked))
        return "<tev:SetSynchronizationPointResponse/>"

    def _refresh(self, point: Subscription) -> None:
        """Tell the present state of every property."""
        point.add([self.message(r, "Initialized") for r in self.device.properties(self.device.now_ms())])

    def _point(self, asked: Request) -> Subscription:
        found = self.subscriptions.get(asked.place)
        if found is None:
            raise Fault("ter:InvalidArgVal", "There is no such subscription.")
        return found

    def _address(self, point: Subscription) -> str:
        return f"{self.device.address}/onvif/subscription/{point.id}"

    def _times(self, point: Subscription, ends_first: bool = False) -> str:
        now = f"<wsnt:CurrentTime>{stamp(self.device.clock())}</wsnt:CurrentTime>"
        ends = f"<wsnt:TerminationTime>{stamp(point.ends + self.device.offset)}</wsnt:TerminationTime>"
        return ends + now if ends_first else now + ends

    def _lifetime(self, wanted: str | None) -> timedelta:
        longest = self.device.quirk.longest_subscription or LONGEST
        if not wanted:
            return min(timedelta(minutes=1), longest)
        if wanted.startswith("P"):
            return min(timedelta(seconds=_seconds(wanted)), longest)
        try:
            return min(datetime.fromisoformat(wanted) - self.device.clock(), longest)
        except (ValueError, TypeError) as error:
            raise Fault("ter:InvalidArgVal", "The termination time cannot be read.") from error


def stamp(at: datetime) -> str:
    """An instant as xs:dateTime in UTC."""
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


def _rectangle(box: Rectangle) -> str:
    """A tt:Rectangle as an item of its own."""
    sides = " ".join(f'{name}="{side:.4f}"' for name, side in zip(("left", "top", "right", "bottom"), box, strict=True))
    return f'<tt:ElementItem Name="BoundingBox"><tt:BoundingBox {sides}/></tt:ElementItem>'
