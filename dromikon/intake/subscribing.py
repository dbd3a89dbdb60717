"""Fetching from an MQTT broker: a message is acknowledged once it is kept. While it cannot be kept it is tried again, and the broker
has it, too; no more come than a broker sends without hearing of them."""

import json
import logging
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future
from urllib.parse import urlsplit

from dromikon import secrets
from dromikon.clock import now_ms
from dromikon.core.proofs import ACCEPTED
from dromikon.intake.counting import Flows
from dromikon.intake.inbox import InboxWriter, Message
from dromikon.sources.models import Intake
from dromikon.wire.mqtt import Arrived, Broker, Subscription

log = logging.getLogger("dromikon.intake")

PLAIN, TLS = 1883, 8883
#: What comes faster than an intake takes waits so long at a time, in seconds: the broker has it meanwhile.
BREATH = 0.02
#: What could not be kept is tried again after so long, in seconds.
AGAIN = 1.0
LONGEST_TOPIC = 1_000


def broker_of(intake: Intake, secret: str) -> Broker:
    """Where the broker of an intake is, by its address such as mqtts://broker.example."""
    parts = urlsplit(intake.address)
    tls = parts.scheme == "mqtts"
    port = parts.port or (TLS if tls else PLAIN)
    # A name of this installation alone: a broker knows one of each name. It is no longer than every broker takes.
    name = f"dromikon-{secrets.digest_of_token(f'mqtt {intake.id}')[:14]}"
    return Broker(parts.hostname or "", port, name, tls, intake.user, secret)


class Subscriber:
    """The subscription of one intake."""

    def __init__(self, intake: Intake, secret: str, inbox: InboxWriter, count: Callable[[str, str], None]) -> None:
        self.state, self.message = "unknown", ""
        self._id, self._largest, self._rate = intake.id, intake.largest, intake.rate
        self._inbox, self._count, self._flows = inbox, count, Flows()
        self._stopped = False
        topics = intake.fetched.get("topics", [])
        self._subscription = Subscription(broker_of(intake, secret), topics, self._arrived, self._stands)

    def start(self) -> None:
        self._subscription.start()

    def stop(self, forget: bool = False) -> None:
        self._stopped = True
        self._subscription.stop(forget)

    def _stands(self, state: str, message: str) -> None:
        self.state, self.message = state, message

    def _arrived(self, said: Arrived) -> None:
        if len(said.payload) > self._largest or len(said.topic) > LONGEST_TOPIC:
            self._count(self._id, "size")
            said.done()
            return
        while not self._flows.lets(self._id, self._rate):
            time.sleep(BREATH)
        meta = json.dumps({"topic": said.topic, "retained": said.retained})
        self._store(Message(now_ms(), "mqtt", self._id, meta, said.payload), said)

    def _store(self, message: Message, said: Arrived) -> None:
        if not self._stopped:
            self._inbox.submit([message]).add_done_callback(lambda future: self._stored(future, message, said))

    def _stored(self, future: "Future[int]", message: Message, said: Arrived) -> None:
        if future.exception() is None:
            self._count(self._id, ACCEPTED)
            said.done()
            return
        log.error("a message of %s could not be kept; it is tried again: %s", self._id, future.exception())
        again = threading.Timer(AGAIN, self._store, (message, said))
        again.daemon = True
        again.start()
