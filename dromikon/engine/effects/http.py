"""Effect: one HTTP request to another system."""

from urllib.parse import urlsplit

import httpx

from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.wire.outgoing import NotAllowed, allowed


class HttpEffect(OutsideEffect):
    def lane(self, order: StepOrder) -> str:
        return order.target

    async def deliver(self, step: Step) -> Sent:
        payload = step.payload
        try:
            url = allowed(payload["url"])
        except NotAllowed as error:
            return Sent("failed", str(error))
        content = payload["body"].encode() if payload["body"] else None
        kind = "application/json" if payload["body"].lstrip().startswith(("{", "[")) else "text/plain; charset=utf-8"
        try:
            async with httpx.AsyncClient(timeout=8, follow_redirects=False, trust_env=False) as client:
                answer = await client.request(
                    payload["method"], url, content=content, headers={"content-type": kind} if content else None
                )
        except httpx.ConnectError as error:
            return Sent("retry", f"{urlsplit(url).hostname} cannot be reached: {error}")
        except httpx.HTTPError as error:
            return Sent("unconfirmed", f"{type(error).__name__}: {error}")
        return Sent("done" if answer.is_success else "failed", f"HTTP {answer.status_code}")
