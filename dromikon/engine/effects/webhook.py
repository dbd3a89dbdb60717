"""Effect: a CloudEvent POSTed with a signature after the Standard Webhooks scheme."""

import json
import time
from datetime import UTC, datetime

import httpx
from standardwebhooks import Webhook

from dromikon import secrets
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.wire.outgoing import NotAllowed, allowed


class WebhookEffect(OutsideEffect):
    def lane(self, order: StepOrder) -> str:
        return order.target

    async def deliver(self, step: Step) -> Sent:
        url = step.payload["url"]
        try:
            allowed(url)
        except NotAllowed as error:
            return Sent("failed", str(error))
        message_id = f"msg_{step.pk}"
        body = cloud_event(step, message_id)
        moment = datetime.fromtimestamp(time.time(), UTC)
        headers = {
            "content-type": "application/cloudevents+json",
            "webhook-id": message_id,
            "webhook-timestamp": str(int(moment.timestamp())),
            "webhook-signature": Webhook(secrets.derived("webhook")).sign(message_id, moment, body),
        }
        try:
            async with httpx.AsyncClient(timeout=8, follow_redirects=False, trust_env=False) as client:
                answer = await client.post(url, content=body, headers=headers)
        except httpx.HTTPError as error:
            return Sent("retry", f"{type(error).__name__}: {error}")
        if answer.status_code >= 500 or answer.status_code in (408, 429):
            return Sent("retry", f"HTTP {answer.status_code}")
        return Sent("done" if answer.is_success else "failed", f"HTTP {answer.status_code}")


def cloud_event(step: Step, message_id: str) -> str:
    """The CloudEvents 1.0 document of a step, in JSON."""
    payload = step.payload
    return json.dumps(
        {
            "specversion": "1.0",
            "id": message_id,
            "source": f"/sites/{step.site}",
            "type": f"dromikon.{payload['type']}",
            "subject": step.run,
            "time": payload["time"],
            "datacontenttype": "application/json",
            "data": payload["data"],
        }
    )
