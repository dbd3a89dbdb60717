"""What is asked to be added to a case, as an address says it: clips of cameras, one picture, an event or an alarm. The one schema of the
page and the API."""

from collections.abc import Mapping
from typing import Annotated, Literal, Self

from django.http import Http404
from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from dromikon.cases.models import Case, Piece
from dromikon.cases.services import add_alarm, add_clips, add_event, add_note, add_still
from dromikon.core.words import t
from dromikon.daybook.models import EventRow
from dromikon.desk.models import Alarm
from dromikon.people.access import Access

Millis = Annotated[int, Field(ge=0, le=8_000_000_000_000)]


class Asked(BaseModel):
    """`add`: clip (of `cameras`, from `start` until `end`), still (of the first camera at `start`), event or alarm (`ref`), or note."""

    model_config = ConfigDict(extra="ignore", frozen=True)

    add: Literal["clip", "still", "event", "alarm", "note"]
    cameras: Annotated[str, Field(max_length=400)] = ""
    start: Millis | None = None
    end: Millis | None = None
    ref: Annotated[int, Field(ge=0, le=2**62)] | None = None
    title: Annotated[str, Field(max_length=300)] = ""
    text: Annotated[str, Field(max_length=8_000)] = ""

    @model_validator(mode="after")
    def _whole(self) -> Self:
        missing = {
            "clip": not (self.cameras and self.start is not None and self.end is not None),
            "still": not (self.cameras and self.start is not None),
            "event": self.ref is None, "alarm": self.ref is None, "note": not self.text,
        }  # fmt: skip
        if missing[self.add]:
            raise ValueError(t("It is not said what is to be added."))
        return self

    def pairs(self) -> list[tuple[str, str]]:
        """As an address says it."""
        return [(name, str(value)) for name, value in self.model_dump(exclude_defaults=True).items()]


def asked_for(query: Mapping[str, str]) -> Asked | None:
    """What an address asks for; None where it asks for nothing that there is."""
    try:
        return Asked.model_validate({name: query[name] for name in Asked.model_fields if query.get(name)})
    except ValidationError:
        return None


def add(access: Access, case: Case, asked: Asked) -> list[Piece]:
    """Add it. Raises Refused, PermissionDenied, Http404."""
    cameras = [camera for camera in asked.cameras.split(",") if camera]
    try:
        if asked.add == "clip":
            return add_clips(access, case, cameras, asked.start or 0, asked.end or 0, asked.title)
        if asked.add == "still":
            return [add_still(access, case, cameras[0], asked.start or 0, asked.title)]
        if asked.add == "event":
            return [add_event(access, case, asked.ref or 0)]
        if asked.add == "alarm":
            return [add_alarm(access, case, asked.ref or 0)]
        return [add_note(access, case, asked.text)]
    except (EventRow.DoesNotExist, Alarm.DoesNotExist) as error:
        raise Http404 from error
