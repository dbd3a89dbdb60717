"""Effect: a text message is handed to the installation's gateway, as JSON over HTTP.

``{"id": …, "to": "+44…", "text": …}``; a gateway that gets an id twice sends it once.
"""

import json
from typing import cast

from asgiref.sync import sync_to_async

from dromikon.core.instants import Instant
from dromikon.core.rules.actions.text import TextOrder
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import Sent
from dromikon.engine.effects.host import HostEffect
from dromikon.installation.outgoing import text_gateway
from dromikon.people.models import Person

JSON = {"content-type": "application/json"}


class TextEffect(HostEffect):
    def lane(self, order: StepOrder, now: Instant) -> str:
        return "texts"

    async def deliver(self, step: Step) -> Sent:
        person = await Person.objects.filter(pk=step.target.removeprefix("person:"), is_active=True).afirst()
        if person is None or not person.number:
            return Sent("failed", f"{person.shown_name if person else 'The person'} has no telephone number.")
        gateway = await sync_to_async(text_gateway)()
        if not gateway:
            return Sent("failed", "No text gateway is set up (Outgoing, or DROMIKON_TEXT_GATEWAY).")
        content = json.dumps(
            {"id": f"text-{step.pk}", "to": person.number, "text": cast(TextOrder, step.payload)["text"]}
        )
        return await self.call("POST", gateway, content, JSON, again_when_busy=True)
