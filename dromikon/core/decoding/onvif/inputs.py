"""Digital inputs and relay outputs."""

from dromikon.core.decoding import Decoded
from dromikon.core.decoding.onvif.topics import Items, state, topic


@topic("tns1:Device/Trigger/DigitalInput", "input.active")
def digital_input(source: Items, data: Items) -> Decoded:
    return Decoded("input.active", f"input/{source['InputToken']}", state(data, "LogicalState"))


@topic("tns1:Device/Trigger/Relay", "output.active")
def relay(source: Items, data: Items) -> Decoded:
    return Decoded("output.active", f"relay/{source['RelayToken']}", state(data, "LogicalState"))
