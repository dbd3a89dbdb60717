"""Action: tell another system by a signed webhook that carries a CloudEvent."""

from typing import Annotated, Any, ClassVar, Literal, TypedDict
from urllib.parse import urlsplit

from pydantic import Field, field_validator

from dromikon.core.facts import Facts
from dromikon.core.instants import iso
from dromikon.core.kinds import public_fields
from dromikon.core.reading import address
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.controls import Flag, Words
from dromikon.core.rules.parts import Phrase, told


class WebhookOrder(TypedDict):
    """A message in the form of the Standard Webhooks scheme. `time` is ISO 8601."""

    url: str
    type: str
    time: str
    data: dict[str, Any]
    in_order: bool


class WebhookAction(Action):
    """POST a CloudEvents 1.0 document. The message id stays the same over attempts, so a receiver can tell repeats."""

    label: ClassVar[str] = "Webhook"
    group: ClassVar[str] = "to other systems"
    icon: ClassVar[str] = "webhook"
    delivery: ClassVar[Delivery] = Delivery.REPEATABLE

    do: Literal["webhook"] = "webhook"
    url: Annotated[str, Words("Address", start="https://")] = Field(max_length=500)
    text: Annotated[str, Words("Text", places=True)] = Field(default="{rule}: {point}", max_length=500)
    #: One message after the other, each only when the one before has arrived.
    in_order: Annotated[bool, Flag("one by one, in order")] = False

    @field_validator("url")
    @classmethod
    def _http(cls, value: str) -> str:
        return http_address(value)

    def orders(self, firing: Firing) -> list[Order]:
        event = firing.event
        data: dict[str, Any] = {
            "text": firing.said(self.text),
            "point": event.point,
            "fields": public_fields(event.fields),
        }
        if event.test:
            data["test"] = True
        payload: WebhookOrder = {
            "url": self.url, "type": event.kind, "time": iso(event.occurred_at), "data": data, "in_order": self.in_order,
        }  # fmt: skip
        return [Order(f"host:{urlsplit(self.url).hostname}", payload)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        return told("call {host}", part, host=urlsplit(self.url).hostname or self.url)

    def texts(self) -> list[tuple[str, str]]:
        return [("text", self.text)]


def http_address(value: str) -> str:
    """Pass an http or https address through. Raises ValueError for anything else, and for one with a user name in it."""
    address(value)
    return value
