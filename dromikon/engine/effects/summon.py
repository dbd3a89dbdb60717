"""Effect: a rung of a ladder, told in whichever way was chosen for each."""

from dromikon.core.instants import Instant
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.engine.effects.chat import ChatEffect
from dromikon.engine.effects.gateway import GATEWAY, CallEffect, PushEffect, TextEffect
from dromikon.engine.effects.mail import MailEffect

WAYS: dict[str, OutsideEffect] = {
    "text": TextEffect(),
    "call": CallEffect(),
    "push": PushEffect(),
    "mail": MailEffect(),
    "chat": ChatEffect(),
}


class SummonEffect(OutsideEffect):
    """Stands in the lane of its way, beside all else that goes there."""

    patient = True

    def lane(self, order: StepOrder, now: Instant) -> str:
        return WAYS[order.payload["way"]].lane(order, now)

    def width(self, lane: str) -> int:
        way = WAYS.get(lane.removeprefix(GATEWAY))
        return way.width(lane) if way else 1

    async def deliver(self, step: Step) -> Sent:
        return await WAYS[step.payload["way"]].deliver(step)
