"""Effect: one HTTP request to another system."""

from typing import cast

from dromikon.core.rules.actions.http import HttpOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import Sent
from dromikon.engine.effects.host import HostEffect


class HttpEffect(HostEffect):
    async def deliver(self, step: Step) -> Sent:
        payload = cast(HttpOrder, step.payload)
        body = payload["body"]
        kind = "application/json" if body.lstrip().startswith(("{", "[")) else "text/plain; charset=utf-8"
        return await self.call(
            payload["method"],
            payload["url"],
            body,
            {"content-type": kind} if body else None,
            again_when_busy=False,
        )
