"""Our ONVIF client and session, against the stand-in and against devices that misbehave."""

import asyncio
from datetime import UTC, datetime, timedelta

import httpx
import pytest
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import Route

from dromikon.standins.onvif import soap as peer
from dromikon.standins.onvif.camera import StandInCamera
from dromikon.standins.onvif.quirks import OPTIONAL, Quirk
from dromikon.standins.picture.frame import Studio
from dromikon.standins.run import PASSWORD, USER
from dromikon.standins.world.world import World
from dromikon.wire.onvif import parts
from dromikon.wire.onvif.client import OnvifDevice, duration
from dromikon.wire.onvif.notification import parse_notification
from dromikon.wire.onvif.session import DeviceSession
from dromikon.wire.onvif.soap import MAX_ANSWER, DeviceError, username_token


class Notes:
    """A sink that writes down what it is told."""

    def __init__(self):
        self.messages, self.healths, self.catalogues = [], [], []

    async def notifications(self, messages, clock_offset_ms):
        self.messages += messages

    async def health(self, state, reason, message, clock_offset_ms):
        self.healths.append((state, reason, clock_offset_ms))

    async def catalogue(self, content):
        self.catalogues.append(content)


async def until(condition, seconds=12.0):
    deadline = asyncio.get_running_loop().time() + seconds
    while not condition():
        assert asyncio.get_running_loop().time() < deadline, "waited in vain"
        await asyncio.sleep(0.02)


def device(address, password=PASSWORD):
    return OnvifDevice(f"{address}/onvif/device_service", USER, password)


async def test_a_session_learns_the_device_its_clock_and_its_states(standins):
    notes = Notes()
    task = asyncio.create_task(DeviceSession(device(standins["yard"]), notes).run())
    await until(lambda: notes.healths and len(notes.messages) >= 2)
    task.cancel()
    state, reason, offset = notes.healths[0]
    assert (state, reason) == ("online", "") and 3_100 < offset < 3_700
    learned = notes.catalogues[0]
    assert learned["information"]["model"] == "Heron 6" and learned["channels"] == ["vs0"]
    assert {d["name"]: d["waits"] for d in learned["detectors"]} == {"Yard gate line": 0.0, "Loading bay": 10.0}
    assert parse_notification(notes.messages[0]).operation == "Initialized"


async def test_somebody_provoked_walks_in_and_the_crossing_comes_at_its_moment(standins):
    notes = Notes()
    task = asyncio.create_task(DeviceSession(device(standins["jetty"]), notes).run())
    await until(lambda: notes.healths)
    async with httpx.AsyncClient() as http:
        began = (await http.post(f"{standins['control']}/provoke/cross-jetty")).json()["at"]
    await until(lambda: any(b"Crossed" in m for m in notes.messages), 20)
    task.cancel()
    note = parse_notification(next(m for m in notes.messages if b"Crossed" in m))
    late = datetime.now(UTC).timestamp() * 1000 - note.device_at
    assert note.data["ClassTypes"] == "Human" and 8_000 < note.device_at - began < 13_000
    assert late < 400, "a message is told when it happens"


async def test_a_wrong_password_is_told_once_and_tried_again(standins):
    notes, pauses = Notes(), []

    async def sleep(seconds):
        pauses.append(seconds)
        await asyncio.sleep(0)

    task = asyncio.create_task(DeviceSession(device(standins["gate"], "wrong"), notes, sleep).run())
    await until(lambda: len(pauses) >= 3, 20)
    task.cancel()
    assert notes.healths == [("lost", "refused", notes.healths[0][2])]
    assert pauses[:3] == [1.0, 2.0, 4.0]


class Misbehaving:
    """A device that answers the first calls as it should and then does what `trick` says."""

    def __init__(self, trick):
        self.trick, self.calls = trick, []

    def app(self):
        return Starlette(routes=[Route("/{rest:path}", self.answer, methods=["POST"])])

    async def answer(self, request: Request):
        asked = peer.read(await request.body())
        self.calls.append(asked.name)
        if asked.name == "GetSystemDateAndTime":
            now = datetime.now(UTC)
            time = f"<tt:Time><tt:Hour>{now.hour}</tt:Hour><tt:Minute>{now.minute}</tt:Minute><tt:Second>{now.second}</tt:Second></tt:Time>"
            date = f"<tt:Date><tt:Year>{now.year}</tt:Year><tt:Month>{now.month}</tt:Month><tt:Day>{now.day}</tt:Day></tt:Date>"
            return _soap(
                f"<tds:GetSystemDateAndTimeResponse><tds:SystemDateAndTime><tt:UTCDateTime>{time}{date}</tt:UTCDateTime></tds:SystemDateAndTime></tds:GetSystemDateAndTimeResponse>"
            )
        return await self.trick(asked)


