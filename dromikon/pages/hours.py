"""Hours and modes: what holds now and until when, the coming week of each Hours, and one Hours painted."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import dateformat
from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from dromikon.clock import now_ms
from dromikon.core.hours import DAYS, Place, sun_minute, wall_clock
from dromikon.core.hours import Hours as HoursDocument
from dromikon.core.hours_shown import DayShown, days_shown, standing
from dromikon.core.instants import Instant
from dromikon.facts import names_of
from dromikon.hours.models import Hours
from dromikon.hours.services import version_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.naming import Uses, members_of
from dromikon.situation import situation_of
from dromikon.web.views import site_view

DAY_NAMES = (_("Monday"), _("Tuesday"), _("Wednesday"), _("Thursday"), _("Friday"), _("Saturday"), _("Sunday"))
#: What new hours begin with: the whole year, closed.
BLANK = {"seasons": [{"start": "01-01", "end": "12-31", "week": {}}]}


@site_view()
def hours(request: HttpRequest, access: Access) -> HttpResponse:
    facts, now, uses, members = names_of(access.site), now_ms(), Uses.of(access.site), members_of(access.site)
    context = {
        **_common(access, now, facts.place),
        "drawn": [
            {**_drawn_hours(h, now, facts.place), "users": uses.users_of_hours(h.id, members)} for h in facts.hours
        ],
        "modes": [{"name": mode, "users": uses.rules_of_mode(mode)} for mode in facts.modes],
        "situation": situation_of(access.site),
        "may_set_mode": access.may(May.SET_MODE),
    }
    return render(request, "hours/hours.html", context)


@site_view()
def one(request: HttpRequest, access: Access, hours_id: str) -> HttpResponse:
    """One Hours as a week that is painted; `new` is one that is not there yet."""
    known = Hours.objects.filter(site=access.site, pk=hours_id).first()
    if known is None and (hours_id != "new" or not access.may(May.EDIT_RULES)):
        raise Http404("There are no such hours.")
    place, now = names_of(access.site).place, now_ms()
    today = wall_clock(now, place.zone).date()
    context = {
        **_common(access, now, place),
        "known": known,
        "name": known.name if known else "",
        "document": known.document if known else BLANK,
        "version": version_of(known) if known else "",
        "users": Uses.of(access.site).users_of_hours(known.id, members_of(access.site)) if known else [],
        "days": [(name, DAY_NAMES[i]) for i, name in enumerate(DAYS)],
        "day_names": [str(words) for words in DAY_NAMES],
        "year": today.year,
        "today": today.isoformat(),
        "sun": [sun_minute(which, today, place) for which in ("sunrise", "sunset")],
    }
    return render(request, "hours/one.html", context)


def _common(access: Access, now: Instant, place: Place) -> dict[str, Any]:
    wall = wall_clock(now, place.zone)
    return {
        "access": access,
        "now_x": _drawn(wall.hour * 60 + wall.minute),
        "zone": place.zone,
        "may_edit": access.may(May.EDIT_RULES),
    }


def _drawn_hours(document: HoursDocument, now: Instant, place: Place) -> dict[str, Any]:
    """What holds now, and the spans of today and the six days after, in units of a drawing 960 wide."""
    today = wall_clock(now, place.zone).date()
    return {
        "hours": document,
        "now": standing(document, now, place),
        "days": [_drawn_day(day, i) for i, day in enumerate(days_shown(document, today, 7, place))],
    }


def _drawn_day(shown: DayShown, row: int) -> dict[str, Any]:
    text = ", ".join(f"{s // 60:02d}:{s % 60:02d}–{e // 60:02d}:{e % 60:02d}" for s, e in shown.spans)
    return {
        "label": dateformat.format(shown.day, "D d M"),
        "bars": [{"x": _drawn(s), "width": _drawn(e - s)} for s, e in shown.spans],
        "y": 20 + row * 24,
        "text": text or shown.why or gettext("closed"),
    }


def _drawn(minutes: int) -> str:
    """Minutes of a day in units of the drawing, as SVG writes numbers whatever the language."""
    return f"{minutes / 1440 * 960:.1f}"
