"""Senders that send nothing of themselves: we go to them, so that their address is what they are known by."""

from typing import ClassVar, Literal

from dromikon.core.proofs.elsewhere import Elsewhere
from dromikon.core.words import N_


class _Fetched(Elsewhere):
    compared: ClassVar[bool] = False
    way: ClassVar[Literal["http", "trap", "fetched"]] = "fetched"


class Broker(_Fetched):
    """Topics of an MQTT broker (MQTT 3.1.1)."""

    name: ClassVar[str] = "mqtt"
    label: ClassVar[str] = N_("its address: a broker at which we subscribe (MQTT)")
    reads: ClassVar[str] = N_("JSON, XML, words and numbers of topics")
    answers: ClassVar[str] = N_("The broker hears that a message has arrived once it is kept.")


class Polled(_Fetched):
    """Registers and inputs of a device that is asked (Modbus Application Protocol 1.1b3 over TCP)."""

    name: ClassVar[str] = "modbus"
    label: ClassVar[str] = N_("its address: a device that we ask (Modbus/TCP)")
    taught: ClassVar[bool] = False
    reads: ClassVar[str] = N_("registers and inputs")
    answers: ClassVar[str] = ""
