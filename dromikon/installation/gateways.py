"""Gateways that carry messages to persons: an HTTP call each, whose body an administrator writes."""

import json
from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal
from urllib.parse import quote_plus

from pydantic import Field, field_validator

from dromikon import config, secrets
from dromikon.core.reading import typed_address
from dromikon.core.rules.controls import Choice, Inner, Secret, Words
from dromikon.core.rules.parts import Part
from dromikon.core.rules.wording import fill, places
from dromikon.core.words import N_
from dromikon.installation.settings import Document, setting

Way = Literal["text", "push", "call", "chat"]
Content = Literal["json", "form"]
#: What a body may name.
VALUES = ("id", "to", "text", "subject", "link", "urgent", "sound")
BODIES: dict[Way, str] = {
    "text": '{"id": "{id}", "to": "{to}", "text": "{text}"}',
    "push": '{"id": "{id}", "to": "{to}", "title": "{subject}", "text": "{text}", "link": "{link}", "sound": "{sound}"}',
    "call": '{"id": "{id}", "to": "{to}", "say": "{text}"}',
    "chat": '{"id": "{id}", "to": "{to}", "text": "{text}"}',
}
MEDIA = {"json": "application/json", "form": "application/x-www-form-urlencoded"}


class GatewayPart(Part):
    """Where one sort of message is posted, and how. The body names `{id}`, `{to}`, `{text}`, `{subject}`, `{link}`, `{urgent}`
    and `{sound}`; with none, a plain one is sent."""

    address: Annotated[str, Field(max_length=500), Words(N_("Posted to"), hint=N_("an http(s) address"))] = ""
    content: Annotated[Content, Choice(N_("As"), words={"json": "JSON", "form": N_("a form")})] = "json"
    body: Annotated[
        str,
        Field(max_length=2000),
        Words(N_("Body"), lines=3, hint=N_("names {id} {to} {text} {subject} {link} {sound}")),
    ] = ""
    token: Annotated[str, Field(max_length=500), Secret(N_("Bearer token"))] = ""

    @field_validator("address")
    @classmethod
    def _web(cls, where: str) -> str:
        return typed_address(where, "An address such as https://gateway.example/messages.")

    @field_validator("body")
    @classmethod
    def _fills(cls, body: str) -> str:
        unknown = sorted({name for name, _ in places(body)} - set(VALUES))
        if unknown:
            raise ValueError(f"There is no {{{unknown[0]}}}; a body may name {', '.join(VALUES)}.")
        return body


class Gateways(Document):
    """One gateway for each way; those that are missing are not used. Tokens are kept sealed."""

    kept_as: ClassVar[str] = "gateways"

    text: Annotated[GatewayPart | None, Inner(N_("Text messages"))] = None
    push: Annotated[GatewayPart | None, Inner(N_("Push messages"))] = None
    call: Annotated[GatewayPart | None, Inner(N_("Voice calls"))] = None
    chat: Annotated[
        GatewayPart | None, Inner(N_("Chat messages to persons"), hint=N_("a room is a destination of its site"))
    ] = None


@dataclass(frozen=True, slots=True)
class Gateway:
    """A gateway as it is used."""

    address: str
    media: str
    body: str
    token: str = ""

    def write(self, values: dict[str, str]) -> str:
        """The body of one message; each value is written as the format wants it."""
        escape = quote_plus if self.media == MEDIA["form"] else _json_text
        return fill(self.body, values, escape)


def _json_text(value: str) -> str:
    return json.dumps(value, ensure_ascii=False)[1:-1]


def gateway(way: Way) -> Gateway | None:
    """The gateway for a way as it is set now; the page goes before the environment (DROMIKON_TEXT_GATEWAY and its siblings).
    None where there is none. Raises SealBroken."""
    part: GatewayPart | None = getattr(setting(Gateways), way)
    if part is None or not part.address:
        where = config.gateway(way)
        return Gateway(where, MEDIA["json"], BODIES[way]) if where else None
    token = secrets.unseal(part.token) if part.token else ""
    return Gateway(part.address, MEDIA[part.content], part.body or BODIES[way], token)
