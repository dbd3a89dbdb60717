"""The metadata stream: packets to documents, documents to frames, and the conversation with devices that do it otherwise."""

import asyncio
import struct
from functools import partial

import pytest
from aiortsp.rtsp import reader as reader_module
from aiortsp.rtsp.reader import RTSPReader
from aiortsp.rtsp.session import RTSPMediaSession
from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.devices.frames import Seen
from dromikon.standins.onvif.soap import Account
from dromikon.standins.run import PASSWORD, USER
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.frames import ENCODING, frames, frames_in
from dromikon.wire.onvif.soap import DeviceError
from dromikon.wire.rtp import LONGEST, Assembly, NoPacket
from dromikon.wire.rtsp import documents, medium_of

TT = 'xmlns:tt="http://www.onvif.org/ver10/schema"'


def packet(sequence, payload, last=False, first=0x80, head=b""):
    return struct.pack(">BBHII", first, 107 | (0x80 if last else 0), sequence % 65_536, 0, 7) + head + payload


class TestPackets:
    @given(
        st.lists(st.binary(min_size=1, max_size=60), min_size=1, max_size=6),
        st.integers(1, 20),
        st.integers(0, 65_535),
    )
    def test_documents_come_whole_however_they_are_cut_up(self, whole, size, sequence):
        assembly, found = Assembly(), []
        for document in whole:
            for start in range(0, len(document), size):
                made = assembly.take(packet(sequence, document[start : start + size], start + size >= len(document)))
                sequence += 1
                found += [made] if made else []
        assert found == whole

    def test_a_document_with_a_gap_is_left_out_and_the_next_one_is_not(self):
        assembly = Assembly()
        assert assembly.take(packet(1, b"<a")) is None
        assert assembly.take(packet(3, b"/>", last=True)) is None
        assert assembly.take(packet(4, b"<b/>", last=True)) == b"<b/>"

    def test_a_document_without_end_takes_no_memory(self):
        assembly = Assembly()
        for k in range(3 * LONGEST // 60_000):
            assert assembly.take(packet(k, b"x" * 60_000)) is None
        assert len(assembly._parts) <= LONGEST

    def test_contributors_extension_and_padding_are_not_payload(self):
        made = packet(9, b"<a/>\0\0\3", True, 0x80 | 0x20 | 0x10 | 1, b"\0\0\0\5" + b"\xbe\xde\0\1" + b"abcd")
        assert Assembly().take(made) == b"<a/>"

    @pytest.mark.parametrize("bad", [b"", b"\x80\x6b", packet(1, b"x", first=0x40), packet(1, b"\xff", first=0xA0), packet(1, b"", first=0x90)])  # fmt: skip
    def test_what_is_no_packet_is_said(self, bad):
        with pytest.raises(NoPacket):
            Assembly().take(bad)


class TestFrames:
    def test_boxes_are_moved_and_scaled_and_the_likeliest_class_counts(self):
        document = f"""<tt:MetadataStream {TT}><tt:VideoAnalytics>
          <tt:Frame UtcTime="2026-11-20T10:15:00.250Z">
            <tt:Transformation><tt:Translate x="-1.0" y="1.0"/><tt:Scale x="0.002" y="-0.004"/></tt:Transformation>
            <tt:Object ObjectId="12"><tt:Appearance><tt:Shape><tt:BoundingBox left="100" top="50" right="300" bottom="450"/>
              </tt:Shape><tt:Class><tt:Type Likelihood="0.3">Animal</tt:Type><tt:Type Likelihood="0.8">Human</tt:Type></tt:Class>
            </tt:Appearance></tt:Object>
            <tt:Object ObjectId="13"><tt:Appearance><tt:Shape><tt:BoundingBox left="0" top="0" right="x" bottom="1"/></tt:Shape>
            </tt:Appearance></tt:Object>
            <tt:Object ObjectId="14"/>
          </tt:Frame><tt:Frame UtcTime="no time"/></tt:VideoAnalytics></tt:MetadataStream>"""
        (frame,) = frames_in(document.encode())
        assert frame.at == 1_795_169_700_250
        (seen,) = frame.seen
        assert (seen.object, seen.kind, seen.likelihood) == ("12", "Human", 0.8)
        assert seen.box == pytest.approx((-0.8, 0.8, -0.4, -0.8))

    def test_classes_as_the_standard_had_them(self):
        document = f"""<tt:MetadataStream {TT}><tt:VideoAnalytics><tt:Frame UtcTime="2026-11-20T10:15:00Z"><tt:Object ObjectId="1">
          <tt:Appearance><tt:Shape><tt:BoundingBox left="-0.5" top="0.5" right="0" bottom="0"/></tt:Shape><tt:Class>
          <tt:ClassCandidate><tt:Type>Vehicle</tt:Type><tt:Likelihood>0.9</tt:Likelihood></tt:ClassCandidate></tt:Class>
          </tt:Appearance></tt:Object></tt:Frame></tt:VideoAnalytics></tt:MetadataStream>"""
        assert next(iter(frames_in(document.encode()))).seen == (Seen("1", "Vehicle", 0.9, (-0.5, 0.5, 0.0, 0.0)),)

    def test_a_bomb_is_refused(self):
        with pytest.raises(DeviceError):
            list(frames_in(b'<!DOCTYPE a [<!ENTITY b "b">]><a>&b;</a>'))


def test_the_medium_with_metadata_is_found_among_others():
    described = (
        "v=0\r\nm=video 0 RTP/AVP 96\r\na=rtpmap:96 H264/90000\r\na=control:video\r\n"
        "m=application 0 RTP/AVP 107\r\na=control:meta?x=1\r\na=rtpmap:107 VND.ONVIF.METADATA/90000\r\n"
    )
    assert medium_of(described, ENCODING).control == "meta?x=1"
    assert medium_of(described.replace("METADATA", "OTHER"), ENCODING) is None


def stream_of(standins, camera):
    return f"rtsp://127.0.0.1:{standins[f'{camera} stream'].rsplit(':', 1)[1]}/metadata"


class MetadataReader(RTSPReader):
    """The package's reader plays pictures, whatever it is told."""

    def on_ready(self, connection, transport, session):
        super().on_ready(connection, transport, session)
        self.payload_type = session.sdp.media_payload_type("application")


async def test_a_client_that_is_not_ours_receives_the_stand_ins_stream(standins, monkeypatch):
    monkeypatch.setattr(reader_module, "RTSPMediaSession", partial(RTSPMediaSession, media_type="application"))
    address = stream_of(standins, "yard").replace("rtsp://", f"rtspt://{USER}:{PASSWORD}@")
    got = b""
    async with asyncio.timeout(20), MetadataReader(address, timeout=10) as reader:
        async for rtp in reader.iter_packets():
            got += rtp.data
            if rtp.m:
                break
    assert b"MetadataStream" in got and list(frames_in(got))


async def test_what_a_camera_sees_comes_frame_by_frame(standins):
    device = OnvifDevice(f"{standins['yard']}/onvif/device_service", USER, PASSWORD)
    try:
        await device.measure_clock()
        await device.discover_services()
        async with asyncio.timeout(20):
            times = []
            async for frame in frames(device, "vs0"):
                times.append(frame.at)
                if len(times) == 4:
                    break
    finally:
        await device.close()
    assert times == sorted(times) and 300 <= times[-1] - times[0] < 5_000


async def test_a_wrong_password_is_told(standins):
    with pytest.raises(DeviceError) as told:
        await anext(aiter(documents(stream_of(standins, "yard"), USER, "wrong", ENCODING)))
    assert told.value.reason == "refused"


SDP = "v=0\r\nm=application 0 RTP/AVP 107\r\na=rtpmap:107 vnd.onvif.metadata/90000\r\na=control:track\r\n"
OK = "RTSP/1.0 200 OK\r\nCSeq: 1\r\n"


@pytest.fixture
async def rtsp():
    """`rtsp(answers…)`: a server that answers each request with the next of them, and keeps what it was asked."""
    servers = []

    async def start(*answers):
        asked = []

        async def serve(reader, writer):
            for said in answers:
                asked.append((await reader.readuntil(b"\r\n\r\n")).decode())
                writer.write(said if isinstance(said, bytes) else said.encode())
            await writer.drain()
            await reader.read()
            writer.close()

        server = await asyncio.start_server(serve, "127.0.0.1", 0)
        servers.append(server)
        return f"rtsp://127.0.0.1:{server.sockets[0].getsockname()[1]}/stream", asked

    yield start
    for server in servers:
        server.close()


def described(more=""):
    return f"{OK}{more}Content-Length: {len(SDP)}\r\n\r\n{SDP}"


async def test_addresses_that_the_device_tells_are_brought_to_its_host_and_a_digest_of_old_is_answered(rtsp):
    whole = packet(1, b"<a/>", last=True)
    address, asked = await rtsp(
        'RTSP/1.0 401 Unauthorized\r\nCSeq: 1\r\nWWW-Authenticate: Digest realm="r", nonce="n"\r\n\r\n',
        described("Content-Base: rtsp://192.0.2.9:554/inner/\r\n"),
        f"{OK}Session: 77;timeout=30\r\n\r\n",
        f"{OK}\r\n".encode() + b"$\x01\x00\x02xx" + b"$\x00" + struct.pack(">H", len(whole)) + whole,
    )
    assert await anext(aiter(documents(address, "u", "p", ENCODING))) == b"<a/>"
    host = address.removesuffix("/stream")
    assert asked[1].startswith("DESCRIBE") and 'response="' in asked[1] and "qop" not in asked[1]
    assert asked[2].startswith(f"SETUP {host}/inner/track RTSP/1.0") and "interleaved=0-1" in asked[2]
    assert asked[3].startswith(f"PLAY {host}/inner/ RTSP/1.0") and "Session: 77" in asked[3]


async def test_a_digest_as_it_is_now_is_answered(rtsp):
    account = Account("u", "p")
    address, asked = await rtsp(
        f"RTSP/1.0 401 Unauthorized\r\nCSeq: 1\r\nWWW-Authenticate: {account.challenge()}\r\n\r\n", f"{OK}\r\n"
    )
    with pytest.raises(DeviceError):
        await anext(aiter(documents(address, "u", "p", ENCODING)))
    answered = asked[1].split("Authorization: ")[1].split("\r\n")[0]
    assert account.digest_is_good(answered, "DESCRIBE")


@pytest.mark.parametrize(
    ("answers", "reason"),
    [
        (("RTSP/1.0 404 Not Found\r\n\r\n",), "fault"),
        (('RTSP/1.0 401 No\r\nWWW-Authenticate: Basic realm="r"\r\n\r\n',), "refused"),
        (("HTTP/1.1 200 OK\r\n\r\n",), "malformed"),
        ((f"{OK}Content-Length: 99999999\r\n\r\n",), "oversized"),
        (("x" * 20_000,), "oversized"),
        ((f"{OK}\r\n",), "fault"),
        ((described(), f"{OK}Session: 1\r\n\r\n", f"{OK}\r\n".encode() + b"$\0\0\1x"), "malformed"),
    ],
)
async def test_what_a_stream_does_wrong_has_a_reason(rtsp, answers, reason):
    address, _ = await rtsp(*answers)
    with pytest.raises(DeviceError) as told:
        await anext(aiter(documents(address, "u", "p", ENCODING)))
    assert told.value.reason == reason


async def test_only_what_is_allowed_is_called(rtsp, monkeypatch):
    address, _ = await rtsp()
    monkeypatch.setenv("DROMIKON_OUTGOING", "")
    with pytest.raises(DeviceError) as told:
        await anext(aiter(documents(address, "u", "p", ENCODING)))
    assert told.value.reason == "not_allowed"
