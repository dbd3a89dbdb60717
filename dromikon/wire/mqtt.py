"""A subscription at an MQTT broker (MQTT 3.1.1): what comes is acknowledged by whoever took it, not before. The client is a
library's, in a thread of its own; its connections go through the gate, to the address that was decided on."""

import contextlib
import socket
import ssl
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import paho.mqtt.client as paho
from paho.mqtt.enums import CallbackAPIVersion

from dromikon.wire.outgoing import NotAllowed, resolve_now

#: How long a connection may take, how often it is made sure of, and the pauses between attempts, in seconds.
PATIENCE, KEEPALIVE, SHORTEST_PAUSE, LONGEST_PAUSE = 5.0, 30, 1, 30
AT_LEAST_ONCE = 1


@dataclass(frozen=True, slots=True)
class Broker:
    """Where a broker is, and who we are there. A name that stays the same lets it keep what comes while we are away."""

    host: str
    port: int
    name: str
    tls: bool = False
    user: str = ""
    password: str = field(default="", repr=False)


@dataclass(frozen=True, slots=True)
class Arrived:
    """A message. `done` acknowledges it; one that is not acknowledged comes again after the next connection."""

    topic: str
    payload: bytes
    retained: bool
    done: Callable[[], None]


class _Gated(paho.Client):
    """The library's client, which connects only where the gate lets it."""

    trouble: str = ""

    def _create_socket_connection(self) -> socket.socket:
        try:
            address = resolve_now(self._host, self._port)
            return socket.create_connection((address, self._port), timeout=PATIENCE)
        except NotAllowed as error:
            self.trouble = str(error)
            raise ConnectionRefusedError(self.trouble) from error
        except OSError as error:
            self.trouble = str(error)
            raise

    def _ssl_wrap_socket(self, tcp_sock: socket.socket) -> ssl.SSLSocket:
        try:
            return super()._ssl_wrap_socket(tcp_sock)
        except OSError as error:
            self.trouble = f"No secure connection: {error}"
            raise


class Subscription:
    """Begins with `start` and goes on until `stop`, through every loss of the connection. `arrived` and `stands` are called in
    the client's thread; `stands` with how it is (online or lost), and why."""

    def __init__(
        self, broker: Broker, topics: Sequence[str], arrived: Callable[[Arrived], None],
        stands: Callable[[str, str], None],
    ) -> None:  # fmt: skip
        self._topics, self._arrived, self._stands = list(topics), arrived, stands
        self._client = client = _Gated(
            CallbackAPIVersion.VERSION2, broker.name, clean_session=False, manual_ack=True, reconnect_on_failure=True
        )
        client.user_data_set(self)
        if broker.user:
            client.username_pw_set(broker.user, broker.password)
        if broker.tls:
            client.tls_set_context(ssl.create_default_context())
        client.reconnect_delay_set(SHORTEST_PAUSE, LONGEST_PAUSE)
        client.on_connect, client.on_disconnect = self._connected, self._disconnected
        client.on_connect_fail, client.on_message, client.on_subscribe = self._failed, self._message, self._subscribed
        client.connect_async(broker.host, broker.port, KEEPALIVE)

    def start(self) -> None:
        self._client.loop_start()

    def stop(self, forget: bool = False) -> None:
        """Leave the broker, which keeps what comes until we are back, or is told that nobody waits for it (`forget`)."""
        with contextlib.suppress(OSError, ValueError):
            if forget and self._client.is_connected():
                self._client.unsubscribe(self._topics)
            self._client.disconnect()
        self._client.loop_stop()

    def _connected(self, client: paho.Client, _: Any, flags: Any, reason: Any, properties: Any) -> None:
        if reason.is_failure:
            self._stands("lost", f"The broker refuses: {reason}.")
            return
        client.subscribe([(topic, AT_LEAST_ONCE) for topic in self._topics])

    def _subscribed(self, client: paho.Client, _: Any, number: int, reasons: Any, properties: Any) -> None:
        refused = [topic for topic, reason in zip(self._topics, reasons, strict=False) if reason.is_failure]
        if refused:
            self._stands("lost", f"The broker refuses the topic {refused[0]}.")
        else:
            self._stands("online", "")

    def _failed(self, client: paho.Client, _: Any) -> None:
        self._stands("lost", self._client.trouble or "The broker does not answer.")

    def _disconnected(self, client: paho.Client, _: Any, flags: Any, reason: Any, properties: Any) -> None:
        if reason.is_failure:
            self._stands("lost", f"The connection was lost: {reason}.")

    def _message(self, client: paho.Client, _: Any, said: paho.MQTTMessage) -> None:
        number, quality = said.mid, said.qos
        if not any(paho.topic_matches_sub(wanted, said.topic) for wanted in self._topics):
            # Of a topic that was wanted once, and could not be given up while the broker was away.
            client.ack(number, quality)
            return

        def done() -> None:
            client.ack(number, quality)

        self._arrived(Arrived(said.topic, bytes(said.payload), said.retain, done))
