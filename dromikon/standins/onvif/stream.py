"""A camera's stream: RTSP 1.0 (RFC 2326) with its packets interleaved, RTP after RFC 3550; what the analytics see as tt:Frame
(ONVIF Analytics Service specification), its picture (H.264), and what is heard (G.711)."""

import asyncio
import contextlib
import random
import re
import struct
from collections.abc import AsyncIterator, Callable, Mapping
from dataclasses import dataclass, field
from urllib.parse import urlsplit

from PIL import Image
from starlette.concurrency import run_in_threadpool

from dromikon.core.sound import to_mu_law
from dromikon.standins.onvif import video
from dromikon.standins.onvif.device import StandInDevice
from dromikon.standins.picture.compose import HEIGHT, WIDTH
from dromikon.standins.world.hearing import BLOCK, block
from dromikon.standins.world.scenes import Camera
from dromikon.standins.world.world import World

#: Seconds between two frames, and how many ticks of RTP's clock a second has.
EVERY, CLOCK = 0.2, 90_000
PAYLOAD_TYPE, PACKET = 107, 1400
#: A session ends so many seconds after it was last heard of.
LASTS = 60
HEAD = "v=0\r\no=- 0 0 IN IP4 0.0.0.0\r\ns=metadata\r\nt=0 0\r\na=control:*\r\n"
METADATA = (
    f"m=application 0 RTP/AVP {PAYLOAD_TYPE}\r\na=rtpmap:{PAYLOAD_TYPE} vnd.onvif.metadata/{CLOCK}\r\n"
    "a=recvonly\r\na=control:track1\r\n"
)
MICROPHONE = "m=audio 0 RTP/AVP 0\r\na=rtpmap:0 PCMU/8000\r\na=recvonly\r\na=control:sound\r\n"
#: What whoever sends sound requires, and what is then described besides.
BACK = "www.onvif.org/ver20/backchannel"
SPEAKER = "m=audio 0 RTP/AVP 0\r\na=rtpmap:0 PCMU/8000\r\na=sendonly\r\na=control:back\r\n"
CONTROLS = ("track1", "video", "sound", "back")
#: More than this is not kept of what is sent, in bytes: two minutes.
LONGEST_HEARD, RTP_HEAD = 960_000, 12
#: What is heard may be so many blocks behind before some are left out.
BEHIND = 10


@dataclass(frozen=True, slots=True)
class Asked:
    """One request."""

    method: str
    address: str
    headers: Mapping[str, str]


@dataclass
class Session:
    """What one client has asked for: by the control of each medium, on which channel its packets go."""

    writer: asyncio.StreamWriter
    name: str = field(default_factory=lambda: f"{random.getrandbits(48):012x}")
    media: dict[str, int] = field(default_factory=dict)
    spoken: bytearray = field(default_factory=bytearray)
    playing: list[asyncio.Task[None]] = field(default_factory=list)

    def set_up(self, asked: Asked) -> str:
        """Have a medium sent; whoever asks for the whole has what is seen. Returns the transport."""
        wanted = asked.headers["transport"]
        told = re.search(r"interleaved=(\d+)", wanted)
        medium = asked.address.rsplit("/", 1)[-1]
        self.media[medium if medium in CONTROLS else CONTROLS[0]] = int(told[1]) if told else 2 * len(self.media)
        return wanted

    def send(self, medium: str, packet: bytes) -> None:
        self.writer.write(struct.pack(">BBH", ord("$"), self.media[medium], len(packet)) + packet)


