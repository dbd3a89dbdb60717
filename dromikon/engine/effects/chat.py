"""Effect: a message is posted to a chat room's incoming webhook, or to the gateway that carries those to persons."""

import json
from typing import cast

from dromikon.core.instants import Instant
from dromikon.core.rules.actions.people import MessageOrder
from dromikon.core.rules.outcome import StepOrder
from dromikon.core.rules.wording import fill
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import Sent
from dromikon.engine.effects.destination import GONE, known
from dromikon.engine.effects.gateway import GATEWAY, PERSON, PersonalChatEffect
from dromikon.engine.effects.host import HostEffect
from dromikon.engine.effects.speech import marked, speaking_as
from dromikon.secrets import SealBroken

#: What is posted where nothing else is said: the form that most incoming webhooks take.
BODY = '{"text": "{text}"}'


class ChatEffect(HostEffect):
    _personal = PersonalChatEffect()

    def lane(self, order: StepOrder, now: Instant) -> str:
        return self._personal.lane(order, now) if order.target.startswith(PERSON) else order.target

    def width(self, lane: str) -> int:
        # What is said first in a room stands first.
        return self._personal.width(lane) if lane.startswith(GATEWAY) else 1

    async def deliver(self, step: Step) -> Sent:
        if step.target.startswith(PERSON):
            return await self._personal.deliver(step)
        return await self._into_room(step)

    async def _into_room(self, step: Step) -> Sent:
        try:
            room = await known(step.site, step.target, "chat")
        except SealBroken as error:
            return Sent("retry", f"{error} The room's address is needed.", ours=True)
        if room is None:
            return Sent("failed", GONE)
        order = cast(MessageOrder, step.payload)
        with await speaking_as(step.site):
            text = marked(order["text"], order["urgent"])
        text = f"{text}\n{order['link']}" if order["link"] else text
        body = fill(
            room.settings.get("body") or BODY, {"text": text}, lambda v: json.dumps(v, ensure_ascii=False)[1:-1]
        )
        headers = {"content-type": "application/json", "idempotency-key": f"chat-{step.pk}"}
        return await self.call("POST", room.secrets.get("address", ""), body, headers, again_when_busy=True)
