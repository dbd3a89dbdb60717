"""How the installation is: a page for administrators, figures for programs that watch, and one word for load balancers."""

from ipaddress import ip_address, ip_network
from typing import Any

from django.contrib.auth.decorators import login_required
from django.db import DatabaseError, connection
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from prometheus_client import CONTENT_TYPE_LATEST

from dromikon import config
from dromikon.clock import now_ms
from dromikon.daybook.models import EnginePosition
from dromikon.health.measures import SILENT, amounts, measure
from dromikon.health.metrics import exposition
from dromikon.health.troubles import Trouble, troubles_of
from dromikon.people.access import Everywhere
from dromikon.people.tokens import token_of
from dromikon.setup.registry import sorts_for
from dromikon.sources.models import Device
from dromikon.start import key_fits
from dromikon.web.views import person_of


@login_required
@never_cache
def health(request: HttpRequest) -> HttpResponse:
    """What is wrong and what to do, then the figures."""
    who = Everywhere(person_of(request))
    who.need()
    found = measure()
    context = {
        "health": found,
        "troubles": [(trouble, _address(trouble)) for trouble in troubles_of(found)],
        "amounts": amounts(),
        "page": "health",
        "whole": True,
        "tabs": [(sort, False) for sort in sorts_for(who, whole=True)],
    }
    return render(request, "setup/health.html", context)


def _address(trouble: Trouble) -> str:
    """Where a trouble is mended; empty where no page helps."""
    return reverse(trouble.place[0], args=trouble.place[1:]) if trouble.place else ""


@never_cache
def metrics(request: HttpRequest) -> HttpResponse:
    """For addresses that are allowed (DROMIKON_METRICS), and for tokens of the installation's administrators."""
    if not (_allowed_address(request.META.get("REMOTE_ADDR", "")) or _allowed_token(request)):
        return HttpResponse("Not from here, and not without a token.\n", status=403, content_type="text/plain")
    return HttpResponse(exposition(measure()), content_type=CONTENT_TYPE_LATEST)


def _allowed_address(caller: str) -> bool:
    try:
        address = ip_address(caller)
        return any(address in ip_network(network, strict=False) for network in config.metrics())
    except ValueError:
        return False


def _allowed_token(request: HttpRequest) -> bool:
    scheme, _, text = request.headers.get("authorization", "").partition(" ")
    known = token_of(text.strip()) if scheme.lower() == "bearer" and text.strip() else None
    return known is not None and Everywhere(known.person).may


def healthz(request: HttpRequest) -> HttpResponse:
    """The state of database, engine and device sessions; 503 when the engine or the database is not working."""
    state: dict[str, Any] = {
        "database": "ok",
        "engine": "ok",
        "key": "ok" if key_fits() else "another one",
        "devices": {},
    }
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
        position = EnginePosition.objects.filter(id=1).first()
        if position is None or now_ms() - position.beat > SILENT:
            state["engine"] = "not running"
        for device_state in Device.objects.filter(retired_at=None).values_list("state", flat=True):
            state["devices"][device_state] = state["devices"].get(device_state, 0) + 1
    except DatabaseError:
        state["database"] = state["engine"] = "unknown"
    well = all(state[part] == "ok" for part in ("database", "engine", "key"))
    return JsonResponse({"healthy": well, **state}, status=200 if well else 503)
