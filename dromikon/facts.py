"""From the tables to the values that rules are evaluated with, and to the journal and back."""

from functools import lru_cache
from typing import Any

from django.db.models import F, OuterRef, QuerySet, Subquery

from dromikon.core.facts import (
    Area,
    Counter,
    Destination,
    Device,
    Display,
    Electrical,
    Facts,
    Group,
    LiveRule,
    Member,
    Point,
    Siren,
    Sound,
    Told,
    Value,
)  # fmt: skip
from dromikon.core.hours import Hours
from dromikon.core.lists.watchlist import Sort, WatchList
from dromikon.installation.reach import Reach
from dromikon.installation.settings import setting
from dromikon.lists.entries import entries_of
from dromikon.people.models import Membership, Person
from dromikon.people.roles import May, role_may
from dromikon.rulebook.models import Revision
from dromikon.sites.models import Site
from dromikon.sources.models import Sightline


def facts_of(site: Site) -> Facts:
    """Everything the rules of a site may name, and its live rules, as of now."""
    return names_of(site).model_copy(update={"rules": tuple(_live(r) for r in _live_revisions(site.id))})


def names_of(site: Site) -> Facts:
    """Everything the rules of a site may name, without the rules themselves: what sentences, checks and pages ask for."""
    sightlines: dict[str, list[str]] = {}
    seen_in: dict[str, dict[str, str]] = {}
    lines = Sightline.objects.filter(point__site=site, point__retired_at=None)
    for point, camera, preset in lines.values_list("point_id", "camera_id", "preset"):
        sightlines.setdefault(point, []).append(camera)
        if preset:
            seen_in.setdefault(point, {})[camera] = preset
    members = Membership.objects.filter(site=site, person__is_active=True).select_related("person")
    members = members.prefetch_related("person__mutes")
    return Facts(
        site=site.id,
        name=site.name,
        zone=site.zone,
        language=site.language,
        latitude=site.latitude,
        longitude=site.longitude,
        modes=tuple(site.modes),
        areas=tuple(Area(id=a.id, name=a.name, parent=a.parent_id) for a in site.areas.filter(retired_at=None)),
        points=tuple(_point(p, seen_in.get(p.id, {})) for p in site.points.filter(retired_at=None)),
        sightlines={point: tuple(cameras) for point, cameras in sightlines.items()},
        devices=tuple(Device(id=d.id, name=d.name, gap=d.minimum_gap) for d in site.devices.filter(retired_at=None)),
        hours=tuple(Hours.model_validate({**h.document, "id": h.id, "name": h.name}) for h in site.hours.all()),
        lists=tuple(watch_list(w.id, w.name, w.sort, w.content_id) for w in site.lists.all()),
        counters=tuple(Counter(id=c.id, name=c.name) for c in site.counters.filter(retired_at=None)),
        destinations=tuple(
            Destination(id=d.id, name=d.name, sort=d.sort) for d in site.destinations.filter(retired_at=None)
        ),
        sounds=tuple(Sound(id=s.id, name=s.name) for s in site.sounds.filter(retired_at=None).defer("content")),
        displays=tuple(
            Display(id=d.id, name=d.name, shows=tuple(d.shows)) for d in site.displays.filter(retired_at=None)
        ),
        address=setting(Reach).address,
        groups=tuple(
            Group(id=g.id, name=g.name, roles=tuple(g.roles), persons=tuple(str(p.pk) for p in g.persons.all()))
            for g in site.groups.filter(retired_at=None).prefetch_related("persons")
        ),
        members=tuple(
            Member(
                id=str(m.person_id),
                name=m.person.shown_name,
                role=m.role,
                presses=role_may(m.role, May.PRESS),
                number=bool(m.person.number),
                ways=_ways(m.person),
                duty=m.duty or None,
                quiet=m.quiet or None,
                muted=tuple(sorted(mute.rule for mute in m.person.mutes.all())),
            )
            for m in members
        ),
    )


def _ways(person: Person) -> tuple[str, ...]:
    """The ways in which somebody can be reached, besides their number."""
    known = {"mail": person.email, "push": person.push, "chat": person.chat}
    return tuple(way for way, address in known.items() if address)


def facts_with_rule(before: Facts, rule: str) -> Facts:
    """The facts after one rule was saved, switched or deleted: nothing else is read again."""
    known = {r.id: r for r in before.rules if r.id != rule}
    known.update({r.rule_id: _live(r) for r in _live_revisions(before.site).filter(rule_id=rule)})
    order = _live_revisions(before.site).values_list("rule_id", flat=True)
    rules = tuple(known[id] for id in order if id in known)
    made = before.model_copy(update={"rules": rules})
    # What is looked up by id has not changed.
    made.__dict__.update({name: before.__dict__[name] for name in _KEPT_LOOKUPS if name in before.__dict__})
    return made


#: Look-ups of `Facts` that do not hang on its rules.
_KEPT_LOOKUPS = (
    "place", "member_by_id", "destination_by_id", "point_by_id", "area_by_id", "hours_by_id", "group_by_id", "list_by_id", "counter_by_id", "device_by_id",
    "sound_by_id", "display_by_id",
    "_named",
)  # fmt: skip


def _live_revisions(site: str) -> QuerySet[Revision]:
    """The revisions that run, in the order in which their rules were made: in which they are shown each event."""
    first = Revision.objects.filter(rule=OuterRef("rule"), number=1).values("id")[:1]
    live = Revision.objects.filter(rule__site=site, rule__enabled=True, rule__deleted=False, number=F("rule__revision"))
    return live.annotate(made=Subquery(first)).order_by("made", "rule_id")


def _live(revision: Revision) -> LiveRule:
    return LiveRule(id=revision.rule_id, revision=revision.number, document=revision.document)


def _point(p: Any, seen_in: dict[str, str]) -> Point:
    return Point(
        id=p.id, name=p.name, kind=p.kind, area=p.area_id, device=p.device_id, channel=p.channel_id, tags=tuple(p.tags),
        waits=p.waits, electrical=Electrical.model_validate(p.electrical) if p.electrical else None,
        siren=Siren.model_validate(p.siren) if p.siren else None, told=Told.model_validate(p.told), seen_in=seen_in,
    )  # fmt: skip


@lru_cache(maxsize=64)
def watch_list(id: str, name: str, sort: Sort, content: str) -> WatchList:
    """The same list with the same content is the same value, so that its index is made once."""
    return WatchList(id=id, name=name, sort=sort, content=content, entries=entries_of(content))


def facts_to_json(facts: Facts) -> dict[str, Any]:
    """Facts for the journal: lists by the digest of their content."""
    return facts.model_dump(mode="json", exclude={"lists": {"__all__": {"entries"}}})


def part_to_json(part: Value) -> dict[str, Any]:
    """One thing of facts for the journal."""
    return part.model_dump(mode="json", exclude={"entries"} if isinstance(part, WatchList) else None)


def facts_from_json(body: dict[str, Any]) -> Facts:
    """The inverse of `facts_to_json`."""
    lists = [watch_list(w["id"], w["name"], w["sort"], w["content"]) for w in body.get("lists", ())]
    return Facts.model_validate({**body, "lists": lists})
