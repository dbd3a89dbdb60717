"""How devices differ from the standard, each way by its name. A stand-in can be given one, so that sessions are held to it."""

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta, timezone
from typing import TYPE_CHECKING

from starlette.requests import Request as HttpRequest
from starlette.responses import RedirectResponse, Response
from starlette.routing import BaseRoute, Route

from dromikon.standins.onvif.soap import Request

if TYPE_CHECKING:
    from dromikon.standins.onvif.device import StandInDevice

OPTIONAL = (
    "GetVideoSources", "GetRelayOutputs", "GetDigitalInputs", "GetDeviceInformation", "GetEventProperties",
    "SetSynchronizationPoint", "GetSupportedRules",
)  # fmt: skip
Rewrite = Callable[[str, bytes], bytes]


@dataclass(frozen=True)
class Quirk:
    """One device's way. `refused`: operations that it does not know; `rewrite`: its answers, by operation, as it sends them;
    `moved`: its device service answers elsewhere; `after`: how many answers come before it forgets the password."""

    name: str
    tells: str
    refused: tuple[str, ...] = ()
    rewrite: Rewrite = field(default=lambda operation, answer: answer)
    clock_error: timedelta = timedelta()
    zone: timezone | None = None
    most_subscriptions: int = 0
    longest_subscription: timedelta | None = None
    twice: bool = False
    moved: bool = False
    after: int = 0

    def refuses(self, operation: str) -> bool:
        """Whether the device does not know an operation."""
        return operation in self.refused

    def forgets(self, answers: int) -> bool:
        """Whether it no longer knows the password, after so many answers."""
        return 0 < self.after < answers

    def stamp(self, at: datetime) -> str:
        """An event's time as the device writes it."""
        if self.zone is None:
            return at.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%S.") + f"{at.microsecond // 1000:03d}Z"
        return at.astimezone(self.zone).isoformat(timespec="seconds")

    def messages(self, taken: list[str]) -> list[str]:
        """Notifications as the device sends them."""
        return [m for message in taken for m in (message, message)] if self.twice else taken

    def send(self, asked: Request, answer: Response) -> Response:
        """An answer as it goes out."""
        answer.body = self.rewrite(asked.name, bytes(answer.body))
        answer.headers["Content-Length"] = str(len(answer.body))
        return answer

    def routes(self, device: "StandInDevice") -> list[BaseRoute]:
        """Addresses that come before the device's own."""
        if not self.moved:
            return []

        async def elsewhere(request: HttpRequest) -> Response:
            return RedirectResponse("/onvif/moved/device", status_code=308)

        return [
            Route("/onvif/device_service", elsewhere, methods=["POST"]),
            Route("/onvif/moved/device", device.serve, methods=["POST"]),
        ]


AS_IT_SHOULD = Quirk("as it should", "It does what the standard wants.")


def _only(operation: str, change: Callable[[bytes], bytes]) -> Rewrite:
    return lambda asked, answer: change(answer) if asked == operation else answer


def _prefixes(operation: str, answer: bytes) -> bytes:
    """The same answer with other prefixes, which mean the same."""
    for ours, theirs in ((b"tt", b"ns0"), (b"wsnt", b"q"), (b"tev", b"e1"), (b"tns1", b"tp"), (b"tds", b"d")):
        answer = answer.replace(b"<" + ours + b":", b"<" + theirs + b":").replace(
            b"</" + ours + b":", b"</" + theirs + b":"
        )
        answer = answer.replace(b"xmlns:" + ours + b"=", b"xmlns:" + theirs + b"=").replace(
            b">" + ours + b":", b">" + theirs + b":"
        )
    return answer.replace(b' xmlns:ns0="', b' xmlns:tt="http://www.onvif.org/ver10/schema" xmlns:ns0="')


def _local_only(answer: bytes) -> bytes:
    """Local time and its zone instead of UTC: two hours east of Greenwich, in summer time."""
    from datetime import datetime as clock

    here = clock.now(UTC) + timedelta(hours=2)
    local = (
        "<tt:LocalDateTime>"
        f"<tt:Time><tt:Hour>{here.hour}</tt:Hour><tt:Minute>{here.minute}</tt:Minute><tt:Second>{here.second}</tt:Second></tt:Time>"
        f"<tt:Date><tt:Year>{here.year}</tt:Year><tt:Month>{here.month}</tt:Month><tt:Day>{here.day}</tt:Day></tt:Date>"
        "</tt:LocalDateTime>"
    )
    head, _, rest = answer.decode().partition("<tt:UTCDateTime>")
    tail = rest.partition("</tt:UTCDateTime>")[2]
    head = head.replace("UTC0", "CET-1CEST,M3.5.0,M10.5.0/3").replace(">false<", ">true<")
    return f"{head}{local}{tail}".encode()


def _bomb(answer: bytes) -> bytes:
    return (
        b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]>'
        b'<s:Envelope xmlns:s="http://www.w3.org/2003/05/soap-envelope"><s:Body><x>&b;</x></s:Body></s:Envelope>'
    )


def _other_serial(operation: str, answer: bytes) -> bytes:
    return answer.replace(b"QN-CAM-", b"XX-CAM-") if operation == "GetDeviceInformation" else answer


QUIRKS = {
    q.name: q
    for q in (
        Quirk("few answers", "It knows none of the optional questions.", refused=OPTIONAL),
        Quirk("old", "It does not know GetServices, only GetCapabilities.", refused=("GetServices",)),
        Quirk(
            "other prefixes", "Its answers have prefixes of their own.", rewrite=_prefixes,
        ),
        Quirk("local time", "It tells the time of its zone only.", rewrite=_only("GetSystemDateAndTime", _local_only)),
        Quirk("local stamps", "Its events carry local times with their offset.", zone=timezone(timedelta(hours=2))),
        Quirk("moved", "Its device service has moved to another address.", moved=True),
        Quirk("push only", "It has no pull points; it pushes.", refused=("CreatePullPointSubscription", "PullMessages")),
        Quirk("one subscription", "It has a single subscription for everybody.", most_subscriptions=1),
        Quirk("short subscriptions", "Its subscriptions end within seconds.", longest_subscription=timedelta(seconds=2)),
        Quirk("an hour off", "Its clock is an hour off.", clock_error=timedelta(hours=1)),
        Quirk("forgets", "It refuses the password after a while.", after=20),
        Quirk("says it twice", "It sends each event twice.", twice=True),
        Quirk("somebody else", "It answers with another identity.", rewrite=_other_serial),
        Quirk("no XML", "It answers events with HTML.", rewrite=_only("GetEventProperties", lambda a: b"<html><p>busy</html>")),
        Quirk("cut short", "Its answers to pulls stop in the middle.", rewrite=_only("PullMessages", lambda a: a[: len(a) // 2])),
        Quirk("huge", "Its answers to pulls never end.", rewrite=_only("PullMessages", lambda a: a + b" " * (5 << 20))),
        Quirk("entity bomb", "Its answers to pulls carry entities.", rewrite=_only("PullMessages", _bomb)),
        Quirk(
            "wrong namespace", "Its answers to pulls are in a namespace of nobody.",
            rewrite=_only("PullMessages", lambda a: a.replace(b"http://www.onvif.org/ver10/events/wsdl", b"urn:nobody")),
        ),
    )
}  # fmt: skip
