"""Verbs on a site's situation: its mode and its counters. They become journal input, as a rule's steps do."""

from typing import Any

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.rules.document import Problem
from dromikon.daybook.models import EvaluatorRow
from dromikon.daybook.services import record_act
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sites.models import Counter, Site


def situation_of(site: Site) -> dict[str, Any]:
    """The mode, the modes there are, and where the counters stand."""
    rows = dict(
        EvaluatorRow.objects.filter(site=site.id, rule="")
        .filter(key__regex=r"^(mode$|counter\|)")
        .values_list("key", "row")
    )
    mode = rows.get("mode", {}).get("mode", "")
    first = site.modes[0] if site.modes else ""
    return {
        "mode": mode if mode in site.modes else first,
        "modes": list(site.modes),
        "counters": [
            {"id": c.id, "name": c.name, "value": rows.get(f"counter|{c.id}", {}).get("value", 0)}
            for c in Counter.objects.filter(site=site)
        ],
    }


def set_mode(access: Access, mode: str) -> None:
    """The site goes to a mode. Raises Refused, PermissionDenied."""
    access.need(May.SET_MODE)
    if mode not in access.site.modes:
        raise Refused(
            [Problem(path="mode", message=f"The site has the modes {', '.join(access.site.modes) or 'none'}.")]
        )
    at = now_ms()
    with transaction.atomic():
        record(access.site, access.person, "set mode", f"site:{access.site.id}", at, mode=mode)
        record_act(access.site.id, "mode", at, value=mode)


def set_counter(access: Access, counter: str, value: int) -> None:
    """A counter now stands at a number. Raises Refused, PermissionDenied."""
    access.need(May.SET_MODE)
    known = Counter.objects.filter(pk=counter, site=access.site).first()
    if known is None or value < 0:
        raise Refused(
            [Problem(path="value", message="Name a counter of this site and a number that is not below zero.")]
        )
    at = now_ms()
    with transaction.atomic():
        record(access.site, access.person, "set counter", f"counter:{known.id}", at, name=known.name, value=value)
        record_act(access.site.id, "counter", at, target=known.id, value=value)


def set_modes(access: Access, modes: list[str]) -> None:
    """Which modes the site has; the first is the one it begins in. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_RULES)
    names = [m.strip() for m in modes]
    if len(names) > 20 or len(set(names)) != len(names) or not all(0 < len(m) <= 60 for m in names):
        raise Refused([Problem(path="modes", message="At most 20 different modes of 1 to 60 characters.")])
    _change_site(access, "changed modes", modes=names)


def set_place(access: Access, latitude: float, longitude: float) -> None:
    """Where sunrise and sunset are reckoned for. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_RULES)
    if not (-90 <= latitude <= 90 and -180 <= longitude <= 180):
        raise Refused(
            [Problem(path="latitude", message="Degrees north from -90 to 90, degrees east from -180 to 180.")]
        )
    _change_site(access, "changed place", latitude=latitude, longitude=longitude)


def _change_site(access: Access, verb: str, **changes: Any) -> None:
    at = now_ms()
    with transaction.atomic():
        for field, value in changes.items():
            setattr(access.site, field, value)
        access.site.save(update_fields=list(changes))
        record(access.site, access.person, verb, f"site:{access.site.id}", at, **changes)
        record_act(access.site.id, "facts", at)


def make_counter(access: Access, name: str) -> Counter:
    """A counter at zero. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_RULES)
    if not 0 < len(name.strip()) <= 120:
        raise Refused([Problem(path="name", message="Name the counter in at most 120 characters.")])
    at = now_ms()
    with transaction.atomic():
        made = Counter.objects.create(site=access.site, name=name.strip())
        record(access.site, access.person, "made counter", f"counter:{made.id}", at, name=made.name)
        record_act(access.site.id, "facts", at)
    return made


def delete_counter(access: Access, counter: str) -> None:
    """Take a counter away. Raises Refused when there is none such, PermissionDenied."""
    access.need(May.EDIT_RULES)
    known = Counter.objects.filter(pk=counter, site=access.site).first()
    if known is None:
        raise Refused([Problem(path="counter", message="This site has no such counter.")])
    at = now_ms()
    with transaction.atomic():
        record(access.site, access.person, "deleted counter", f"counter:{known.id}", at, name=known.name)
        known.delete()
        record_act(access.site.id, "facts", at)
