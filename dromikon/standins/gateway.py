"""The stand-in gateway: it collects what the garden's other systems say and POSTs each thing as JSON, with a bearer
token, to an intake. What is not accepted with 202 it sends again, in order."""

import asyncio
import time
from collections import deque
from datetime import UTC, datetime
from typing import Any

import httpx

from dromikon.standins.agents import of_agent
from dromikon.standins.broker import of_broker
from dromikon.standins.fieldbus import of_fieldbus
from dromikon.standins.place import Place
from dromikon.standins.world.access import of_doors
from dromikon.standins.world.calls import of_station
from dromikon.standins.world.instruments import of_cameras
from dromikon.standins.world.plant.signals import Signal
from dromikon.standins.world.world import World

LOOK = 0.5
LONGEST_PAUSE = 10.0


#: Who else tells of signals, each in a way of its own.
OTHERS = (of_doors, of_cameras, of_station, of_fieldbus, of_broker, of_agent)


def of_gateway(signal: Signal) -> bool:
    """Whether the gateway tells of a signal, and nobody else does."""
    return not any(theirs(signal) for theirs in OTHERS)


def plain(signal: Signal) -> dict[str, Any]:
    """A signal as the JSON document that is sent."""
    said = datetime.fromtimestamp(signal.at / 1000, UTC).isoformat(timespec="milliseconds")
    return {
        "kind": signal.kind, "point": signal.point, "phase": signal.phase, "fields": signal.fields, "occurred_at": said,
    }  # fmt: skip


class StandInGateway:
    """Sends what has happened since the place kept in a small file."""

    def __init__(self, world: World, address: str, token: str, place: Place) -> None:
        self.world, self.address, self.token, self.place = world, address, token, place
        self._waiting: deque[Signal] = deque()

    async def run(self) -> None:
        """Until cancelled."""
        now = time.time_ns() // 1_000_000
        told = self.place.read(now)
        headers = {"Authorization": f"Bearer {self.token}"}
        async with httpx.AsyncClient(timeout=10, headers=headers, trust_env=False) as client:
            while True:
                now = time.time_ns() // 1_000_000
                self._waiting.extend(s for s in self.world.signals(told, now) if of_gateway(s))
                told = now
                await self._send_all(client)
                self.place.keep(told)
                await asyncio.sleep(LOOK)

    async def _send_all(self, client: httpx.AsyncClient) -> None:
        pause = 0.5
        while self._waiting:
            if await self._send(client, self._waiting[0]):
                self._waiting.popleft()
                pause = 0.5
            else:
                await asyncio.sleep(pause)
                pause = min(LONGEST_PAUSE, pause * 2)

    async def _send(self, client: httpx.AsyncClient, signal: Signal) -> bool:
        try:
            answer = await client.post(self.address, json=plain(signal))
        except httpx.HTTPError:
            return False
        # A message that is refused for good must not hold up the others.
        return answer.status_code == 202 or (
            400 <= answer.status_code < 500 and answer.status_code not in (401, 408, 429)
        )
