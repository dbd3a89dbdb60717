"""Effect: a CloudEvent POSTed with a signature after the Standard Webhooks scheme."""

import json
from datetime import UTC, datetime
from typing import cast

from asgiref.sync import sync_to_async
from standardwebhooks import Webhook

from dromikon.clock import now_ms
from dromikon.core.rules.actions.webhook import WebhookOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import Sent
from dromikon.engine.effects.host import HostEffect
from dromikon.rulebook.receivers import signing_secrets
from dromikon.secrets import SealBroken


class WebhookEffect(HostEffect):
    async def deliver(self, step: Step) -> Sent:
        message_id = f"msg_{step.pk}"
        body = cloud_event(step, message_id)
        try:
            known = await sync_to_async(signing_secrets)(step.site, step.payload["url"])
        except SealBroken as error:
            return Sent("retry", f"{error} It must be signed with the key that was used before.", ours=True)
        moment = datetime.fromtimestamp(now_ms() / 1000, UTC)
        headers = {
            "content-type": "application/cloudevents+json",
            "webhook-id": message_id,
            "webhook-timestamp": str(int(moment.timestamp())),
            "webhook-signature": " ".join(Webhook(s).sign(message_id, moment, body) for s in known),
        }
        return await self.call("POST", step.payload["url"], body, headers, again_when_busy=True)


def cloud_event(step: Step, message_id: str) -> str:
    """The CloudEvents 1.0 document of a step, in JSON."""
    payload = cast(WebhookOrder, step.payload)
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