class Stream:
    """`frame` writes down what is seen at an instant (ms); `picture` draws it; `sound` has the mu-law samples of a block, where there is a
    microphone; `heard` is told what was sent to the speaker (mu-law), where there is one."""

    def __init__(
        self, device: StandInDevice, port: int, frame: Callable[[int], str], picture: Callable[[int], Image.Image],
        sound: Callable[[int], bytes] | None = None, heard: Callable[[bytes], None] | None = None,
    ) -> None:  # fmt: skip
        self.device, self.port, self.frame, self.picture = device, port, frame, picture
        self.sound, self.heard = sound, heard

    async def run(self) -> None:
        """Listens until it is cancelled."""
        server = await asyncio.start_server(self._serve, urlsplit(self.device.address).hostname, self.port)
        try:
            await asyncio.Event().wait()
        finally:
            server.close()

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        session = Session(writer)
        # Whoever goes away while something is sent is gone, that is all; and so are we at the end.
        with contextlib.suppress(ConnectionError, asyncio.CancelledError):
            async for asked in _requests(reader, session.spoken):
                await self.device.hang_when_cut_off()
                status, headers, body = self._answer(asked, session)
                writer.write(_written(asked, status, headers, body))
                await writer.drain()
                if asked.method == "PLAY" and status == "200 OK" and not session.playing:
                    self._begin(session)
                if asked.method == "TEARDOWN":
                    break
        for task in session.playing:
            task.cancel()
        if session.spoken and self.heard is not None:
            self.heard(bytes(session.spoken))
        writer.close()

    def _begin(self, session: Session) -> None:
        players = {"track1": self._play_metadata, "sound": self._play_sound, "video": self._play_video}
        session.playing += [asyncio.create_task(players[m](session)) for m in session.media if m in players]

    def _answer(self, asked: Asked, session: Session) -> tuple[str, dict[str, str], str]:
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
            if "TCP" not in asked.headers.get("transport", ""):
                return "461 Unsupported transport", {}, ""
            return "200 OK", {"Transport": session.set_up(asked), "Session": f"{session.name};timeout={LASTS}"}, ""
        if asked.headers.get("session") != session.name:
            return "454 Session Not Found", {}, ""
        return "200 OK", {"Session": session.name}, ""

    def _described(self, asked: Asked) -> str:
        """The back channel is only told to who asks for it."""
        back = self.heard is not None and BACK in asked.headers.get("require", "")
        return HEAD + METADATA + video.DESCRIBED + (MICROPHONE if self.sound else "") + (SPEAKER if back else "")

    async def _play_metadata(self, session: Session) -> None:
        sequence, source = random.getrandbits(16), random.getrandbits(32)
        with contextlib.suppress(ConnectionError):
            while not self.device.stopping.is_set():
                await self.device.hang_when_cut_off()
                now = self.device.now_ms()
                document = (await run_in_threadpool(self.frame, now)).encode()
                for start in range(0, len(document), PACKET):
                    part = document[start : start + PACKET]
                    last = start + PACKET >= len(document)
                    ticks = now * CLOCK // 1000
                    session.send("track1", _packet(PAYLOAD_TYPE, sequence, ticks, source, part, last))
                    sequence += 1
                await session.writer.drain()
                await asyncio.sleep(EVERY)

    async def _play_video(self, session: Session) -> None:
        """Picture after picture; drawing and encoding take their time elsewhere."""
        sequence, source, encoder = random.getrandbits(16), random.getrandbits(32), video.Encoder(WIDTH, HEIGHT)
        with contextlib.suppress(ConnectionError):
            while not self.device.stopping.is_set():
                await self.device.hang_when_cut_off()
                now = self.device.now_ms()
                picture = await run_in_threadpool(self.picture, now)
                for payload, last in video.payloads(await run_in_threadpool(encoder.units, picture)):
                    ticks = now * video.CLOCK // 1000
                    session.send("video", _packet(video.PAYLOAD, sequence, ticks, source, payload, last))
                    sequence += 1
                await session.writer.drain()
                await asyncio.sleep(max(0.0, 1 / video.RATE - (self.device.now_ms() - now) / 1000))

    async def _play_sound(self, session: Session) -> None:
        """Block after block, each when it is over; who was held up leaves out what is long past."""
        source, number = random.getrandbits(32), self.device.now_ms() // BLOCK
        first = number
        with contextlib.suppress(ConnectionError):
            while self.sound is not None and not self.device.stopping.is_set():
                await self.device.hang_when_cut_off()
                number = max(number, self.device.now_ms() // BLOCK - BEHIND)
                await asyncio.sleep(max(0, (number + 1) * BLOCK - self.device.now_ms()) / 1000)
                samples = await run_in_threadpool(self.sound, number)
                session.send("sound", _packet(0, number - first, (number - first) * len(samples), source, samples))
                await session.writer.drain()
                number += 1


def _packet(kind: int, sequence: int, ticks: int, source: int, payload: bytes, marked: bool = False) -> bytes:
    """RFC 3550, 5.1."""
    first = kind | (0x80 if marked else 0)
    return struct.pack(">BBHII", 0x80, first, sequence % (1 << 16), ticks % (1 << 32), source) + payload


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


def sound_of(world: World, place: Camera, number: int) -> bytes:
    """What the camera's microphone hears in a block."""
    return to_mu_law(block(world, place, number))
