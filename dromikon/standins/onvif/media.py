"""Media: one channel with one profile, and its snapshot."""

from collections.abc import Callable, Mapping

from starlette.concurrency import run_in_threadpool
from starlette.requests import Request as HttpRequest
from starlette.responses import Response
from starlette.routing import BaseRoute, Route

from dromikon.standins.onvif.device import Handler, Service, StandInDevice
from dromikon.standins.onvif.soap import Fault, Request
from dromikon.standins.picture.compose import HEIGHT, WIDTH
from dromikon.standins.world.scenes import Camera

MULTICAST = (
    "<tt:Multicast><tt:Address><tt:Type>IPv4</tt:Type><tt:IPv4Address>0.0.0.0</tt:IPv4Address></tt:Address>"
    "<tt:Port>0</tt:Port><tt:TTL>0</tt:TTL><tt:AutoStart>false</tt:AutoStart></tt:Multicast>"
    "<tt:SessionTimeout>PT60S</tt:SessionTimeout>"
)
METADATA = (
    '<tt:MetadataConfiguration token="metadata"><tt:Name>metadata</tt:Name><tt:UseCount>1</tt:UseCount>'
    f"<tt:Analytics>true</tt:Analytics>{MULTICAST}</tt:MetadataConfiguration>"
)
AUDIO_SOURCE = (
    '<tt:AudioSourceConfiguration token="asc0"><tt:Name>microphone</tt:Name><tt:UseCount>1</tt:UseCount>'
    "<tt:SourceToken>as0</tt:SourceToken></tt:AudioSourceConfiguration>"
)
AUDIO = (
    '<tt:AudioEncoderConfiguration token="aec0"><tt:Name>sound</tt:Name><tt:UseCount>1</tt:UseCount>'
    "<tt:Encoding>G711</tt:Encoding><tt:Bitrate>64</tt:Bitrate><tt:SampleRate>8</tt:SampleRate>"
    f"{MULTICAST}</tt:AudioEncoderConfiguration>"
)
MOVEMENT = (
    '<tt:PTZConfiguration token="ptz0"><tt:Name>ptz</tt:Name><tt:UseCount>1</tt:UseCount><tt:NodeToken>node0</tt:NodeToken>'
    "</tt:PTZConfiguration>"
)


class Media(Service):
    """`draw` makes the picture of a moment as JPEG; `stream` is where its metadata and sound are streamed, if they are."""

    prefix, path = "trt", "media"

    def __init__(self, device: StandInDevice, place: Camera, draw: Callable[[int], bytes], stream: str = "") -> None:
        super().__init__(device)
        self.place, self.draw, self.stream = place, draw, stream

    def operations(self) -> Mapping[str, Handler]:
        return {
            "GetVideoSources": self._sources,
            "GetProfiles": self._profiles,
            "GetSnapshotUri": self._snapshot_uri,
            "GetStreamUri": self._stream_uri,
        }

    def routes(self) -> list[BaseRoute]:
        return [Route("/onvif/snapshot", self._snapshot)]

    def _sources(self, asked: Request) -> str:
        return (
            '<trt:GetVideoSourcesResponse><trt:VideoSources token="vs0"><tt:Framerate>8</tt:Framerate><tt:Resolution>'
            f"<tt:Width>{WIDTH}</tt:Width><tt:Height>{HEIGHT}</tt:Height></tt:Resolution></trt:VideoSources>"
            "</trt:GetVideoSourcesResponse>"
        )

    def _profiles(self, asked: Request) -> str:
        hears = bool(self.stream) and self.place.hears
        return (
            '<trt:GetProfilesResponse><trt:Profiles token="main" fixed="true"><tt:Name>main</tt:Name>'
            '<tt:VideoSourceConfiguration token="vsc0"><tt:Name>view</tt:Name><tt:UseCount>1</tt:UseCount><tt:SourceToken>vs0</tt:SourceToken>'
            f'<tt:Bounds x="0" y="0" width="{WIDTH}" height="{HEIGHT}"/></tt:VideoSourceConfiguration>'
            f"{AUDIO_SOURCE if hears else ''}{AUDIO if hears else ''}"
            '<tt:VideoAnalyticsConfiguration token="analytics"><tt:Name>analytics</tt:Name><tt:UseCount>1</tt:UseCount>'
            "<tt:AnalyticsEngineConfiguration/><tt:RuleEngineConfiguration/></tt:VideoAnalyticsConfiguration>"
            f"{MOVEMENT if self.place.presets else ''}{METADATA if self.stream else ''}"
            "</trt:Profiles></trt:GetProfilesResponse>"
        )

    def _snapshot_uri(self, asked: Request) -> str:
        if asked.text("ProfileToken") != "main":
            raise Fault("ter:NoProfile", "There is no such profile.")
        return (
            f"<trt:GetSnapshotUriResponse><trt:MediaUri><tt:Uri>{self.device.address}/onvif/snapshot</tt:Uri>"
            "<tt:InvalidAfterConnect>false</tt:InvalidAfterConnect><tt:InvalidAfterReboot>false</tt:InvalidAfterReboot>"
            "<tt:Timeout>PT0S</tt:Timeout></trt:MediaUri></trt:GetSnapshotUriResponse>"
        )

    def _stream_uri(self, asked: Request) -> str:
        if asked.text("ProfileToken") != "main" or not self.stream:
            raise Fault("ter:NoProfile", "There is no such profile, or it is not streamed.")
        if asked.text("Protocol") != "RTSP":
            raise Fault("ter:InvalidStreamSetup", "It is streamed by RTSP.")
        return (
            f"<trt:GetStreamUriResponse><trt:MediaUri><tt:Uri>{self.stream}</tt:Uri>"
            "<tt:InvalidAfterConnect>false</tt:InvalidAfterConnect><tt:InvalidAfterReboot>false</tt:InvalidAfterReboot>"
            "<tt:Timeout>PT0S</tt:Timeout></trt:MediaUri></trt:GetStreamUriResponse>"
        )

    async def _snapshot(self, request: HttpRequest) -> Response:
        await self.device.hang_when_cut_off()
        account = self.device.account
        if not account.digest_is_good(request.headers.get("authorization", ""), "GET"):
            return Response("", 401, {"WWW-Authenticate": account.challenge()})
        picture = await run_in_threadpool(self.draw, self.device.now_ms())
        return Response(picture, media_type="image/jpeg")
