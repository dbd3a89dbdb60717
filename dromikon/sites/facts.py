"""From the tables to the values that rules are evaluated with."""

from django.db.models import F

from dromikon.core.facts import Area, Facts, Group, LiveRule, Point
from dromikon.core.hours import Hours
from dromikon.rulebook.models import Revision
from dromikon.sites.models import Site
from dromikon.sources.models import Sightline


def facts_of(site: Site) -> Facts:
    """Everything the rules of a site may name, and its live rules, as of now."""
    sightlines: dict[str, list[str]] = {}
    for point, camera in Sightline.objects.filter(point__site=site).values_list("point_id", "camera_id"):
        sightlines.setdefault(point, []).append(camera)
    return Facts(
        site=site.id,
        name=site.name,
        zone=site.zone,
        areas=tuple(Area(id=a.id, name=a.name, parent=a.parent_id) for a in site.areas.all()),
        points=tuple(
            Point(
                id=p.id,
                name=p.name,
                kind=p.kind,
                area=p.area_id,
                device=p.device_id,
                channel=p.channel_id,
                tags=tuple(p.tags),
                waits=p.waits,
            )
            for p in site.points.all()
        ),
        sightlines={point: tuple(cameras) for point, cameras in sightlines.items()},
        hours=tuple(Hours.model_validate({**h.document, "id": h.id, "name": h.name}) for h in site.hours.all()),
        groups=tuple(
            Group(id=g.id, name=g.name, roles=tuple(g.roles), persons=tuple(str(p.pk) for p in g.persons.all()))
            for g in site.groups.prefetch_related("persons")
        ),
        rules=tuple(
            LiveRule(id=r.rule_id, revision=r.number, document=r.document)
            for r in Revision.objects.filter(
                rule__site=site, rule__enabled=True, rule__deleted=False, number=F("rule__revision")
            )
        ),
    )
