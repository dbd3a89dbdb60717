"""A camera's metadata stream: RTSP 1.0 (RFC 2326) with its packets interleaved, RTP after RFC 3550, and what the analytics see
as tt:Frame (ONVIF Analytics Service specification)."""

import asyncio
import contextlib
import random
import struct
from collections.abc import AsyncIterator, Callable, Mapping
from dataclasses import dataclass
from urllib.parse import urlsplit
from xml.sax.saxutils import quoteattr

from starlette.concurrency import run_in_threadpool

from dromikon.standins.onvif.device import StandInDevice
from dromikon.standins.onvif.events import stamp
from dromikon.standins.onvif.soap import NAMES
from dromikon.standins.picture.compose import HEIGHT, WIDTH
from dromikon.standins.picture.drawing import Tint
from dromikon.standins.picture.figures import draw
from dromikon.standins.picture.frame import Studio
from dromikon.standins.world.scenes import VIEWS, Camera
from dromikon.standins.world.watching import looked_at

#: Seconds between two frames, and how many ticks of RTP's clock a second has.
EVERY, CLOCK = 0.2, 90_000
PAYLOAD_TYPE, PACKET = 107, 1400
#: Only where a thing is drawn counts here, not in which light.
ANY_LIGHT = Tint(1.0, 1.0, 1.0)
#: A session ends so many seconds after it was last heard of.
LASTS = 60
DESCRIPTION = (
    "v=0\r\no=- 0 0 IN IP4 0.0.0.0\r\ns=metadata\r\nt=0 0\r\na=control:*\r\n"
    f"m=application 0 RTP/AVP {PAYLOAD_TYPE}\r\na=rtpmap:{PAYLOAD_TYPE} vnd.onvif.metadata/{CLOCK}\r\na=control:track1\r\n"
)


#: What whoever sends sound requires, and what is then described besides.
BACK = "www.onvif.org/ver20/backchannel"
SPEAKER = "m=audio 0 RTP/AVP 0\r\na=rtpmap:0 PCMU/8000\r\na=sendonly\r\na=control:back\r\n"
#: More than this is not kept of what is sent, in bytes: two minutes.
LONGEST_HEARD, RTP_HEAD = 960_000, 12


@dataclass(frozen=True, slots=True)
class Asked:
    """One request."""

    method: str
    address: str
    headers: Mapping[str, str]


class Stream:
    """`frame` writes down what is seen at an instant (ms); `heard` is told what was sent to the speaker (mu-law), where there
    is one."""

    def __init__(
        self,
        device: StandInDevice,
        port: int,
        frame: Callable[[int], str],
        heard: Callable[[bytes], None] | None = None,
    ) -> None:
        self.device, self.port, self.frame, self.heard = device, port, frame, heard

    async def run(self) -> None:
        """Listens until it is cancelled."""
        server = await asyncio.start_server(self._serve, urlsplit(self.device.address).hostname, self.port)
        try:
            await asyncio.Event().wait()
        finally:
            server.close()

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        playing: asyncio.Task[None] | None = None
        session, spoken = f"{random.getrandbits(48):012x}", bytearray()
        # Whoever goes away while something is sent is gone, that is all.
        with contextlib.suppress(ConnectionError):
            async for asked in _requests(reader, spoken):
                await self.device.hang_when_cut_off()
                status, headers, body = self._answer(asked, session)
                writer.write(_written(asked, status, headers, body))
                await writer.drain()
                back = BACK in asked.headers.get("require", "")
                if asked.method == "PLAY" and status == "200 OK" and playing is None and not back:
                    playing = asyncio.create_task(self._play(writer))
                if asked.method == "TEARDOWN":
                    break
        if playing is not None:
            playing.cancel()
        if spoken and self.heard is not None:
            self.heard(bytes(spoken))
        writer.close()

    def _answer(self, asked: Asked, session: str) -> tuple[str, dict[str, str], str]:
        """Status, headers and body."""
        if asked.method == "OPTIONS":
            return "200 OK", {"Public": "OPTIONS, DESCRIBE, SETUP, PLAY, GET_PARAMETER, TEARDOWN"}, ""
        account = self.device.account
        if not account.stream_digest_is_good(asked.headers.get("authorization", ""), asked.method):
            return "401 Unauthorized", {"WWW-Authenticate": account.stream_challenge()}, ""
        if asked.method == "DESCRIBE":
            return (
                "200 OK",
                {"Content-Type": "application/sdp", "Content-Base": f"{asked.address}/"},
                self._described(asked),
            )
        if asked.method == "SETUP":
            wanted = asked.headers.get("transport", "")
            if "TCP" not in wanted:
                return "461 Unsupported transport", {}, ""
            return "200 OK", {"Transport": wanted, "Session": f"{session};timeout={LASTS}"}, ""
        if asked.headers.get("session") != session:
            return "454 Session Not Found", {}, ""
        return "200 OK", {"Session": session}, ""

    def _described(self, asked: Asked) -> str:
        """The back channel is only told to who asks for it."""
        return DESCRIPTION + (SPEAKER if self.heard is not None and BACK in asked.headers.get("require", "") else "")

    async def _play(self, writer: asyncio.StreamWriter) -> None:
        sequence, source = random.getrandbits(16), random.getrandbits(32)
        with contextlib.suppress(ConnectionError):
            while not self.device.stopping.is_set():
                await self.device.hang_when_cut_off()
                now = self.device.now_ms()
                document = (await run_in_threadpool(self.frame, now)).encode()
                for start in range(0, len(document), PACKET):
                    part = document[start : start + PACKET]
                    last = start + PACKET >= len(document)
                    ticks = now * CLOCK // 1000 % (1 << 32)
                    head = struct.pack(">BBHII", 0x80, PAYLOAD_TYPE | (0x80 if last else 0), sequence, ticks, source)
                    writer.write(struct.pack(">BBH", ord("$"), 0, len(head) + len(part)) + head + part)
                    sequence = (sequence + 1) % 65_536
                await writer.drain()
                await asyncio.sleep(EVERY)


