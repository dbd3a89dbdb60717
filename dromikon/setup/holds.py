"""Holds: periods of which nothing is forgotten, whatever its age, because somebody needs it."""

from datetime import date, datetime, time, timedelta
from typing import Annotated
from zoneinfo import ZoneInfo

from django.db import transaction
from pydantic import Field, model_validator

from dromikon.clock import now_ms
from dromikon.core.hours import wall_clock
from dromikon.core.rules.controls import Day, Words
from dromikon.core.rules.parts import Part
from dromikon.core.words import N_, t
from dromikon.keeping.models import Hold
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.setup.sort import Row, Saved, Sort, refuse


class HoldDocument(Part):
    """From the beginning of one day to the end of another, on the site's calendar."""

    reason: Annotated[str, Field(min_length=1, max_length=300), Words(N_("Why"), hint=N_("for example a case number"))]
    first: Annotated[date, Day(N_("From"))]
    last: Annotated[date, Day(N_("To"), hint=N_("this day is part of it"))]
    until: Annotated[date | None, Day(N_("Held until"), hint=N_("empty: until it is lifted"))] = None

    @model_validator(mode="after")
    def _in_order(self) -> "HoldDocument":
        if self.last < self.first:
            raise ValueError("The last day lies before the first.")
        return self


def save_hold(access: Access, id: str | None, document: HoldDocument) -> Hold:
    """Hold a period, or change a hold that counts. Raises Refused, PermissionDenied."""
    access.need(May.SET_UP_PEOPLE)
    hold, at = (_find(access, id) if id else Hold(site=access.site, made_at=now_ms())), now_ms()
    hold.reason, hold.by = document.reason.strip(), access.person.shown_name
    hold.start, hold.end = _begins(document.first, access), _begins(document.last + timedelta(days=1), access) - 1
    hold.until = _begins(document.until + timedelta(days=1), access) if document.until else None
    with transaction.atomic():
        hold.save()
        verb = "changed hold" if id else "made hold"
        record(
            access.site, access.person, verb, f"hold:{hold.pk}", at, note=hold.reason, start=hold.start, end=hold.end,
            until=hold.until,
        )  # fmt: skip
    return hold


def lift_hold(access: Access, id: str) -> None:
    """What was held is forgotten by its age again."""
    access.need(May.SET_UP_PEOPLE)
    hold, at = _find(access, id), now_ms()
    with transaction.atomic():
        hold.lifted_at = at
        hold.save(update_fields=["lifted_at"])
        record(access.site, access.person, "lifted hold", f"hold:{hold.pk}", at, note=hold.reason)


def _begins(day: date, access: Access) -> int:
    moment = datetime.combine(day, time.min, ZoneInfo(access.site.zone))
    return int(moment.timestamp() * 1000)


def _find(access: Access, id: str) -> Hold:
    found = Hold.objects.filter(site=access.site, pk=int(id), lifted_at=None).first() if id.isdigit() else None
    if found is None:
        raise refuse("id", "There is no such hold any more.")
    return found


class Holds(Sort[HoldDocument]):
    name = "holds"
    label = N_("Holds")
    one = N_("Hold a period")
    about = N_("A hold keeps what happened in a period from being forgotten, whatever its age, until it is lifted.")
    icon = "pin"
    columns = (N_("from"), N_("to"), N_("held until"), N_("by"))
    document = HoldDocument
    may = May.SET_UP_PEOPLE

    def rows(self, who: Access) -> list[Row]:
        return [self._row(who, hold) for hold in Hold.objects.filter(site=who.site, lifted_at=None).order_by("-start")]

    def save(self, who: Access, id: str | None, document: HoldDocument) -> Saved:
        return Saved(str(save_hold(who, id, document).pk))

    def retire(self, who: Access, id: str) -> None:
        lift_hold(who, id)

    def _row(self, who: Access, hold: Hold) -> Row:
        def day(instant: int) -> date:
            return wall_clock(instant, who.site.zone).date()

        until = day(hold.until - 1) if hold.until else None
        document = HoldDocument(reason=hold.reason, first=day(hold.start), last=day(hold.end), until=until)
        ends = str(until) if until else t("until it is lifted")
        return Row(str(hold.pk), hold.reason, document, (str(document.first), str(document.last), ends, hold.by))
