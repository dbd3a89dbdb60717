"""What the forms of set-up can choose from."""

from typing import Any

from dromikon.core.offered import kinds_offered
from dromikon.people.access import Everywhere
from dromikon.people.models import Membership
from dromikon.setup.place import languages, zones
from dromikon.setup.sort import Who
from dromikon.sites.models import Customer, Site

Offers = dict[str, list[Any]]


def offers_of(who: Who) -> Offers:
    """Lists by what a control picks, each of id and name; points say their kind besides."""
    if isinstance(who, Everywhere):
        return {
            **_empty(),
            "customers": _named(Customer.objects.filter(retired_at=None).order_by("name")),
            "sites": _named(Site.objects.filter(retired_at=None)),
        }
    site = who.site
    members = Membership.objects.filter(site=site, person__is_active=True).select_related("person")
    points = site.points.filter(retired_at=None).order_by("name").values("id", "name", "kind", "tags")
    return {
        **_empty(),
        "points": [{"id": p["id"], "name": p["name"], "kind": p["kind"]} for p in points],
        "tags": sorted({tag for p in points for tag in p["tags"]}),
        "groups": _named(site.groups.filter(retired_at=None)),
        "areas": _named(site.areas.filter(retired_at=None)),
        "devices": _named(site.devices.filter(retired_at=None)),
        "kinds": kinds_offered(),
        "hours": _named(site.hours.order_by("name")),
        "intakes": _named(site.intakes.filter(retired_at=None)),
        "recorders": _named(site.recorders.filter(retired_at=None)),
        "persons": [{"id": str(m.person_id), "name": m.person.shown_name} for m in members],
    }


def _empty() -> Offers:
    lists = (
        "kinds",
        "operators",
        "points",
        "tags",
        "areas",
        "devices",
        "recorders",
        "intakes",
        "persons",
        "groups",
        "hours",
        "customers",
        "sites",
    )
    return {name: [] for name in lists} | {"zones": zones(), "languages": languages()}


def _named(things: Any) -> list[dict[str, str]]:
    return [{"id": id, "name": name} for id, name in things.values_list("id", "name")]