def _soap(body):
    return Response(peer.answer(body), media_type="application/soap+xml")


async def _malformed(asked):
    return Response(b"<s:Envelope><unclosed>", media_type="application/soap+xml")


async def _doctype(asked):
    bomb = b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;">]><x>&b;</x>'
    return Response(bomb, media_type="application/soap+xml")


async def _oversized(asked):
    return Response(b" " * (MAX_ANSWER + 1), media_type="application/soap+xml")


async def _no_soap(asked):
    return Response(b"<html><body>router log-in</body></html>")


async def _fault(asked):
    return Response(peer.fault(peer.Fault("ter:Action", "out of order")), 500, media_type="application/soap+xml")


async def _elsewhere(asked):
    return _soap(
        "<tds:GetServicesResponse><tds:Service><tds:Namespace>http://www.onvif.org/ver10/events/wsdl</tds:Namespace><tds:XAddr>http://198.51.100.7:81/onvif/e</tds:XAddr></tds:Service></tds:GetServicesResponse>"
    )


@pytest.mark.parametrize(
    ("trick", "reason"),
    [
        (_malformed, "malformed"),
        (_doctype, "malformed"),
        (_oversized, "oversized"),
        (_no_soap, "malformed"),
        (_fault, "fault"),
    ],
)
async def test_bad_answers_are_device_health_not_exceptions(serve, trick, reason):
    notes = Notes()
    task = asyncio.create_task(DeviceSession(device(serve(Misbehaving(trick).app())), notes).run())
    await until(lambda: notes.healths)
    task.cancel()
    assert notes.healths[0][:2] == ("lost", reason)


async def test_a_device_cannot_send_us_to_another_host(serve):
    address = serve(Misbehaving(_elsewhere).app())
    found = device(address)
    services = await found.discover_services()
    assert services["http://www.onvif.org/ver10/events/wsdl"] == f"{address}/onvif/e"
    await found.close()


async def test_a_device_that_stops_answering_mid_pull_is_lost_by_timeout(serve, monkeypatch):
    from dromikon.wire.onvif import session

    monkeypatch.setattr(session, "WAIT", timedelta(seconds=-4))

    async def trick(asked):
        if asked.name == "PullMessages":
            await asyncio.sleep(30)
        if asked.name == "GetServices":
            inner = "".join(
                f"<tds:Service><tds:Namespace>{peer.NAMES[n]}</tds:Namespace><tds:XAddr>http://x/{n}</tds:XAddr></tds:Service>"
                for n in ("tev", "trt")
            )
            return _soap(f"<tds:GetServicesResponse>{inner}</tds:GetServicesResponse>")
        if asked.name == "CreatePullPointSubscription":
            return _soap(
                "<tev:CreatePullPointSubscriptionResponse><tev:SubscriptionReference><wsa:Address>http://x/sub</wsa:Address></tev:SubscriptionReference></tev:CreatePullPointSubscriptionResponse>"
            )
        return _soap(f"<tds:{asked.name}Response/>")

    notes = Notes()
    task = asyncio.create_task(DeviceSession(device(serve(Misbehaving(trick).app())), notes).run())
    await until(lambda: any(h[0] == "lost" for h in notes.healths))
    task.cancel()
    assert [h[:2] for h in notes.healths[:2]] == [("online", ""), ("lost", "timeout")]


async def test_nobody_there():
    with pytest.raises(DeviceError) as error:
        await device("http://127.0.0.1:9").measure_clock()
    assert error.value.reason == "unreachable"


async def test_http_digest_alone_is_enough_for_a_device_that_wants_it(standins):
    found = device(standins["gate"])
    found.soap._envelope, keep = (
        (lambda address, action, body, now, reference: keep(address, action, body, None, reference)),
        found.soap._envelope,
    )
    assert (await parts.information(found))["model"] == "Heron 4"
    await found.close()


async def test_switching_a_relay_shows_in_the_world(standins):
    found = device(standins["jetty"])
    await found.set_relay("storm-light", True)
    with pytest.raises(DeviceError, match="no such relay"):
        await found.set_relay("nothing", True)
    await found.set_relay("storm-light", False)
    await found.close()


