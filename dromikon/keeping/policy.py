"""How long each class of what is kept is kept."""

from typing import Annotated, ClassVar

from pydantic import Field

from dromikon.core.rules.controls import Number
from dromikon.core.words import N_
from dromikon.installation.settings import Document

Days = Annotated[int, Field(ge=1, le=36_500)]


class Keeping(Document):
    """Days by class. What is under a hold stays whatever its age. When the disk has less room than is asked for, the oldest
    stills, readings and events go before their time, but nothing of the last week."""

    kept_as: ClassVar[str] = "keeping"

    messages: Annotated[Days, Number(N_("Messages as they came"), unit=N_("days"))] = 7
    readings: Annotated[Days, Number(N_("Readings of sensors"), unit=N_("days"))] = 30
    events: Annotated[Days, Number(N_("Events with their traces"), unit=N_("days"))] = 90
    runs: Annotated[Days, Number(N_("Runs, steps and lines"), unit=N_("days"))] = 365
    alarms: Annotated[Days, Number(N_("Answered alarms"), unit=N_("days"))] = 365
    bookmarks: Annotated[Days, Number(N_("Bookmarks"), unit=N_("days"))] = 365
    stills: Annotated[Days, Number(N_("Evidence and stills"), unit=N_("days"))] = 90
    scenes: Annotated[Days, Number(N_("What cameras saw"), unit=N_("days"))] = 30
    counts: Annotated[Days, Number(N_("Counts by the quarter hour"), unit=N_("days"))] = 1_095
    personal: Annotated[Days, Number(N_("Face templates in events"), unit=N_("days"))] = 30
    audit: Annotated[Days, Number(N_("Audit trail"), unit=N_("days"))] = 1_095
    room: Annotated[int, Field(ge=0, le=100_000), Number(N_("Room to be left on the disk"), unit="GB")] = 5
