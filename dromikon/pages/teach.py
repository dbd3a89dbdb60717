"""The decoder bench: what an intake or a device sent on the left, the decoder beside it, and what becomes of it below."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.core.decoders.document import DecoderDocument
from dromikon.core.decoders.ready import READY
from dromikon.core.rules.form import forms_of
from dromikon.intake.teaching import Source, messages_of, shown
from dromikon.pages.device import find_device
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.offers import offers_of
from dromikon.setup.registry import SORTS
from dromikon.sources.models import Decoder, Intake
from dromikon.web.views import in_address, site_view


@site_view(May.EDIT_SOURCES)
def teach(request: HttpRequest, access: Access, intake_id: str) -> HttpResponse:
    """A new decoder of an intake, or the one that is asked for (?decoder=), with a message opened (?message=)."""
    intake = Intake.objects.filter(pk=intake_id, site=access.site, retired_at=None).first()
    if intake is None:
        raise Http404
    return _bench(request, access, intake)


@site_view(May.EDIT_SOURCES)
def teach_device(request: HttpRequest, access: Access, device_id: str) -> HttpResponse:
    """The same for a device: what topics of its own mean."""
    return _bench(request, access, find_device(access, device_id))


def _bench(request: HttpRequest, access: Access, source: Source) -> HttpResponse:
    access.need(May.EDIT_LISTS)
    messages = [shown(m) for m in messages_of(source)]
    wanted = in_address(request.GET.get("message"))
    known = Decoder.objects.filter(retired_at=None)
    if isinstance(source, Intake):
        sort, known = "intake", known.filter(intake=source)
    else:
        sort, known = "device", known.filter(device=source)
    carried = {
        "source": {"sort": sort, "id": source.id, "name": source.name},
        "messages": messages,
        "opened": wanted if any(m["id"] == wanted for m in messages) else None,
        "ready": [{"name": r.name, "document": r.document, "example": r.example} for r in READY],
        "forms": forms_of(DecoderDocument),
        "catalogue": offers_of(access),
        **_opened(access, request.GET.get("decoder", "")),
    }
    context = {"access": access, "source": source, "carried": carried, "decoders": known, "ready": READY}
    return render(request, "sources/teach.html", context)


def _opened(access: Access, id: str) -> dict[str, Any]:
    if not id:
        return {"decoder": None, "version": None, "document": {}}
    row = SORTS["decoders"].row(access, id)
    return {
        "decoder": row.id,
        "version": row.version,
        "document": row.document.model_dump(mode="json", exclude_defaults=True),
    }