def test_the_token_is_the_digest_of_the_standard():
    account = peer.Account("u", "p")
    now = datetime(2026, 5, 1, 12, tzinfo=UTC)
    token = peer.etree.tostring(username_token("u", "p", now)).decode()
    envelope = f'<s:Envelope xmlns:s="{peer.SOAP}"><s:Header>{token}</s:Header><s:Body><x/></s:Body></s:Envelope>'
    request = peer.read(envelope.encode())
    assert account.token_is_good(request, now)
    assert not account.token_is_good(request, now), "a nonce is good once"
    assert not peer.Account("u", "p").token_is_good(request, now + timedelta(minutes=6)), "and for some minutes"
    assert not peer.Account("u", "other").token_is_good(request, now)


def test_topics_are_read_by_namespace_not_by_prefix():
    message = (
        '<n:NotificationMessage xmlns:n="http://docs.oasis-open.org/wsn/b-2" xmlns:q="http://www.onvif.org/ver10/topics" xmlns:t="http://www.onvif.org/ver10/schema">'
        '<n:Topic Dialect="d">q:VideoSource/MotionAlarm</n:Topic><n:Message><t:Message UtcTime="2026-05-01T10:00:00Z" PropertyOperation="Changed">'
        '<t:Source><t:SimpleItem Name="Source" Value="v"/></t:Source><t:Data><t:SimpleItem Name="State" Value="true"/></t:Data></t:Message></n:Message></n:NotificationMessage>'
    )
    note = parse_notification(message.encode())
    assert note.topic == "tns1:VideoSource/MotionAlarm" and note.data == {"State": "true"}
    with pytest.raises(DeviceError, match="topic"):
        parse_notification(b"<a/>")


def test_durations():
    assert [duration(t) for t in ("PT10S", "PT1M30S", "P1DT1H", "PT0.5S", "soon", "P")] == [
        10,
        90,
        90_000,
        0.5,
        None,
        None,
    ]


def _renamed(operation, answer):
    """The camera with tokens of another make."""
    return answer.replace(b"vsc0", b"view 7").replace(b'token="analytics"', b'token="engine 9"')


class Other(StandInCamera):
    """A device of another make: its own tokens, and nothing to say to most optional questions."""

    def _handler(self, asked):
        for element in asked.body.iter():
            element.text = "analytics" if element.text == "engine 9" else element.text
        return super()._handler(asked)


def odd(serve, tmp_path, quirk, camera="yard", make=StandInCamera):
    """A stand-in with a quirk, on a socket."""
    made = make(camera, Studio(World(), tmp_path), "http://127.0.0.1", peer.Account(USER, PASSWORD), quirk=quirk)
    return serve(made.app())


async def test_a_device_that_refuses_optional_questions_is_online_and_tokens_are_its_own(serve, tmp_path):
    quirk = Quirk("", "", refused=OPTIONAL, rewrite=_renamed)
    notes = Notes()
    task = asyncio.create_task(DeviceSession(device(odd(serve, tmp_path, quirk, make=Other)), notes).run())
    await until(lambda: notes.healths and notes.catalogues)
    task.cancel()
    learned = notes.catalogues[0]
    assert notes.healths[0][0] == "online"
    assert set(learned["refused"]) == {
        "channels",
        "relays",
        "relay_times",
        "inputs",
        "information",
        "events",
        "detector_types",
    }
    assert {d["channel"] for d in learned["detectors"]} == {"view 7"} and "channels" not in learned


async def test_a_fault_of_ours_is_told_once_and_logged_once(caplog):
    class Broken(OnvifDevice):
        async def discover_services(self):
            raise RuntimeError("a fault of ours")

        async def measure_clock(self, samples=1, pause=0.2):
            return timedelta()

    pauses, notes = [], Notes()

    async def sleep(seconds):
        pauses.append(seconds)
        if len(pauses) == 4:
            raise asyncio.CancelledError

    with pytest.raises(asyncio.CancelledError):
        await DeviceSession(Broken("http://127.0.0.1:9/", "", ""), notes, sleep).run()
    assert [h[:2] for h in notes.healths] == [("lost", "our_fault")] and pauses == [1, 2, 4, 8]
    assert len([r for r in caplog.records if "failed" in r.message]) == 1
