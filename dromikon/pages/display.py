"""A display: cameras on the whole screen of any browser, and what rules put up there."""

from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from dromikon.desk.models import Display
from dromikon.operating.screens import cameras_of, of_display
from dromikon.people.access import Access, all_access
from dromikon.web.views import person_of, site_view


@site_view()
def display(request: HttpRequest, access: Access, slug: str) -> HttpResponse:
    found = Display.objects.filter(site=access.site, slug=slug, retired_at=None).first()
    if found is None:
        raise Http404("There is no such display.")
    context = {
        "access": access,
        "display": found,
        "carried": {
            "screen": of_display(found).to_json(), "display": found.id, "slug": found.slug,
            "cameras": [{"id": c.id, "name": c.name} for c in cameras_of(access)],
        },
    }  # fmt: skip
    return render(request, "desk/display.html", context)


@login_required
def by_name(request: HttpRequest, slug: str) -> HttpResponse:
    """The short address: leads to the display of that name at whichever site of one's own has one."""
    sites = [found.site.id for found in all_access(person_of(request))]
    found = Display.objects.filter(site__in=sites, slug=slug, retired_at=None).first()
    if found is None:
        raise Http404("There is no such display.")
    return redirect("display", found.site_id, found.slug)
