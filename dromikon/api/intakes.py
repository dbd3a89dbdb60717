"""Intakes over the API: what became of what they were sent, and the messages themselves."""

import json
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.clock import now_ms
from dromikon.core.instants import iso
from dromikon.core.proofs import ACCEPTED, FETCHED
from dromikon.intake.looking import counted, last_sent
from dromikon.intake.teaching import messages_of, pasted, source_of, tried
from dromikon.people.roles import May
from dromikon.setup.intakes import address_of
from dromikon.setup.registry import SORTS
from dromikon.sources.models import Intake, Unclaimed

#: A pasted message is at most so long.
LONGEST = 200_000

router = Router(tags=["intakes"])


class TrialIn(Schema):
    """A decoder's document; `message`: one more message to try it on, besides the last ones of its intake or device."""

    document: dict[str, Any]
    message: str = ""
    content_type: str = ""


class TriedEventOut(Schema):
    """`point` is empty where the site has none of the name that was `said`."""

    kind: str
    phase: str
    point: str
    name: str
    said: str
    fields: dict[str, Any]
    at: str | None


class TriedOut(Schema):
    """`outcome`: other (it is not this decoder's), read or failed. The pasted message has the number 0."""

    id: int
    outcome: str
    why: str
    events: list[TriedEventOut]


class IntakeOut(Schema):
    """`accepted` and `refused` (by reason) count the last seven days. `state`: of what we fetch from, online or lost, and why;
    otherwise empty."""

    id: str
    name: str
    enabled: bool
    proof: str
    address: str
    accepted: int
    refused: dict[str, int]
    state: str
    state_message: str


class BecameOut(Schema):
    kind: str
    point: str


class SentOut(Schema):
    """A message. `became`: the events that it is; `unclaimed`: why it is none; `waits`: nobody has read it yet. `body` is told
    to those who may edit lists, since it may hold personal data."""

    id: int
    at: str
    content_type: str
    size: int
    became: list[BecameOut]
    unclaimed: str
    waits: bool
    body: str | None


class UnclaimedOut(Schema):
    id: int
    at: str
    source: str
    reason: str
    body: str | None


@router.get("/intakes", response=list[IntakeOut], summary="Intakes, with what became of what they were sent")
def intakes(request: HttpRequest, site: Site = None) -> list[dict[str, Any]]:
    known = list(Intake.objects.filter(site=at_site(request, site).site, retired_at=None).order_by("name"))
    counts = counted(known, now_ms())
    return [_intake(i, {c.outcome: c.week for c in counts.get(i.id, [])}) for i in known]


@router.get(
    "/intakes/{intake_id}/messages", response={200: list[SentOut], 404: Error},
    summary="What an intake was sent last, the newest first",
)  # fmt: skip
def messages(request: HttpRequest, intake_id: str, site: Site = None) -> list[dict[str, Any]]:
    found = at_site(request, site)
    intake = Intake.objects.filter(pk=intake_id, site=found.site, retired_at=None).first()
    if intake is None:
        raise Http404("There is no such intake here.")
    shown = found.may(May.EDIT_LISTS)
    return [
        {
            "id": s.id, "at": iso(s.at), "content_type": s.content_type, "size": s.size, "unclaimed": s.why, "waits": s.waits,
            "became": [{"kind": kind, "point": point} for kind, point in s.events], "body": s.raw if shown else None,
        }
        for s in last_sent(intake)
    ]  # fmt: skip


@router.get("/unclaimed", response=list[UnclaimedOut], summary="Messages that nobody understood, the newest first")
def unclaimed(request: HttpRequest, site: Site = None) -> list[dict[str, Any]]:
    found = at_site(request, site)
    shown = found.may(May.EDIT_LISTS)
    return [
        {"id": u.inbox, "at": iso(u.at), "source": u.source, "reason": u.reason, "body": u.raw if shown else None}
        for u in Unclaimed.objects.filter(site=found.site)[:200]
    ]


def _intake(intake: Intake, counts: dict[str, int]) -> dict[str, Any]:
    return {
        "id": intake.id, "name": intake.name, "enabled": intake.enabled, "proof": intake.proof,
        "address": address_of(intake), "accepted": counts.pop(ACCEPTED, 0), "refused": counts,
        "state": intake.state if intake.proof in FETCHED else "", "state_message": intake.state_message,
    }  # fmt: skip


@router.post(
    "/decoders/trial", response={200: list[TriedOut], 403: Error, 404: Error, 422: Error},
    summary="What the last messages of an intake or a device would become by a decoder; nothing is saved",
)  # fmt: skip
def trial(request: HttpRequest, content: TrialIn, site: Site = None) -> Any:
    found = at_site(request, site)
    found.need(May.EDIT_SOURCES)
    # What messages say may be personal data.
    found.need(May.EDIT_LISTS)
    document = SORTS["decoders"].read(content.document)
    source = source_of(found.site, document)
    if source is None:
        raise Http404("There is no such intake or device here.")
    messages = [pasted(content.message[:LONGEST], content.content_type)] if content.message.strip() else []
    return list(tried(document, source, [*messages, *messages_of(source)]))


@router.get(
    "/decoders/{decoder_id}/document", response={200: Any, 403: Error, 404: Error}, summary="A decoder as a file (JSON)",
    url_name="decoder_document",
)  # fmt: skip
def document(request: HttpRequest, decoder_id: str, site: Site = None) -> HttpResponse:
    found = at_site(request, site)
    found.need(May.EDIT_SOURCES)
    row = SORTS["decoders"].row(found, decoder_id)
    content = row.document.model_dump(mode="json", exclude_defaults=True)
    response = HttpResponse(json.dumps(content, indent=2, ensure_ascii=False), content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="decoder-{row.id}.json"'
    return response
