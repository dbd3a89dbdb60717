"""The site plan over the API: the drawing, where points stand, which cameras look at them."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.authoring.points import how_points_are
from dromikon.desk.services import alarms_by_point
from dromikon.people.access import Access
from dromikon.sources.models import Point, SitePlan
from dromikon.sources.plan import place_point, save_plan, scale_plan, set_sightlines

router = Router(tags=["plan"])
#: A drawing is shown, and nothing in it runs or fetches, whatever it holds.
DRAWING_POLICY = "default-src 'none'; style-src 'unsafe-inline'; img-src data:; sandbox"


class PlanOut(Schema):
    """`wide` and `tall` in metres."""

    name: str
    media: str
    wide: float
    tall: float


class ScaleIn(Schema):
    """Metres from left to right."""

    wide: float


class PlaceIn(Schema):
    """Metres from the left and the top, or null to take the point off the plan. For cameras: the direction in degrees
    clockwise from upwards, degrees of view, and metres of reach; what is left out stays."""

    place: tuple[float, float] | None
    looks: float | None = None
    view: float | None = None
    reach: float | None = None


class PointNow(Schema):
    """`now` in words; `on` when a state holds that is not the usual one; `lost` when its device cannot tell; `alarm`: the
    priority of the most urgent alarm there that you may see and nobody has answered."""

    id: str
    now: str
    on: bool
    lost: bool
    alarm: str


class LineIn(Schema):
    """A camera, and the token of the preset in which it looks there."""

    camera: str
    preset: str = ""


class LinesIn(Schema):
    lines: list[LineIn]


REFUSALS: dict[int, Any] = {403: Error, 404: Error, 422: Error}


@router.put("/plan", response={200: PlanOut, **REFUSALS}, summary="Load a drawing (SVG or PNG) as the site's plan")
def load(request: HttpRequest, wide: float, name: str = "", site: Site = None) -> Any:
    return save_plan(at_site(request, site), request.body, name, wide)


@router.get("/plan/drawing", summary="The drawing of the site's plan", url_name="plan_drawing")
def drawing(request: HttpRequest, site: Site = None) -> HttpResponse:
    plan = SitePlan.objects.filter(site=at_site(request, site).site).first()
    if plan is None:
        raise Http404("The site has no plan yet.")
    answer = HttpResponse(bytes(plan.content), content_type=plan.media)
    answer["Content-Security-Policy"] = DRAWING_POLICY
    answer["X-Content-Type-Options"] = "nosniff"
    answer["Cache-Control"] = "private, max-age=31536000"
    return answer


@router.put("/plan/scale", response={204: None, **REFUSALS}, summary="Say how wide the plan is")
def scale(request: HttpRequest, content: ScaleIn, site: Site = None) -> Any:
    scale_plan(at_site(request, site), content.wide)
    return 204, None


@router.get("/points/now", response=list[PointNow], summary="How the points are now")
def now(request: HttpRequest, site: Site = None) -> list[dict[str, Any]]:
    found = at_site(request, site)
    known = how_points_are(found.site, found.site.points.filter(retired_at=None).select_related("device"))
    alarms = alarms_by_point(found)
    return [
        {"id": id, "now": p.now, "on": p.on, "lost": p.lost, "alarm": alarms.get(id, "")} for id, p in known.items()
    ]


@router.put("/points/{point_id}/place", response={204: None, **REFUSALS}, summary="Put a point on the plan")
def place(request: HttpRequest, point_id: str, content: PlaceIn, site: Site = None) -> Any:
    found = at_site(request, site)
    place_point(found, _point(found, point_id), content.place, content.looks, content.view, content.reach)
    return 204, None


@router.put("/points/{point_id}/sightlines", response={204: None, **REFUSALS}, summary="Which cameras look at a point")
def lines(request: HttpRequest, point_id: str, content: LinesIn, site: Site = None) -> Any:
    found = at_site(request, site)
    set_sightlines(found, _point(found, point_id), [(line.camera, line.preset) for line in content.lines])
    return 204, None


def _point(found: Access, point_id: str) -> Point:
    point = Point.objects.filter(pk=point_id, site=found.site, retired_at=None).first()
    if point is None:
        raise Http404("There is no such point.")
    return point
