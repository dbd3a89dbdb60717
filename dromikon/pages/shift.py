"""The shift: the operators' log since the last hand-over, and hand-overs to be read."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.clock import now_ms
from dromikon.desk.models import Handover
from dromikon.operating.shift import Line, as_seen_by, shift_began, state_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.web.views import site_view

#: So many hand-overs are listed.
LATELY = 20


@site_view()
def shift(request: HttpRequest, access: Access) -> HttpResponse:
    start = shift_began(access)
    state = state_of(access, start, now_ms())
    handovers = list(Handover.objects.filter(site=access.site).order_by("-at")[:LATELY])
    context = {
        "access": access,
        "start": start,
        "state": state,
        "lines": _lines(state),
        "handovers": handovers,
        "to_take": next((h for h in handovers[:1] if h.taken_at is None and h.person_id != access.person.pk), None),
        "may_write": access.may(May.ACKNOWLEDGE),
    }
    return render(request, "daybook/shift.html", context)


@site_view()
def handover(request: HttpRequest, access: Access, handover: int) -> HttpResponse:
    """One hand-over, as it was; made to be printed, too."""
    found = Handover.objects.filter(site=access.site, pk=handover).first()
    if found is None:
        raise Http404("There is no such hand-over.")
    state = as_seen_by(access, found.body)
    context = {
        "access": access,
        "handover": found,
        "state": state,
        "lines": _lines(state),
        "may_take": access.may(May.ACKNOWLEDGE) and found.taken_at is None and found.person_id != access.person.pk,
    }
    return render(request, "daybook/handover.html", context)


def _lines(state: dict[str, Any]) -> list[Line]:
    return [Line(**line) for line in state["log"]]
