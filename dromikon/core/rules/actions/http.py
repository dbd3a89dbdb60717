"""Action: call another system over HTTP."""

import json
from collections.abc import Callable
from typing import Annotated, ClassVar, Literal, NotRequired, TypedDict
from urllib.parse import quote, quote_plus, urlsplit

from pydantic import Field, field_validator, model_validator

from dromikon.core.facts import Facts
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.actions.destinations import DESTINATION
from dromikon.core.rules.actions.webhook import http_address
from dromikon.core.rules.controls import Choice, Flag, Inner, Number, Numbers, Pick, When, Words
from dromikon.core.rules.parts import Part, Phrase, Ref, told
from dromikon.core.words import t

WITHOUT_BODY = ("GET", "DELETE")
#: Headers that belong to the connection, or would carry a secret past the destination that keeps it.
NOT_OURS = frozenset((
    "host", "content-length", "transfer-encoding", "connection", "upgrade", "te", "trailer", "authorization",
    "proxy-authorization", "cookie",
))  # fmt: skip
MEDIA = {
    "json": "application/json", "form": "application/x-www-form-urlencoded", "xml": "application/xml",
    "text": "text/plain; charset=utf-8",
}  # fmt: skip


class HttpOrder(TypedDict):
    """A request. `in_order`: it waits for what the rule sent there before. `login`: target of the destination whose log-in
    it carries. `expected`: answers that are good, none: any 2xx; `contains`: what a good answer has in it."""

    method: str
    url: str
    body: str
    in_order: bool
    headers: NotRequired[list[tuple[str, str]]]
    login: NotRequired[str]
    expected: NotRequired[list[int]]
    contains: NotRequired[str]
    patience: NotRequired[float]


class Header(Part):
    """One header of the request."""

    name: Annotated[str, Words("Header")] = Field(pattern=r"^[A-Za-z0-9!#$%&'*+.^_`|~-]{1,80}$")
    value: Annotated[str, Words("is", places=True)] = Field(max_length=500)

    @field_validator("name")
    @classmethod
    def _allowed(cls, name: str) -> str:
        if name.lower() in NOT_OURS:
            raise ValueError(t("the header {name} is not set here; a log-in goes by a destination", name=name))
        return name


class HttpAction(Action):
    """Send one request. It goes out once and is never repeated, unless it is declared `idempotent`. What is put into
    address and body is written as they want it: no value can begin another part."""

    label: ClassVar[str] = "HTTP call"
    group: ClassVar[str] = "to other systems"
    icon: ClassVar[str] = "world-upload"
    delivery: ClassVar[Delivery] = Delivery.ONCE_ONLY

    do: Literal["http"] = "http"
    method: Annotated[Literal["GET", "POST", "PUT", "PATCH", "DELETE"], Choice("Method")] = "POST"
    url: Annotated[str, Words("Address", places=True, start="https://")] = Field(max_length=500)
    headers: Annotated[tuple[Header, ...], Inner("Headers")] = Field(default=(), max_length=20)
    content: Annotated[
        Literal["auto", "json", "form", "xml", "text"],
        Choice(
            "Sent as",
            words={"auto": "as it looks", "json": "JSON", "form": "a form", "xml": "XML", "text": "text"},
            when=When("method", WITHOUT_BODY, negated=True),
        ),
    ] = "auto"
    body: Annotated[str, Words("Body", places=True, lines=3, when=When("method", WITHOUT_BODY, negated=True))] = Field(
        default="", max_length=4000
    )
    login: Annotated[
        Ref | None, Pick("With the log-in of", of="destination", kinds=("login",), hint="none: without")
    ] = None
    expected: Annotated[
        tuple[int, ...], Numbers("Good answers", hint="HTTP status codes with commas; none: any from 200 to 299")
    ] = Field(default=(), max_length=10)
    contains: Annotated[str, Words("A good answer contains", hint="empty: whatever it says")] = Field(
        default="", max_length=200
    )
    patience: Annotated[float, Number("Waits for it at most", unit="s")] = Field(default=8, ge=1, le=60)
    idempotent: Annotated[
        bool, Flag("may be sent twice", hint="It does no harm to ask again: then it is tried until answered")
    ] = False
    #: One call after the other, each only when the one before has been answered.
    in_order: Annotated[bool, Flag("one by one, in order")] = False

    @field_validator("url")
    @classmethod
    def _http(cls, value: str) -> str:
        http_address(value)
        if "{" in urlsplit(value).netloc:
            raise ValueError(t("which host is called stands in the rule, not in the event"))
        return value

    @field_validator("expected")
    @classmethod
    def _codes(cls, codes: tuple[int, ...]) -> tuple[int, ...]:
        if any(not 100 <= code <= 599 for code in codes):
            raise ValueError(t("an HTTP status code is a number from 100 to 599"))
        return codes

    @model_validator(mode="after")
    def _body_fits(self) -> "HttpAction":
        if self.body and self.method in WITHOUT_BODY:
            raise ValueError(t("a {method} request has no body", method=self.method))
        return self

    @property
    def carried(self) -> Delivery:
        return Delivery.REPEATABLE if self.idempotent else self.delivery

    @property
    def media(self) -> str:
        """What the body is sent as."""
        if self.content == "auto":
            return MEDIA["json"] if self.body.lstrip().startswith(("{", "[")) else MEDIA["text"]
        return MEDIA[self.content]

    def orders(self, firing: Firing) -> list[Order]:
        headers = [(h.name, " ".join(firing.fill(h.value).split())) for h in self.headers]
        if self.body and not any(name.lower() == "content-type" for name, _ in headers):
            headers.append(("content-type", self.media))
        if firing.event.test:
            headers.append(("dromikon-test", "true"))
        payload: HttpOrder = {
            "method": self.method, "url": firing.fill(self.url, lambda v: quote(v, safe="")),
            "body": firing.fill(self.body, _WRITTEN.get(self.media, str)), "in_order": self.in_order, "headers": headers,
            "expected": list(self.expected), "contains": self.contains, "patience": self.patience,
        }  # fmt: skip
        if self.login is not None:
            payload["login"] = f"{DESTINATION}{self.login.id}"
        return [Order(f"host:{urlsplit(self.url).hostname}", payload)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        return told("call {host}", part, host=urlsplit(self.url).hostname or self.url)

    def texts(self) -> list[tuple[str, str]]:
        headers = [(f"headers.{i}.value", h.value) for i, h in enumerate(self.headers)]
        return [("url", self.url), ("body", self.body), *headers]

    def named(self) -> list[tuple[str, str, Ref]]:
        return [("login", "destination", self.login)] if self.login else []


def _in_json(value: str) -> str:
    return json.dumps(value, ensure_ascii=False)[1:-1]


def _in_xml(value: str) -> str:
    return value.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;").replace('"', "&quot;")


#: How a value is written in a body.
_WRITTEN: dict[str, Callable[[str], str]] = {MEDIA["json"]: _in_json, MEDIA["form"]: quote_plus, MEDIA["xml"]: _in_xml}
