"""Verbs on a site's situation: its mode and its counters. They become journal input, as a rule's steps do."""

from typing import Any

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.hours_shown import moment_meant
from dromikon.core.instants import Instant
from dromikon.core.rules.document import Problem
from dromikon.daybook.models import EvaluatorRow
from dromikon.daybook.services import record_act
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sites.models import Counter, Site


def situation_of(site: Site) -> dict[str, Any]:
    """The mode, until when and which comes then where it has an end, the modes there are, and where the counters stand."""
    rows = dict(
        EvaluatorRow.objects.filter(site=site.id, rule="")
        .filter(key__regex=r"^(mode$|counter\|)")
        .values_list("key", "row")
    )
    row = rows.get("mode", {})
    mode = row.get("mode", "")
    first = site.modes[0] if site.modes else ""
    return {
        "mode": mode if mode in site.modes else first,
        "until": row.get("due"),
        "then": row.get("then", "") if "due" in row else "",
        "modes": list(site.modes),
        "counters": [
            {"id": c.id, "name": c.name, "room": c.room, "value": rows.get(f"counter|{c.id}", {}).get("value", 0)}
            for c in Counter.objects.filter(site=site, retired_at=None)
        ],
    }


def set_mode(access: Access, mode: str, until: str = "") -> None:
    """The site goes to a mode; `until` a time of its wall clock or an ISO instant, and then back to the one before. Raises
    Refused, PermissionDenied."""
    access.need(May.SET_MODE)
    if mode not in access.site.modes:
        raise Refused(
            [Problem(path="mode", message=f"The site has the modes {', '.join(access.site.modes) or 'none'}.")]
        )
    at = now_ms()
    ends = {"until": _until(until, at, access.site.zone)} if until else {}
    with transaction.atomic():
        record(access.site, access.person, "set mode", f"site:{access.site.id}", at, mode=mode, **ends)
        record_act(access.site.id, "mode", at, value=mode, **ends)


def _until(text: str, at: Instant, zone: str) -> Instant:
    try:
        return moment_meant(text, at, zone)
    except ValueError as error:
        raise Refused([Problem(path="until", message=f"{error}.")]) from error


def set_counter(access: Access, counter: str, value: int) -> None:
    """A counter now stands at a number. Raises Refused, PermissionDenied."""
    access.need(May.SET_MODE)
    known = Counter.objects.filter(pk=counter, site=access.site, retired_at=None).first()
    if known is None or value < 0:
        raise Refused(
            [Problem(path="value", message="Name a counter of this site and a number that is not below zero.")]
        )
    at = now_ms()
    with transaction.atomic():
        record(access.site, access.person, "set counter", f"counter:{known.id}", at, name=known.name, value=value)
        record_act(access.site.id, "counter", at, target=known.id, value=value)
