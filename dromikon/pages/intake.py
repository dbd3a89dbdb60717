"""An intake: how it is sent to, what came last, and what was refused."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.clock import now_ms
from dromikon.core.kinds import KINDS
from dromikon.core.proofs import ACCEPTED, FETCHED, OUTCOMES, PROOFS
from dromikon.core.words import t
from dromikon.intake.looking import Sent, counted, last_sent, rate_of
from dromikon.intake.trying import lines_to_try
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.intakes import address_of
from dromikon.sources.models import Intake, Point
from dromikon.web.views import site_view


@site_view()
def intake(request: HttpRequest, access: Access, intake_id: str) -> HttpResponse:
    found = _find(access, intake_id)
    return render(request, "sources/intake.html", _context(access, found))


@site_view()
def came(request: HttpRequest, access: Access, intake_id: str) -> HttpResponse:
    """What came last, and the counts: asked again and again while the page is looked at."""
    found = _find(access, intake_id)
    return render(request, "sources/_intake_came.html", _context(access, found))


def _find(access: Access, id: str) -> Intake:
    found = Intake.objects.filter(pk=id, site=access.site, retired_at=None).first()
    if found is None:
        raise Http404
    return found


def _context(access: Access, found: Intake) -> dict[str, Any]:
    address = address_of(found)
    counts = counted([found], now_ms()).get(found.id, [])
    names = dict(Point.objects.filter(site=access.site).values_list("id", "name"))
    example = Point.objects.filter(site=access.site, kind="input", retired_at=None, device=None).first()
    return {
        "access": access,
        "intake": found,
        "address": address,
        "fetched": found.proof in FETCHED,
        "taught": PROOFS[found.proof].taught,
        "proof": PROOFS[found.proof].label,
        "reads": PROOFS[found.proof].reads,
        "answers": PROOFS[found.proof].answers,
        "tries": lines_to_try(found, address, example.token or example.id if example else "a-point"),
        "counts": [{"count": c, "label": OUTCOMES.get(c.outcome, c.outcome), "good": c.outcome == ACCEPTED} for c in counts],
        "rate": rate_of(found, now_ms()),
        "sent": [_row(s, names) for s in last_sent(found)],
        "may_edit": access.may(May.EDIT_SOURCES),
        # A raw message may hold personal data, such as a face's template.
        "may_see_raw": access.may(May.EDIT_LISTS),
        "now": now_ms(),
    }  # fmt: skip


def _row(sent: Sent, names: dict[str, str]) -> dict[str, Any]:
    events = [f"{t(KINDS[kind].called) if kind in KINDS else kind} · {names.get(p, p)}" for kind, p in sent.events]
    return {"sent": sent, "events": events}
