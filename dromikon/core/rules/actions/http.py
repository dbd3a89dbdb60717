"""Action: call another system over HTTP."""

from typing import Annotated, ClassVar, Literal, TypedDict
from urllib.parse import urlsplit

from pydantic import Field, field_validator, model_validator

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.actions.webhook import http_address
from dromikon.core.rules.controls import Choice, Flag, Words
from dromikon.core.rules.parts import Phrase, told
from dromikon.core.words import t


class HttpOrder(TypedDict):
    """A request. `in_order`: it waits for what the rule sent there before."""

    method: str
    url: str
    body: str
    in_order: bool


class HttpAction(Action):
    """Send one request. It goes out once and is never repeated, unless it is declared `idempotent`."""

    label: ClassVar[str] = "HTTP call"
    icon: ClassVar[str] = "world-upload"
    delivery: ClassVar[Delivery] = Delivery.ONCE_ONLY

    do: Literal["http"] = "http"
    method: Annotated[Literal["GET", "POST", "PUT"], Choice("Method")] = "POST"
    url: Annotated[str, Words("Address", start="https://")] = Field(max_length=500)
    body: Annotated[str, Words("Body", places=True, lines=3)] = Field(default="", max_length=2000)
    idempotent: Annotated[
        bool, Flag("may be sent twice", hint="It does no harm to ask again: then it is tried until answered")
    ] = False
    #: One call after the other, each only when the one before has been answered.
    in_order: Annotated[bool, Flag("one by one, in order")] = False

    @field_validator("url")
    @classmethod
    def _http(cls, value: str) -> str:
        return http_address(value)

    @model_validator(mode="after")
    def _body_fits(self) -> "HttpAction":
        if self.body and self.method == "GET":
            raise ValueError(t("a GET request has no body"))
        return self

    @property
    def carried(self) -> Delivery:
        return Delivery.REPEATABLE if self.idempotent else self.delivery

    def orders(self, firing: Firing) -> list[Order]:
        body = firing.fill(self.body)
        payload: HttpOrder = {"method": self.method, "url": self.url, "body": body, "in_order": self.in_order}
        return [Order(f"host:{urlsplit(self.url).hostname}", payload)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        return told("call {host}", part, host=urlsplit(self.url).hostname or self.url)

    def texts(self) -> list[tuple[str, str]]:
        return [("body", self.body)]
