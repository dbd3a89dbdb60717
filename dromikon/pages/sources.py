"""Sources: health first, then every point by area, with the devices that they are of; intakes; the unclaimed."""

from collections import Counter
from collections.abc import Iterable
from typing import Any

from django.db.models import Count, Q
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.cache import never_cache

from dromikon.authoring.points import Stands, how_points_stand
from dromikon.authoring.readings import MEASURING, limits_by_point
from dromikon.clock import now_ms
from dromikon.core.point_kinds import ICONS
from dromikon.core.proofs import ACCEPTED, OUTCOMES, PROOFS
from dromikon.core.readings.chart import Chart, Sheet, chart
from dromikon.core.words import t
from dromikon.daybook.readings import pieces
from dromikon.intake.looking import counted
from dromikon.intake.strangers import REASONS
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.intakes import address_of
from dromikon.sites.models import Area
from dromikon.sources.models import Device, Intake, Search, Stranger, Unclaimed
from dromikon.sources.offers import is_gone, offered_points
from dromikon.sources.unclaimed import alike
from dromikon.web.views import site_view

#: A device's clock that is off by less is none to be told of, in ms.
CLOCK = 1_500
DAY = 86_400_000
#: Strangers of the last week are told of, so many at most.
LATELY, MOST_STRANGERS = 7 * 86_400_000, 20


@site_view()
def sources(request: HttpRequest, access: Access) -> HttpResponse:
    devices = list(_devices(access))
    points = access.site.points.filter(retired_at=None).select_related("device", "area")
    stands = how_points_stand(access.site, points, now_ms())
    areas = _by_area(access, devices, stands, _sparks(access, stands))
    unclaimed = Unclaimed.objects.filter(site=access.site)
    context = {
        "access": access,
        "areas": areas,
        "health": _health(devices, stands.values()),
        "empty": not devices and not stands,
        "intakes": _intakes(access),
        "strangers": _strangers() if access.may(May.EDIT_SOURCES) else [],
        "unclaimed": alike(access.site),
        "unclaimed_count": unclaimed.count(),
        "may_edit": access.may(May.EDIT_SOURCES),
        # A raw message may hold personal data, such as a face's template.
        "may_see_raw": access.may(May.EDIT_LISTS),
        "now": now_ms(),
    }
    return render(request, "sources/sources.html", context)


def _intakes(access: Access) -> list[dict[str, Any]]:
    """Each with how it is proved who sends, and what became of what was sent."""
    known = list(Intake.objects.filter(site=access.site, retired_at=None).order_by("name"))
    counts = counted(known, now_ms())
    return [
        {
            "intake": intake,
            "address": address_of(intake),
            "proof": PROOFS[intake.proof].label,
            "counts": [
                {"week": c.week, "label": OUTCOMES.get(c.outcome, c.outcome), "good": c.outcome == ACCEPTED}
                for c in counts.get(intake.id, [])
            ],
        }
        for intake in known
    ]


def _strangers() -> list[dict[str, Any]]:
    """Who sent traps lately that belong to no intake of any site, so that whoever sets up a sender sees what is amiss."""
    lately = Stranger.objects.filter(last_at__gt=now_ms() - LATELY).order_by("-last_at")[:MOST_STRANGERS]
    return [
        {"address": s.address, "label": t(REASONS.get(s.why, s.why)), "count": s.count, "last_at": s.last_at}
        for s in lately
    ]


def _devices(access: Access) -> Iterable[Device]:
    noticed = Count("changes", filter=Q(changes__noted_at=None))
    return access.site.devices.filter(retired_at=None).annotate(changed=noticed)


def _sparks(access: Access, stands: dict[str, Stands]) -> dict[str, Chart]:
    """By point that measures, what it read in the last day, with the limits of its rules."""
    end = now_ms()
    sheet = Sheet(end - DAY, end, 96, 22)
    measuring = [id for id, stand in stands.items() if stand.point.kind in MEASURING]
    read = pieces(access.site.id, measuring, sheet.start, end, 48)
    limits = limits_by_point(access.site) if read else {}
    return {
        id: chart(told, [limit.value for limit in limits.get(id, [])], sheet, DAY // 12) for id, told in read.items()
    }


def _by_area(
    access: Access, devices: list[Device], stands: dict[str, Stands], sparks: dict[str, Chart]
) -> list[dict[str, Any]]:
    """The devices and points of each area, then those of none: as many questions however many there are."""
    tokens: dict[str, set[str]] = {}
    cameras: dict[str, str] = {}
    for stand in stands.values():
        point = stand.point
        if point.device_id:
            tokens.setdefault(point.device_id, set()).add(point.token)
            if point.kind == "camera":
                cameras.setdefault(point.device_id, point.id)
    tiles: dict[str | None, list[dict[str, Any]]] = {}
    for device in devices:
        offers = [o for o in offered_points(device, tokens.get(device.id, set())) if o["kind"] != "topic"]
        tiles.setdefault(device.area_id, []).append(
            {"device": device, "camera": cameras.get(device.id), "offers": len(offers)}
        )
    rows: dict[str | None, list[Stands]] = {}
    for stand in stands.values():
        rows.setdefault(stand.point.area_id, []).append(stand)
    areas: list[Area | None] = list(access.site.areas.filter(retired_at=None))
    if None in tiles or None in rows:
        areas.append(None)
    return [
        {
            "area": area,
            "tiles": tiles.get(id, []),
            "rows": [row_of(s, sparks.get(s.point.id)) for s in rows.get(id, [])],
        }
        for area in areas
        for id in (area.id if area else None,)
    ]


def row_of(stand: Stands, spark: Chart | None = None) -> dict[str, Any]:
    """A point as a row of a table: with the marks by which rows can be chosen, and what it read, if it measures."""
    marks = [
        mark
        for mark, has in (("silent", bool(stand.silent)), ("unheard", any(s.unheard for s in stand.sends)))
        if has
    ]  # fmt: skip
    return {
        "stand": stand,
        "point": stand.point,
        "icon": ICONS.get(stand.point.kind, "wave-sine"),
        "marks": " ".join(marks),
        "gone": is_gone(stand.point),
        "spark": spark,
    }


def _health(devices: list[Device], stands: Iterable[Stands]) -> dict[str, int]:
    """What is to be told first: how many devices are in which state, and how many points need a look."""
    counts = Counter(_state(d) for d in devices)
    counts["clock"] = sum(1 for d in devices if d.enabled and abs(d.clock_offset_ms) >= CLOCK)
    counts["changed"] = sum(1 for d in devices if getattr(d, "changed", 0))
    for stand in stands:
        counts["silent"] += bool(stand.silent)
        counts["unheard"] += any(s.unheard for s in stand.sends)
    return dict(counts)


def _state(device: Device) -> str:
    return device.state if device.enabled else "off"


@site_view(May.EDIT_SOURCES)
@never_cache
def find(request: HttpRequest, access: Access) -> HttpResponse:
    """Many devices at once: asked, chosen, added. A search that was left is there again."""
    last = Search.objects.filter(site=access.site).first()
    context = {"access": access, "areas": access.site.areas.filter(retired_at=None), "last": last.id if last else ""}
    return render(request, "sources/find.html", context)
