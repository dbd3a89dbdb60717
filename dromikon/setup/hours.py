"""Hours: when rules count. The form writes the times of a day as people do, `09:00-12:00, 14:00-sunset`."""

from datetime import date
from typing import Annotated, Any

from django.db import transaction
from pydantic import Field

from dromikon.core.rules.controls import Day, Inner, Words
from dromikon.core.rules.document import Problem
from dromikon.core.rules.parts import Part
from dromikon.core.words import N_
from dromikon.hours.models import Hours
from dromikon.hours.services import delete_hours, save_hours
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.setup.naming import Uses, members_of
from dromikon.setup.sort import Row, Saved, Sort, refuse

DAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
_OF_A_DAY = Field(max_length=200)
_LIKE = N_("such as 09:00-12:00, 14:00-sunset; empty: closed")


class SeasonPart(Part):
    """A week that counts between two days of the year."""

    start: Annotated[str, Field(max_length=5), Words(N_("From"), hint=N_("month and day, such as 04-01"))] = "01-01"
    end: Annotated[str, Field(max_length=5), Words(N_("To"), hint=N_("this day is part of it"))] = "12-31"
    mon: Annotated[str, _OF_A_DAY, Words(N_("Monday"), hint=_LIKE)] = ""
    tue: Annotated[str, _OF_A_DAY, Words(N_("Tuesday"))] = ""
    wed: Annotated[str, _OF_A_DAY, Words(N_("Wednesday"))] = ""
    thu: Annotated[str, _OF_A_DAY, Words(N_("Thursday"))] = ""
    fri: Annotated[str, _OF_A_DAY, Words(N_("Friday"))] = ""
    sat: Annotated[str, _OF_A_DAY, Words(N_("Saturday"))] = ""
    sun: Annotated[str, _OF_A_DAY, Words(N_("Sunday"))] = ""


class ExceptionPart(Part):
    """One day on which other times count, or none."""

    date: Annotated[date, Day(N_("On"))]
    spans: Annotated[str, _OF_A_DAY, Words(N_("Times"), hint=N_("empty: closed"))] = ""
    why: Annotated[str, Field(max_length=120), Words(N_("Why"))] = ""


class HoursForm(Part):
    """Seasons with their weeks, the first that fits counts; and days that are different."""

    name: Annotated[str, Field(min_length=1, max_length=120), Words(N_("Name"))]
    seasons: Annotated[
        tuple[SeasonPart, ...], Field(max_length=20), Inner(N_("Seasons"), start=[{"start": "01-01", "end": "12-31"}])
    ] = (SeasonPart(),)
    exceptions: Annotated[tuple[ExceptionPart, ...], Field(max_length=400), Inner(N_("Days that are different"))] = ()


class HoursSort(Sort[HoursForm]):
    name = "hours"
    label = N_("Hours")
    one = N_("Add hours")
    about = N_("Hours say when rules count: opening hours, shifts, closing days.")
    icon = "clock"
    columns = (N_("seasons"), N_("different days"))
    document = HoursForm
    may = May.EDIT_RULES

    def rows(self, who: Access) -> list[Row]:
        return [_row(h) for h in Hours.objects.filter(site=who.site)]

    def save(self, who: Access, id: str | None, document: HoursForm) -> Saved:
        known = _find(who, id) if id else None
        content = _content(document)
        if known is not None and known.document.get("calendars"):
            # Calendars come over the API; a change of the week leaves them as they are.
            content["calendars"] = known.document["calendars"]
        try:
            with transaction.atomic():
                return Saved(save_hours(who, document.name, content, known).id)
        except Refused as refused:
            raise Refused([Problem(path=_place(p.path), message=p.message) for p in refused.problems]) from refused

    def retire(self, who: Access, id: str) -> None:
        delete_hours(who, _find(who, id))

    def used_by(self, who: Access, id: str) -> list[str]:
        return [user.name for user in Uses.of(who.site).users_of_hours(id, members_of(who.site))]


def _find(access: Access, id: str) -> Hours:
    found = Hours.objects.filter(site=access.site, pk=id).first()
    if found is None:
        raise refuse("id", "There are no such hours any more.")
    return found


def _content(document: HoursForm) -> dict[str, Any]:
    return {
        "seasons": [
            {"start": s.start, "end": s.end, "week": {d: _spans(getattr(s, d)) for d in DAYS if getattr(s, d).strip()}}
            for s in document.seasons
        ],
        "exceptions": [{"date": str(x.date), "spans": _spans(x.spans), "why": x.why} for x in document.exceptions],
    }


def _spans(text: str) -> list[str]:
    return [span.strip() for span in text.split(",") if span.strip()]


def _place(path: str) -> str:
    """Where in the form a fault of the document stands."""
    return path.removeprefix("document.").replace(".week.", ".").removesuffix(".week")


def _row(hours: Hours) -> Row:
    seasons = [
        {"start": s["start"], "end": s["end"], **{d: ", ".join(spans) for d, spans in s.get("week", {}).items()}}
        for s in hours.document.get("seasons", ())
    ]
    exceptions = [
        {"date": x["date"], "spans": ", ".join(x.get("spans", ())), "why": x.get("why", "")}
        for x in hours.document.get("exceptions", ())
    ]
    document = HoursForm.model_validate({"name": hours.name, "seasons": seasons, "exceptions": exceptions})
    return Row(hours.id, hours.name, document, (str(len(seasons)), str(len(exceptions))))
