"""The stand-in broker: MQTT as the orchid house's sensors use it, each with a topic of its own, and what was told last kept for
whoever comes later."""

import asyncio
import contextlib
import json
import time
from datetime import UTC, datetime
from typing import Any

from amqtt.broker import Broker

from dromikon.standins.world.plant.signals import Signal
from dromikon.standins.world.world import World

POINTS = ("orchid-temp", "orchid-humidity")
LOOK = 1.0
#: How long ending may take, in seconds.
PATIENCE = 3.0
AT_LEAST_ONCE = 1


def of_broker(signal: Signal) -> bool:
    """Whether a signal is told at the broker rather than by the gateway."""
    return signal.point in POINTS


def topic_of(signal: Signal) -> str:
    return f"quillmere/orchid-house/{signal.point.removeprefix('orchid-')}"


def payload_of(signal: Signal) -> bytes:
    """What a sensor says: the orchid house's thermometer is an American one."""
    value, unit = float(signal.fields["value"] or 0), signal.fields["unit"]
    if unit == "°C":
        value, unit = round(value * 9 / 5 + 32, 1), "°F"
    said = datetime.fromtimestamp(signal.at / 1000, UTC).isoformat(timespec="seconds")
    return json.dumps({"value": value, "unit": unit, "at": said}, ensure_ascii=False).encode()


class StandInBroker:
    """Serves until it is cancelled."""

    def __init__(self, world: World, port: int, host: str = "127.0.0.1") -> None:
        self.world = world
        config: dict[str, Any] = {
            "listeners": {"default": {"type": "tcp", "bind": f"{host}:{port}"}},
            "plugins": {"amqtt.plugins.authentication.AnonymousAuthPlugin": {"allow_anonymous": True}},
        }
        self._broker = Broker(config)

    async def run(self) -> None:
        await self._broker.start()
        now = time.time_ns() // 1_000_000
        await self._tell_last(now)
        told = now
        try:
            while True:
                await asyncio.sleep(LOOK)
                now = time.time_ns() // 1_000_000
                for signal in self.world.signals(told, now):
                    if of_broker(signal):
                        await self._tell(signal)
                told = now
        finally:
            with contextlib.suppress(TimeoutError):
                # It waits for whoever connects while it ends.
                await asyncio.wait_for(self._broker.shutdown(), PATIENCE)

    async def _tell_last(self, now: int) -> None:
        """What each sensor said last is there for whoever subscribes."""
        last = {s.point: s for s in self.world.signals(now - 3_600_000, now) if of_broker(s)}
        for signal in last.values():
            await self._tell(signal)

    async def _tell(self, signal: Signal) -> None:
        topic, payload = topic_of(signal), payload_of(signal)
        await self._broker.internal_message_broadcast(topic, payload, AT_LEAST_ONCE)
        await self._broker.retain_message(None, topic, payload, AT_LEAST_ONCE)
