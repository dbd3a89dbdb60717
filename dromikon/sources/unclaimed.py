"""Messages that nobody understood, those that are alike together."""

from dataclasses import dataclass

from django.db.models import Count, Max

from dromikon.sites.models import Site
from dromikon.sources.models import Intake, Unclaimed


@dataclass(frozen=True, slots=True)
class Alike:
    """Messages of one sender that are alike: how many, and the newest of them. `intake`: by which they came, where they came
    by one."""

    count: int
    newest: Unclaimed
    intake: str | None


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
    ids = dict(Intake.objects.filter(site=site, retired_at=None).values_list("name", "id"))
    newest = Unclaimed.objects.filter(inbox__in=counts).order_by("-inbox")
    return [Alike(counts[message.inbox], message, ids.get(message.source)) for message in newest]
