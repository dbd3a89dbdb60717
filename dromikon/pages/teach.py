"""The decoder bench: what an intake was sent on the left, the decoder beside it, and what becomes of it below."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.core.decoders.document import DecoderDocument
from dromikon.core.decoders.ready import READY
from dromikon.core.rules.form import forms_of
from dromikon.intake.teaching import messages_of, shown
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.offers import offers_of
from dromikon.setup.registry import SORTS
from dromikon.sources.models import Decoder, Intake
from dromikon.web.views import in_address, site_view


@site_view(May.EDIT_SOURCES)
def teach(request: HttpRequest, access: Access, intake_id: str) -> HttpResponse:
    """A new decoder, or the one that is asked for (?decoder=), with a message opened (?message=)."""
    intake = Intake.objects.filter(pk=intake_id, site=access.site, retired_at=None).first()
    if intake is None:
        raise Http404
    access.need(May.EDIT_LISTS)
    messages = [shown(m) for m in messages_of(intake)]
    wanted = in_address(request.GET.get("message"))
    carried = {
        "intake": {"id": intake.id, "name": intake.name},
        "messages": messages,
        "opened": wanted if any(m["id"] == wanted for m in messages) else None,
        "ready": [{"name": r.name, "document": r.document, "example": r.example} for r in READY],
        "forms": forms_of(DecoderDocument),
        "catalogue": offers_of(access),
        **_opened(access, intake, request.GET.get("decoder", "")),
    }
    known = Decoder.objects.filter(intake=intake, retired_at=None)
    return render(
        request,
        "sources/teach.html",
        {"access": access, "intake": intake, "carried": carried, "decoders": known, "ready": READY},
    )


def _opened(access: Access, intake: Intake, id: str) -> dict[str, Any]:
    if not id:
        return {"decoder": None, "version": None, "document": {}}
    row = SORTS["decoders"].row(access, id)
    return {
        "decoder": row.id,
        "version": row.version,
        "document": row.document.model_dump(mode="json", exclude_defaults=True),
    }
