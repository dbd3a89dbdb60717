"""One device: how it is, what changed, what it offers, its points, what it can send, and what comes from it."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.cache import never_cache

from dromikon.authoring.points import Stands, how_points_stand, listeners
from dromikon.authoring.proposals import proposals_of
from dromikon.clock import now_ms
from dromikon.core.decoding.onvif import TOPIC_KINDS
from dromikon.core.decoding.onvif.topics import OWN
from dromikon.core.devices.catalogue import topics_set_up
from dromikon.core.devices.drift import PARTS
from dromikon.core.devices.radiometry import Radiometry
from dromikon.core.kinds import KINDS
from dromikon.core.rules.form import forms_of
from dromikon.core.words import t
from dromikon.facts import facts_of
from dromikon.pages.daybook import recent_of
from dromikon.pages.sources import CLOCK, row_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.naming import rules_that_name
from dromikon.sources.models import CatalogueChange, Device, Point, SessionLog, Unclaimed
from dromikon.sources.offers import catalogue_of, offered_points
from dromikon.sources.thermal import measures_heat
from dromikon.web.views import site_view

#: So many of a device's last events stand on its page.
MOST_RECENT = 12
#: So many changes that nobody has noted yet.
MOST_CHANGES = 40


@site_view()
def device(request: HttpRequest, access: Access, device_id: str) -> HttpResponse:
    found = find_device(access, device_id)
    points = list(found.points.filter(retired_at=None).select_related("device").prefetch_related("sightlines__camera"))
    stands = how_points_stand(access.site, points, now_ms())
    context = {
        "access": access,
        "device": found,
        "camera": next((p for p in points if p.kind == "camera"), None),
        "offset": found.clock_offset_ms / 1000 if abs(found.clock_offset_ms) >= CLOCK else None,
        # What nobody here knows is offered where its topic stands.
        "offers": [o for o in offered_points(found, {p.token for p in points}) if o["kind"] != "topic"],
        "rows": [row_of(s) for s in stands.values()],
        "rule_names": _rule_names(access, stands),
        "changes": _changes(access, found, points),
        "events": _events(found, points),
        "proposed": proposals_of(found, stands.values()),
        "may_build": access.may(May.EDIT_RULES),
        "heat": {"forms": forms_of(Radiometry)} if access.may(May.EDIT_SOURCES) and measures_heat(found) else None,
        **_come(access, found, points),
    }
    return render(request, "sources/device.html", context)


@site_view()
@never_cache
def device_recent(request: HttpRequest, access: Access, device_id: str) -> HttpResponse:
    """What has come from it last, for a page that heard that something did."""
    found = find_device(access, device_id)
    points = list(found.points.filter(retired_at=None))
    return render(request, "sources/_come.html", {"access": access, "device": found, **_come(access, found, points)})


@site_view(May.EDIT_SOURCES)
def device_sheet(request: HttpRequest, access: Access, device_id: str | None = None) -> HttpResponse:
    """The form of a device, or of a new one."""
    device = find_device(access, device_id) if device_id else None
    context = {"access": access, "device": device, "areas": access.site.areas.filter(retired_at=None)}
    return render(request, "sources/_device_form.html", context)


@site_view(May.EDIT_SOURCES)
def session(request: HttpRequest, access: Access, device_id: str) -> HttpResponse:
    """What is asked and answered in its session, as it is said."""
    return render(request, "sources/session.html", {"access": access, "device": find_device(access, device_id)})


@site_view(May.EDIT_SOURCES)
@never_cache
def exchanges(request: HttpRequest, access: Access, device_id: str) -> HttpResponse:
    """The last exchanges, for a page that watches."""
    found = find_device(access, device_id)
    log = SessionLog.objects.filter(device=found).first()
    return render(request, "sources/_exchanges.html", {"access": access, "device": found, "log": log})


def find_device(access: Access, device_id: str) -> Device:
    """A device of the site that is in use. Raises Http404."""
    found = Device.objects.filter(pk=device_id, site=access.site, retired_at=None).first()
    if found is None:
        raise Http404
    return found


def _come(access: Access, device: Device, points: list[Point]) -> dict[str, Any]:
    """The last events of its points, and its messages that nobody understood."""
    unclaimed = Unclaimed.objects.filter(site=access.site, source=device.name)[:10]
    return {
        "recent": recent_of(access, points, MOST_RECENT),
        "unclaimed": unclaimed,
        "may_edit": access.may(May.EDIT_SOURCES),
        "may_see_raw": access.may(May.EDIT_LISTS),
    }


def _rule_names(access: Access, stands: dict[str, Stands]) -> dict[str, str]:
    wanted = {rule for stand in stands.values() for rule in stand.rules}
    return {r.id: r.name for r in access.site.rules.filter(pk__in=wanted)}


def _changes(access: Access, device: Device, points: list[Point]) -> list[dict[str, Any]]:
    """What is new, gone or changed since somebody noted it last, with the rules that it touches."""
    found = list(device.changes.filter(noted_at=None)[:MOST_CHANGES])
    if not found:
        return []
    heard = listeners(facts_of(access.site))
    names = {r.id: r.name for r in access.site.rules.all()}
    ids = [p.id for p in points]
    by_token = {p.token: p.id for p in points}

    def touched(change: CatalogueChange) -> list[str]:
        if change.how == "new":
            return []
        if change.part == "events":
            pairs = ((kind, point) for kind in TOPIC_KINDS.get(change.name, ()) for point in ids)
            return sorted({names[rule] for pair in pairs for rule in heard.get(pair, ()) if rule in names})
        point = by_token.get(_token(change.part, change.name))
        return rules_that_name(access.site, point) if point else []

    return [{"change": c, "what": t(PARTS[c.part]), "rules": touched(c)} for c in found]


def _token(part: str, name: str) -> str:
    """A point's token for a thing of the catalogue."""
    prefix = {"inputs": "input/", "relays": "relay/", "doors": "door/"}.get(part, "")
    return f"{prefix}{name}"


def _events(device: Device, points: list[Point]) -> list[dict[str, Any]]:
    """Every event that it says it can send: what we call it, or the point that stands for it, and whether it is set up to
    send it."""
    content = catalogue_of(device)
    owned = {p.token: p.name for p in points}
    running = topics_set_up(content)
    taught = _taught(device)
    return [
        {
            "topic": said["topic"],
            "state": said["state"],
            "items": ", ".join((*said["source"], *said["data"])),
            "kinds": [KINDS[kind] for kind in TOPIC_KINDS.get(said["topic"], ())],
            "own": owned.get(f"{OWN}{said['topic']}"),
            "taught": taught.get(said["topic"], []),
            "token": f"{OWN}{said['topic']}",
            "set_up": running.get(said["topic"]),
            # Of what rules report, only the device could say.
            "untold": said["topic"].startswith("tns1:RuleEngine/") and said["topic"] not in running,
        }
        for said in content.get("events", [])
    ]


def _taught(device: Device) -> dict[str, list[dict[str, Any]]]:
    """By topic, the decoders of this device that ask for it, with the kinds that they make of it."""
    found: dict[str, list[dict[str, Any]]] = {}
    for decoder in device.decoders.filter(retired_at=None):
        for asked in decoder.document["when"]:
            if asked["path"] == "$.topic" and asked["how"] == "is":
                found.setdefault(asked["value"], []).append({"id": decoder.id, "kind": KINDS[decoder.document["kind"]]})
    return found
