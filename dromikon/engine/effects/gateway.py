"""What effects that hand a message to a gateway over HTTP have in common."""

from typing import ClassVar, cast

from asgiref.sync import sync_to_async

from dromikon.core.instants import Instant
from dromikon.core.rules.actions.people import MessageOrder
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import Sent
from dromikon.engine.effects.host import HostEffect
from dromikon.installation.gateways import Way, gateway
from dromikon.people.models import Person
from dromikon.secrets import SealBroken

PERSON = "person:"
#: What a gateway's lane begins with, before the way.
GATEWAY = "gateway:"


class GatewayEffect(HostEffect):
    """One lane a gateway. The id of a message stays the same over attempts: a gateway that gets one twice sends it once."""

    way: ClassVar[Way]
    #: What somebody lacks who cannot be reached.
    lacks: ClassVar[str]

    def lane(self, order: StepOrder, now: Instant) -> str:
        return f"{GATEWAY}{self.way}"

    def to(self, person: Person) -> str:
        """Where somebody is reached; empty for nowhere."""
        return person.number

    async def deliver(self, step: Step) -> Sent:
        person = await Person.objects.filter(pk=step.target.removeprefix(PERSON), is_active=True).afirst()
        if person is None or not self.to(person):
            return Sent("failed", f"{person.shown_name if person else 'The person'} has no {self.lacks}.")
        try:
            known = await sync_to_async(gateway)(self.way)
        except SealBroken as error:
            return Sent("retry", f"{error} Its token is needed.", ours=True)
        if known is None:
            return Sent("failed", "No gateway is set up for it (Installation · Gateways).")
        headers = {"content-type": known.media} | ({"authorization": f"Bearer {known.token}"} if known.token else {})
        body = known.write(values_of(step, self.way, self.to(person)))
        return await self.call("POST", known.address, body, headers, again_when_busy=True)


def values_of(step: Step, way: str, to: str) -> dict[str, str]:
    """What a gateway's body may name."""
    message = cast(MessageOrder, step.payload)
    link = message.get("link", "")
    text = message["text"] if way == "push" or not link else f"{message['text']}\n{link}"
    return {
        "id": f"{way}-{step.pk}",
        "to": to,
        "text": text,
        "subject": message.get("subject", ""),
        "link": link,
        "urgent": "true" if message.get("urgent") else "false",
        "sound": "urgent" if message.get("urgent") else "normal",
    }


class TextEffect(GatewayEffect):
    """Texts are posted to the gateway for them."""

    way: ClassVar[Way] = "text"
    lacks: ClassVar[str] = "telephone number"


class CallEffect(GatewayEffect):
    """So are calls, with what is to be said."""

    way: ClassVar[Way] = "call"
    lacks: ClassVar[str] = "telephone number"


class PersonalChatEffect(GatewayEffect):
    """And chat messages to persons."""

    way: ClassVar[Way] = "chat"
    lacks: ClassVar[str] = "name in the chat"

    def to(self, person: Person) -> str:
        return person.chat


class PushEffect(GatewayEffect):
    """And push messages."""

    way: ClassVar[Way] = "push"
    lacks: ClassVar[str] = "address for push messages"

    def to(self, person: Person) -> str:
        return person.push
