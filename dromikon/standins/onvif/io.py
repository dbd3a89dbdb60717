"""Device input and output: the digital inputs."""

from collections.abc import Mapping, Sequence
from xml.sax.saxutils import quoteattr

from dromikon.standins.onvif.device import Handler, Service, StandInDevice
from dromikon.standins.onvif.soap import Request


class InputOutput(Service):
    """`inputs`: tokens of the digital inputs."""

    prefix, path = "tmd", "deviceio"

    def __init__(self, device: StandInDevice, inputs: Sequence[str] = ()) -> None:
        super().__init__(device)
        self.inputs = inputs

    def operations(self) -> Mapping[str, Handler]:
        return {"GetDigitalInputs": self._inputs}

    def _inputs(self, asked: Request) -> str:
        inner = "".join(f'<tmd:DigitalInputs token={quoteattr(token)} IdleState="open"/>' for token in self.inputs)
        return f"<tmd:GetDigitalInputsResponse>{inner}</tmd:GetDigitalInputsResponse>"
