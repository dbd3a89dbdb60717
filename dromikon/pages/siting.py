"""What a camera's picture suffices for, by how it hangs."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.core.optics import PURPOSES, Mounting
from dromikon.core.rules.form import forms_of
from dromikon.core.words import t
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.scene.camera import mounting_of
from dromikon.scene.own import cameras
from dromikon.web.views import site_view


@site_view()
def siting(request: HttpRequest, access: Access, camera: str) -> HttpResponse:
    """One camera: its picture with the distances to which it suffices, and how it hangs."""
    known = cameras(access).filter(pk=camera).first()
    if known is None:
        raise Http404("There is no such camera.")
    mounting = mounting_of(known)
    context: dict[str, Any] = {
        "access": access,
        "camera": known,
        "measured": mounting is not None,
        "purposes": [(name, t(words), least) for name, (words, least) in reversed(PURPOSES.items())],
        "may_edit": access.may(May.EDIT_SOURCES),
        "carried": {
            "mounting": mounting.model_dump(mode="json") if mounting else None,
            "forms": forms_of(Mounting),
        },
    }
    return render(request, "sources/siting.html", context)
