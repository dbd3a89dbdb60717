"""Deliveries: what was sent where, how long it took, what it answered, what failed and why."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.daybook.deliveries import SHOWN, counts_of, deliveries_of, resting_of
from dromikon.daybook.receivers import at_the_other_end, receiver
from dromikon.facts import names_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.web.views import site_view


@site_view()
def deliveries(request: HttpRequest, access: Access) -> HttpResponse:
    shown, text = request.GET.get("shown", ""), request.GET.get("text", "")[:100]
    facts = names_of(access.site)
    rows = [
        {**row, "target": receiver(row["step"].target, facts)}
        for row in deliveries_of(access.site.id, shown if shown in SHOWN else "", text)
    ]
    resting = [
        {**found, "target": at_the_other_end(found["rest"].lane, found["rest"].target, facts)}
        for found in resting_of(access.site.id)
    ]
    context = {
        "access": access, "rows": rows, "counts": counts_of(access.site.id), "shown": shown, "text": text,
        "resting": resting, "may_edit": access.may(May.EDIT_RULES),
    }  # fmt: skip
    return render(request, "deliveries/deliveries.html", context)
