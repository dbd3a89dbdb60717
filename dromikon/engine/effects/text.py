"""Effect: a text message is handed to the site's gateway (DROMIKON_TEXT_GATEWAY), as JSON over HTTP.

``{"id": …, "to": "+44…", "text": …}``; a gateway that gets an id twice sends it once.
"""

import os

import httpx

from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.people.models import Person
from dromikon.wire.outgoing import NotAllowed, allowed


class TextEffect(OutsideEffect):
    def lane(self, order: StepOrder) -> str:
        return "texts"

    async def deliver(self, step: Step) -> Sent:
        person = await Person.objects.filter(pk=step.target.removeprefix("person:"), is_active=True).afirst()
        if person is None or not person.number:
            return Sent("failed", f"{person.shown_name if person else 'The person'} has no telephone number.")
        gateway = os.environ.get("DROMIKON_TEXT_GATEWAY", "")
        if not gateway:
            return Sent("failed", "No text gateway is set up (DROMIKON_TEXT_GATEWAY).")
        content = {"id": f"text-{step.pk}", "to": person.number, "text": step.payload["text"]}
        try:
            async with httpx.AsyncClient(timeout=8, follow_redirects=False, trust_env=False) as client:
                answer = await client.post(allowed(gateway), json=content)
        except NotAllowed as error:
            return Sent("failed", str(error))
        except httpx.HTTPError as error:
            return Sent("retry", f"The gateway cannot be reached: {error or type(error).__name__}")
        if answer.status_code >= 500 or answer.status_code in (408, 429):
            return Sent("retry", f"The gateway answered HTTP {answer.status_code}.")
        return Sent("done" if answer.is_success else "failed", f"The gateway answered HTTP {answer.status_code}.")
