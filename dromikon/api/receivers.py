"""API: addresses that webhooks go to, and their secrets."""

from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.core.instants import iso
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.rulebook.receivers import receivers_of, rotate_secret

router = Router(tags=["receivers"])


class ReceiverOut(Schema):
    """`overlap_until`: until when messages are signed with the secret before, too."""

    address: str
    rules: list[str]
    made_at: str | None
    shown: bool
    overlap_until: str | None


class AddressIn(Schema):
    address: str


class SecretOut(Schema):
    """Shown this once."""

    secret: str


@router.get("", response={200: list[ReceiverOut], 403: Error}, summary="Addresses that webhooks go to")
def receivers(request: HttpRequest, site: Site = None) -> list[dict[str, Any]]:
    return [
        {
            "address": r.address, "rules": list(r.rules), "made_at": iso(r.made_at) if r.made_at else None,
            "shown": r.shown, "overlap_until": iso(r.overlap_until) if r.overlap_until else None,
        }
        for r in receivers_of(_builder(request, site).site)
    ]  # fmt: skip


@router.post("/rotate", response={200: SecretOut, 403: Error, 404: Error}, summary="A new secret, shown this once")
def rotate(request: HttpRequest, content: AddressIn, site: Site = None) -> Any:
    found = _builder(request, site)
    if content.address not in {r.address for r in receivers_of(found.site)}:
        raise Http404("No webhook of this site goes to that address.")
    return {"secret": rotate_secret(found, content.address)}


def _builder(request: HttpRequest, site: str | None) -> Access:
    found = at_site(request, site)
    found.need(May.EDIT_RULES)
    return found
