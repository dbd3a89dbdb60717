"""Fetching from a Modbus device: it is asked again and again, and what has changed is kept, or everything when nothing has for a
while, so that it is known to be well."""

import asyncio
import json
import logging
from collections.abc import Callable
from typing import Any
from urllib.parse import urlsplit

from dromikon.clock import now_ms
from dromikon.core.modbus.registers import NoValue, RegisterPart, blocks, value_of
from dromikon.core.proofs import ACCEPTED
from dromikon.intake.inbox import InboxUnavailable, InboxWriter, Message
from dromikon.sources.models import Intake
from dromikon.wire.modbus import Device, NoAnswer

log = logging.getLogger("dromikon.intake")

PORT = 502
#: All values are kept at least so often; a device that does not answer is asked again after so long, in seconds.
WHOLE_EVERY, LONGEST_PAUSE = 60.0, 30.0
Values = dict[int, float | bool]


class Poller:
    """Asks one device, in the intake's event loop."""

    def __init__(self, intake: Intake, secret: str, inbox: InboxWriter, count: Callable[[str, str], None]) -> None:
        self.state, self.message = "unknown", ""
        self._id, self._inbox, self._count = intake.id, inbox, count
        self._every = float(intake.fetched.get("every", 2.0))
        self._parts = [RegisterPart.model_validate(part) for part in intake.fetched.get("registers", [])]
        parts = urlsplit(intake.address)
        self._device = Device(parts.hostname or "", parts.port or PORT, int(intake.fetched.get("unit", 1)))
        self._kept: Values = {}
        self._whole_at = 0.0
        self._task: asyncio.Task[None] | None = None
        self._loop = asyncio.get_running_loop()

    def start(self) -> None:
        self._task = self._loop.create_task(self._run())

    def stop(self, forget: bool = False) -> None:
        if self._task is not None:
            self._loop.call_soon_threadsafe(self._task.cancel)

    async def _run(self) -> None:
        pause = self._every
        try:
            while True:
                try:
                    await self._ask()
                    pause = self._every
                except NoAnswer as error:
                    self.state, self.message = "lost", str(error)
                    # What it tells when it is back is told anew.
                    self._kept.clear()
                    pause = min(LONGEST_PAUSE, max(self._every, pause * 2))
                except Exception:
                    # A fault of ours must not end the asking for good.
                    log.exception("%s could not be asked", self._id)
                    self.state, self.message, pause = (
                        "lost",
                        "It could not be asked; the intake's log says why.",
                        LONGEST_PAUSE,
                    )
                await asyncio.sleep(pause)
        finally:
            self._device.close()

    async def _ask(self) -> None:
        words = await self._device.read(blocks(self._parts))
        values: Values = {}
        trouble = ""
        for place, part in enumerate(self._parts):
            try:
                values[place] = value_of(part, words)
            except NoValue as error:
                trouble = f"{part.point.name or part.point.id}: {error}"
        self.state, self.message = "online", trouble
        await self._keep(values)

    async def _keep(self, values: Values) -> None:
        now = self._loop.time()
        first, whole = not self._kept, now - self._whole_at >= WHOLE_EVERY
        told = values if first or whole else {p: v for p, v in values.items() if self._kept.get(p) != v}
        if not told:
            return
        body = json.dumps({"first": first, "values": [self._said(place, value) for place, value in told.items()]})
        message = Message(now_ms(), "modbus", self._id, "{}", body.encode())
        try:
            await asyncio.wrap_future(self._inbox.submit([message]))
        except InboxUnavailable as error:
            log.error("what %s told could not be kept; it is asked again: %s", self._id, error)
            return
        self._count(self._id, ACCEPTED)
        self._kept.update(told)
        if first or whole:
            self._whole_at = now

    def _said(self, place: int, value: float | bool) -> dict[str, Any]:
        """What is kept of one value; `same`: it is told again, and has not changed."""
        part = self._parts[place]
        where = {"table": part.table, "number": part.number}
        said = {"kind": part.becomes, "point": part.point.id, "value": value, "same": self._kept.get(place) == value}
        return {**where, **said, **({"unit": part.unit} if part.unit else {})}
