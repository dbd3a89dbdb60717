"""Detectors of our own, drawn on a camera's picture and tried over what it saw."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.core.rules.form import forms_of
from dromikon.core.scene.search import settings_of
from dromikon.core.scene.seeing import Seeing
from dromikon.core.scene.watching import DETECTORS, Detector
from dromikon.core.words import N_, t
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.scene.camera import seeing_of
from dromikon.scene.own import cameras, own_of, shown
from dromikon.scene.siting import doubt
from dromikon.scene.standing import said
from dromikon.sources.offers import catalogue_of
from dromikon.web.views import site_view

#: How far back a search may go, in days, with what it is called.
STRETCHES = ((1, N_("a day")), (7, N_("a week")), (30, N_("30 days")))


@site_view()
def scene(request: HttpRequest, access: Access, camera: str) -> HttpResponse:
    """One camera: its picture, its detectors of our own, and the past that they are tried on."""
    known = cameras(access).filter(pk=camera).first()
    if known is None:
        raise Http404("There is no such camera.")
    sees = known.device is not None and known.token in catalogue_of(known.device).get("scenes", [])
    context = {
        "access": access,
        "camera": known,
        "sees": sees,
        "own": [(p, [words for words in (said(p), doubt(known, p)) if words]) for p in own_of(known)],
        "others": cameras(access).exclude(pk=known.pk).order_by("name"),
        "stretches": [(days, t(words)) for days, words in STRETCHES],
        "may_edit": access.may(May.EDIT_SOURCES),
        "carried": {
            "own": [shown(p) for p in own_of(known)],
            "kinds": {name: _kind(name) for name in DETECTORS.names()},
            "opened": request.GET.get("detector", ""),
            "seeing": seeing_of(known).model_dump(mode="json"),
            "forms": forms_of(Seeing),
        },
    }
    return render(request, "sources/own.html", context)


def _kind(name: str) -> dict[str, Any]:
    """A kind of detector as it is offered: what is drawn, its form, and what may be varied."""
    kind: type[Detector] = DETECTORS[name]
    return {
        "label": t(kind.label), "shape": kind.shape, "forms": forms_of(kind),
        "varied": settings_of(kind),
    }  # fmt: skip
