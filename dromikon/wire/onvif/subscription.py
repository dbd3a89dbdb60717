"""Subscriptions to a device's events: pull points (ONVIF Core), and notifications that are pushed to an address of ours
(WS-BaseNotification), for devices that know nothing else."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from lxml import etree

from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.namespaces import TEV, WSA, WSNT
from dromikon.wire.onvif.soap import DeviceError

MANAGER = "http://docs.oasis-open.org/wsn/bw-2/SubscriptionManager"
PRODUCER = "http://docs.oasis-open.org/wsn/bw-2/NotificationProducer"
SHORTEST = timedelta(seconds=1)


@dataclass(frozen=True, slots=True)
class Subscription:
    """Its address, reference parameters to be repeated, for how long it was granted, and when it ends by our clock."""

    address: str
    reference: tuple[etree._Element, ...]
    lasts: timedelta
    ends: datetime

    def left(self, now: datetime) -> timedelta:
        """How long it still lasts."""
        return max(self.ends - now, timedelta())


async def open_pull_point(device: OnvifDevice, lasts: timedelta) -> Subscription:
    """Events wait at the device until they are pulled."""
    answer = await device.ask(TEV, "CreatePullPointSubscription", InitialTerminationTime=_span(lasts))
    return _opened(device, answer, answer.find(f"{{{TEV}}}SubscriptionReference"), lasts)


async def open_pushed(device: OnvifDevice, consumer: str, lasts: timedelta) -> Subscription:
    """The device posts events to `consumer`."""
    body = etree.Element(f"{{{WSNT}}}Subscribe")
    reference = etree.SubElement(body, f"{{{WSNT}}}ConsumerReference")
    etree.SubElement(reference, f"{{{WSA}}}Address").text = consumer
    etree.SubElement(body, f"{{{WSNT}}}InitialTerminationTime").text = _span(lasts)
    answer = await device.soap.call(device.service(TEV), f"{PRODUCER}/SubscribeRequest", body, device.clock())
    return _opened(device, answer, answer.find(f"{{{WSNT}}}SubscriptionReference"), lasts)


async def pull(device: OnvifDevice, point: Subscription, wait: timedelta, limit: int = 100) -> list[bytes]:
    """Wait for messages; each as the bytes of its wsnt:NotificationMessage."""
    body = etree.Element(f"{{{TEV}}}PullMessages")
    etree.SubElement(body, f"{{{TEV}}}Timeout").text = _span(wait)
    etree.SubElement(body, f"{{{TEV}}}MessageLimit").text = str(limit)
    answer = await device.soap.call(
        point.address, f"{TEV}/PullPointSubscription/PullMessagesRequest", body, device.clock(),
        timeout=wait.total_seconds() + 5, reference=point.reference,
    )  # fmt: skip
    if answer.tag != f"{{{TEV}}}PullMessagesResponse":
        raise DeviceError("malformed", "The device answered a pull with something else.")
    return notifications(answer)


def notifications(element: etree._Element) -> list[bytes]:
    """The notification messages below an element, each as bytes of its own."""
    return [etree.tostring(message) for message in element.iter(f"{{{WSNT}}}NotificationMessage")]


async def renew(device: OnvifDevice, point: Subscription, lasts: timedelta) -> Subscription:
    """Have it last longer."""
    body = etree.Element(f"{{{WSNT}}}Renew")
    etree.SubElement(body, f"{{{WSNT}}}TerminationTime").text = _span(lasts)
    answer = await _manage(device, point, "Renew", body)
    granted = _granted(answer, lasts)
    return Subscription(point.address, point.reference, granted, device.clock() + granted)


async def synchronize(device: OnvifDevice, point: Subscription) -> None:
    """Ask for the present state of every property."""
    action = f"{TEV}/PullPointSubscription/SetSynchronizationPointRequest"
    body = etree.Element(f"{{{TEV}}}SetSynchronizationPoint")
    await device.soap.call(point.address, action, body, device.clock(), reference=point.reference)


async def unsubscribe(device: OnvifDevice, point: Subscription) -> None:
    """End it."""
    await _manage(device, point, "Unsubscribe", etree.Element(f"{{{WSNT}}}Unsubscribe"))


async def _manage(device: OnvifDevice, point: Subscription, name: str, body: etree._Element) -> etree._Element:
    return await device.soap.call(
        point.address, f"{MANAGER}/{name}Request", body, device.clock(), reference=point.reference
    )


def _opened(
    device: OnvifDevice, answer: etree._Element, reference: etree._Element | None, lasts: timedelta
) -> Subscription:
    address = reference.findtext(f"{{{WSA}}}Address") if reference is not None else None
    if reference is None or not address:
        raise DeviceError("malformed", "The device opened a subscription without an address.")
    parameters = reference.find(f"{{{WSA}}}ReferenceParameters")
    kept = tuple(parameters) if parameters is not None else ()
    granted = _granted(answer, lasts)
    return Subscription(device.reachable(address.strip()), kept, granted, device.clock() + granted)


def _granted(answer: etree._Element, wanted: timedelta) -> timedelta:
    """For how long, going by the device's own clock; what it says no time for lasts as long as was wanted."""
    current = answer.findtext(f"{{{WSNT}}}CurrentTime")
    end = answer.findtext(f"{{{WSNT}}}TerminationTime")
    try:
        told = datetime.fromisoformat(str(end).strip()) - datetime.fromisoformat(str(current).strip())
    except (ValueError, TypeError):
        told = wanted
    return max(min(told, wanted), SHORTEST)


def _span(time: timedelta) -> str:
    """An xs:duration in whole seconds."""
    return f"PT{max(1, int(time.total_seconds()))}S"
