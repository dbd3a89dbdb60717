"""The object metadata stream of a channel, frame by frame (ONVIF Streaming and Analytics Service specifications)."""

from collections.abc import AsyncGenerator, Iterator, Sequence
from contextlib import aclosing

from lxml import etree

from dromikon.core.devices.frames import SceneFrame, Seen
from dromikon.core.instants import Instant, parse
from dromikon.wire.onvif.client import OnvifDevice, Profile
from dromikon.wire.onvif.namespaces import TRT, TT
from dromikon.wire.onvif.soap import DeviceError, parse_xml
from dromikon.wire.rtsp import documents

ENCODING = "vnd.onvif.metadata"


async def frames(device: OnvifDevice, channel: str) -> AsyncGenerator[SceneFrame]:
    """What the analytics of a channel (a video source's token) see, as it comes. Raises DeviceError."""
    address = await stream_address(device, await device.profiles(), channel)
    async with aclosing(documents(address, device.soap.user, device.soap.password, ENCODING)) as stream:
        async for document in stream:
            for frame in frames_in(document):
                yield frame


async def stream_address(device: OnvifDevice, profiles: Sequence[Profile], channel: str) -> str:
    """Where the stream is that carries the metadata of a channel. Raises DeviceError when none does."""
    profile = next((p for p in profiles if p.metadata and channel in (p.source, "")), None)
    if profile is None:
        raise DeviceError("fault", "No profile of the device carries what its analytics see. Add metadata to one.")
    return await uri_of(device, profile.token)


async def uri_of(device: OnvifDevice, profile: str) -> str:
    """Where a profile is streamed by RTSP. Raises DeviceError."""
    setup = etree.Element(f"{{{TRT}}}StreamSetup")
    etree.SubElement(setup, f"{{{TT}}}Stream").text = "RTP-Unicast"
    transport = etree.SubElement(setup, f"{{{TT}}}Transport")
    etree.SubElement(transport, f"{{{TT}}}Protocol").text = "RTSP"
    answer = await device.ask(TRT, "GetStreamUri", StreamSetup=setup, ProfileToken=profile)
    told = (answer.findtext(f".//{{{TT}}}Uri") or "").strip()
    if not told:
        raise DeviceError("malformed", "The device does not say where its stream is.")
    return device.at_its_host(told)


def frames_in(document: bytes) -> Iterator[SceneFrame]:
    """The frames of one document of the stream; a frame that tells no time is left out. Raises DeviceError."""
    for frame in parse_xml(document).iter(f"{{{TT}}}Frame"):
        at = _instant(frame.get("UtcTime", ""))
        if at is not None:
            move, scale = _transformation(frame)
            things = (_seen(thing, move, scale) for thing in frame.findall(f"{{{TT}}}Object"))
            yield SceneFrame(at, tuple(thing for thing in things if thing is not None))


def _instant(text: str) -> Instant | None:
    try:
        return parse(text)
    except ValueError:
        return None


def _transformation(frame: etree._Element) -> tuple[tuple[float, float], tuple[float, float]]:
    """How coordinates become normalised ones: scaled, then moved."""
    found = frame.find(f"{{{TT}}}Transformation")
    if found is None:
        return (0.0, 0.0), (1.0, 1.0)
    return _pair(found.find(f"{{{TT}}}Translate"), 0.0), _pair(found.find(f"{{{TT}}}Scale"), 1.0)


def _pair(element: etree._Element | None, otherwise: float) -> tuple[float, float]:
    if element is None:
        return otherwise, otherwise
    return _number(element.get("x"), otherwise), _number(element.get("y"), otherwise)


def _number(text: str | None, otherwise: float) -> float:
    try:
        return float(text or "")
    except ValueError:
        return otherwise


def _seen(thing: etree._Element, move: tuple[float, float], scale: tuple[float, float]) -> Seen | None:
    """A thing with its place; None for one that has none, such as one that is gone."""
    box = thing.find(f"{{{TT}}}Appearance/{{{TT}}}Shape/{{{TT}}}BoundingBox")
    if box is None:
        return None
    try:
        left, top, right, bottom = (float(box.get(side, "")) for side in ("left", "top", "right", "bottom"))
    except ValueError:
        return None
    kind, likelihood = _likeliest(thing)
    (x, y), (wide, tall) = move, scale
    place = (left * wide + x, top * tall + y, right * wide + x, bottom * tall + y)
    return Seen(thing.get("ObjectId", ""), kind, likelihood, place)


def _likeliest(thing: etree._Element) -> tuple[str, float | None]:
    """The likeliest class, as the standard has it now (tt:Type with a likelihood) or had it (tt:ClassCandidate)."""
    found: list[tuple[float, str]] = []
    told = thing.find(f"{{{TT}}}Appearance/{{{TT}}}Class")
    if told is not None:
        found += [(_number(t.get("Likelihood"), 0.0), (t.text or "").strip()) for t in told.findall(f"{{{TT}}}Type")]
        found += [
            (_number(c.findtext(f"{{{TT}}}Likelihood"), 0.0), (c.findtext(f"{{{TT}}}Type") or "").strip())
            for c in told.findall(f"{{{TT}}}ClassCandidate")
        ]
    if not found:
        return "", None
    likelihood, kind = max(found)
    return kind, likelihood or None
