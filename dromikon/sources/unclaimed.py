"""Messages that nobody understood, those that are alike together."""

from dataclasses import dataclass

from django.db.models import Count, Max

from dromikon.sites.models import Site
from dromikon.sources.models import Device, Intake, Unclaimed


@dataclass(frozen=True, slots=True)
class Alike:
    """Messages of one sender that are alike: how many, and the newest of them; the intake by which they came, or the device,
    while either is in use."""

    count: int
    newest: Unclaimed
    intake: str | None
    device: str | None


def alike(site: Site, most: int = 30) -> list[Alike]:
    """By sender and likeness, the group with the newest message first."""
    groups = (
        Unclaimed.objects.filter(site=site)
        .order_by()
        .values("source", "likeness")
        .annotate(count=Count("inbox"), newest=Max("inbox"))
        .order_by("-newest")[:most]
    )
    counts = {group["newest"]: group["count"] for group in groups}
    intakes = dict(Intake.objects.filter(site=site, retired_at=None).values_list("name", "id"))
    devices = dict(Device.objects.filter(site=site, retired_at=None).values_list("name", "id"))
    newest = Unclaimed.objects.filter(inbox__in=counts).order_by("-inbox")
    return [Alike(counts[u.inbox], u, intakes.get(u.source), devices.get(u.source)) for u in newest]
