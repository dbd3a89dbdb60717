"""Oneself over the API: one's sites and roles, and where one can be texted."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, person_of
from dromikon.people.access import all_access
from dromikon.people.services import set_number

router = Router(tags=["me"])


class SiteOut(Schema):
    id: str
    name: str
    zone: str
    role: str


class NumberIn(Schema):
    number: str


@router.get("/sites", response=list[SiteOut], summary="Sites you belong to, with your role")
def sites(request: HttpRequest) -> list[dict[str, Any]]:
    return [
        {"id": a.site.id, "name": a.site.name, "zone": a.site.zone, "role": a.role}
        for a in all_access(person_of(request))
    ]


@router.put("/me/number", response={204: None, 422: Error}, summary="Where you can be texted, as +447700900123")
def my_number(request: HttpRequest, content: NumberIn) -> Any:
    set_number(person_of(request), content.number)
    return 204, None