async def _requests(reader: asyncio.StreamReader, spoken: bytearray) -> AsyncIterator[Asked]:
    """What is asked, until the other side ends. Packets of the first channel are what is spoken; others, which say how ours
    arrive, are not listened to."""
    with contextlib.suppress(asyncio.IncompleteReadError, asyncio.LimitOverrunError):
        while True:
            first = await reader.readexactly(1)
            if first == b"$":
                frame = await reader.readexactly(3)
                packet = await reader.readexactly(int.from_bytes(frame[1:], "big"))
                if frame[0] == 0 and len(spoken) < LONGEST_HEARD:
                    spoken += packet[RTP_HEAD:]
                continue
            head = (first + await reader.readuntil(b"\r\n\r\n")).decode("latin-1").split("\r\n")
            method, _, rest = head[0].partition(" ")
            pairs = (line.partition(":") for line in head[1:] if line)
            headers = {name.strip().lower(): value.strip() for name, _, value in pairs}
            await reader.readexactly(int(headers.get("content-length", "0")))
            yield Asked(method, rest.split(" ")[0].rstrip("/"), headers)


def _written(asked: Asked, status: str, headers: Mapping[str, str], body: str) -> bytes:
    lines = [f"RTSP/1.0 {status}", f"CSeq: {asked.headers.get('cseq', '0')}"]
    lines += [f"{name}: {value}" for name, value in headers.items()]
    if body:
        lines.append(f"Content-Length: {len(body)}")
    return ("\r\n".join(lines) + "\r\n\r\n" + body).encode()


def frame_of(studio: Studio, place: Camera, device: StandInDevice, at: int) -> str:
    """What the camera's analytics see at an instant: whatever is drawn in its picture."""
    view = VIEWS[studio.world.view(place.id, at)]
    things = []
    for actor in studio.world.present(place.scene, at):
        here, look = actor.at(at), looked_at(view, actor, at - at % 1000, studio.world.seed)
        figure = draw(actor, here, view.lens, ANY_LIGHT, WIDTH, HEIGHT, 0.0) if here and look else None
        if figure is None or look is None:
            continue
        left, top, right, bottom = _normalised(figure.box)
        things.append(
            f'<tt:Object ObjectId="{actor.id}"><tt:Appearance><tt:Shape>'
            f'<tt:BoundingBox left="{left:.4f}" top="{top:.4f}" right="{right:.4f}" bottom="{bottom:.4f}"/>'
            f'<tt:CenterOfGravity x="{(left + right) / 2:.4f}" y="{(top + bottom) / 2:.4f}"/></tt:Shape>'
            f'<tt:Class><tt:Type Likelihood="{look.certain:.3f}">{look.named}</tt:Type></tt:Class>'
            "</tt:Appearance></tt:Object>"
        )
    told = quoteattr(stamp(device.clock()))
    return (
        f'<?xml version="1.0" encoding="UTF-8"?><tt:MetadataStream xmlns:tt="{NAMES["tt"]}"><tt:VideoAnalytics>'
        f"<tt:Frame UtcTime={told}>{''.join(things)}</tt:Frame></tt:VideoAnalytics></tt:MetadataStream>"
    )


def _normalised(box: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
    """From pixels (left, top, right, bottom) to coordinates from -1 to 1, y upwards."""
    left, top, right, bottom = box
    return left / WIDTH * 2 - 1, 1 - top / HEIGHT * 2, right / WIDTH * 2 - 1, 1 - bottom / HEIGHT * 2
