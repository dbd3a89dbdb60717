"""API: one's own tokens."""

from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Number, person_of
from dromikon.core.instants import iso
from dromikon.people.models import ApiToken
from dromikon.people.tokens import make_token, revoke_token

router = Router(tags=["tokens"])


class TokenOut(Schema):
    """`beginning`: the first characters, to tell it from others. Times are ISO 8601."""

    id: str
    name: str
    scope: str
    beginning: str
    created_at: str
    expires_at: str | None
    last_used_at: str | None


class TokenMade(TokenOut):
    """`token` is shown this once."""

    token: str


class TokenIn(Schema):
    """`scope`: read or act. `days` until it ends; null for never."""

    name: str
    scope: str = "read"
    days: int | None = 90


@router.get("", response=list[TokenOut], summary="Your tokens")
def tokens(request: HttpRequest) -> list[dict[str, Any]]:
    return [_out(t) for t in person_of(request).tokens.all()]


@router.post("", response={201: TokenMade, 403: Error, 422: Error}, summary="Make a token; it is shown this once")
def make(request: HttpRequest, content: TokenIn) -> Any:
    made, text = make_token(person_of(request), content.name, scope=content.scope, days=content.days)
    return 201, {**_out(made), "token": text}


@router.delete("/{token_id}", response={204: None, 403: Error, 404: Error}, summary="Revoke a token")
def revoke(request: HttpRequest, token_id: Number) -> Any:
    if not revoke_token(person_of(request), token_id):
        raise Http404("You have no such token.")
    return 204, None


def _out(token: ApiToken) -> dict[str, Any]:
    return {
        "id": str(token.pk), "name": token.name, "scope": token.scope, "beginning": token.beginning,
        "created_at": iso(token.created_at), "expires_at": iso(token.expires_at) if token.expires_at else None,
        "last_used_at": iso(token.last_used_at) if token.last_used_at else None,
    }  # fmt: skip
