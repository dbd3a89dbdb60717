"""What the values of records are called, what of them can be seen, and records as a table."""

from collections.abc import Iterable
from functools import cached_property

from dromikon.authoring.tables import Table
from dromikon.core.alarms.states import OUTCOMES, AlarmState
from dromikon.core.instants import iso
from dromikon.core.kinds import KINDS
from dromikon.core.records.entry import SINGLE, SORTS
from dromikon.core.words import N_, t
from dromikon.daybook.models import Step
from dromikon.desk.models import Alarm
from dromikon.records.services import Found
from dromikon.sites.models import Site
from dromikon.sources.models import Point, Sightline

#: How records ended, besides what alarms were.
_STATES = {
    AlarmState.UNACKNOWLEDGED.value: N_("unanswered"),
    "late": N_("learned late"),
    Step.Status.DUE.value: N_("waiting"),
    Step.Status.SENDING.value: N_("being sent"),
    Step.Status.DONE.value: N_("done"),
    Step.Status.FAILED.value: N_("failed"),
    Step.Status.UNCONFIRMED.value: N_("unconfirmed"),
    Step.Status.EXPIRED.value: N_("expired"),
    Step.Status.DROPPED.value: N_("dropped"),
}
COLUMNS = (
    N_("Time (UTC)"), N_("What"), N_("Title"), N_("Told"), N_("Area"), N_("Point"), N_("Rule"), N_("Person"), N_("Outcome"),
)  # fmt: skip


class Labels:
    """What areas, points and rules of a site are called, also those that are retired."""

    def __init__(self, site: Site) -> None:
        self.site = site

    @cached_property
    def _named(self) -> dict[str, dict[str, str]]:
        return {
            "area": dict(self.site.areas.values_list("id", "name")),
            "point": dict(self.site.points.values_list("id", "name")),
            "rule": dict(self.site.rules.values_list("id", "name")),
        }

    def of(self, facet: str, value: str) -> str:
        """A value of a facet in words."""
        if facet == "sort":
            return t(SORTS[value])
        if facet == "kind":
            kind = KINDS.get(value)
            return t(kind.label) if kind else value
        if facet == "outcome":
            return t(OUTCOMES.get(value) or _STATES.get(value, value)) if value else ""
        return self._named.get(facet, {}).get(value, value)

    def runs_of_alarms(self, refs: Iterable[str]) -> dict[str, str]:
        """By the number of an alarm, the run that raised it."""
        found = Alarm.objects.filter(site=self.site, pk__in=list(refs)).values_list("pk", "run")
        return {str(number): run for number, run in found}


def cameras_of(site: Site, points: Iterable[str]) -> dict[str, str]:
    """By point, a camera that sees it; a camera sees itself."""
    wanted = [p for p in points if p]
    own = Point.objects.filter(site=site, pk__in=wanted, kind="camera", retired_at=None).values_list("pk", flat=True)
    detected = Point.objects.filter(site=site, pk__in=wanted).exclude(channel=None).values_list("pk", "channel_id")
    lines = Sightline.objects.filter(point_id__in=wanted, camera__retired_at=None).order_by("-pk")
    return dict(lines.values_list("point_id", "camera_id")) | dict(detected) | {id: id for id in own}


def table_of(site: Site, found: Iterable[Found]) -> Table:
    """Records as a table with its head."""
    labels = Labels(site)
    head = [t(column) for column in COLUMNS]
    return [head, *(_line(row, labels) for row in found)]


def _line(row: Found, labels: Labels) -> list[str | int]:
    title = labels.of("kind", row.kind) if row.sort == "event" else row.title
    places = (labels.of(name, getattr(row, name)) for name in ("area", "point", "rule"))
    return [iso(row.at), t(SINGLE[row.sort]), title, row.more, *places, row.person, labels.of("outcome", row.outcome)]
