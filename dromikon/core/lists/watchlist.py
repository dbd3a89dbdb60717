"""A list and its entries, and how a value is looked up in it."""

from dataclasses import dataclass
from datetime import date
from functools import cached_property
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from dromikon.core.lists.plates import Codes, tidy
from dromikon.core.lists.similarity import NoTemplate, Templates, read_template
from dromikon.core.words import t

Sort = Literal["plates", "people", "cards", "values"]
#: The most entries of one list.
MOST_ENTRIES = 50_000


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Entry(_Value):
    """One thing to compare with. `value` is the plate, card number or name; `template` a person's face template. Valid
    from and until a date of the site's calendar, both included."""

    value: str = Field(min_length=1, max_length=200)
    label: str = Field(default="", max_length=200)
    note: str = Field(default="", max_length=500)
    valid_from: date | None = None
    valid_until: date | None = None
    template: str = Field(default="", max_length=6000)

    @field_validator("template")
    @classmethod
    def _a_template(cls, value: str) -> str:
        if value:
            try:
                read_template(value)
            except NoTemplate as error:
                raise ValueError(str(error)) from error
        return value

    @model_validator(mode="after")
    def _dates_in_order(self) -> "Entry":
        if self.valid_from and self.valid_until and self.valid_from > self.valid_until:
            raise ValueError(t("valid_from lies after valid_until"))
        return self

    @property
    def shown(self) -> str:
        return self.label or self.value

    def valid(self, day: date) -> bool:
        """Whether it counts on a day of the site's calendar."""
        return (self.valid_from is None or day >= self.valid_from) and (
            self.valid_until is None or day <= self.valid_until
        )


@dataclass(frozen=True, slots=True)
class Match:
    """What was found: the entry, why it counts as the same, and for faces how similar it is, in percent."""

    entry: Entry
    why: str
    similarity: float | None = None


class WatchList(_Value):
    """Things to compare with."""

    id: str
    name: str
    sort: Sort = "values"
    entries: tuple[Entry, ...] = Field(default=(), max_length=MOST_ENTRIES)
    #: Digest of the entries, by which the journal names them.
    content: str = ""

    def exact(self, value: str, day: date) -> Match | None:
        """The same value, whatever its spaces, dashes and case."""
        found = self._exact.get(tidy(value) or value.casefold())
        return next((Match(e, t("the same")) for e in found or () if e.valid(day)), None)

    def tolerant(self, value: str, errors: int, day: date) -> Match | None:
        """The same or nearest value within some reading errors; the reason is told."""
        same = self.exact(value, day)
        if same is not None:
            return same
        reading = self._codes(day).tolerant(value, errors)
        if reading is None:
            return None
        found = self.exact(reading.known, day)
        return Match(found.entry, reading.why) if found else None

    def similar(self, template: str, day: date) -> Match | None:
        """The most similar face, however little similar it is."""
        entries, templates = self._faces(day)
        nearest = templates.nearest(template)
        if nearest is None:
            return None
        place, percent = nearest
        return Match(entries[place], f"{percent:.1f} % similar", percent)

    @cached_property
    def _exact(self) -> dict[str, list[Entry]]:
        found: dict[str, list[Entry]] = {}
        for entry in self.entries:
            found.setdefault(tidy(entry.value) or entry.value.casefold(), []).append(entry)
        return found

    @cached_property
    def _dated(self) -> bool:
        return any(e.valid_from or e.valid_until for e in self.entries)

    @cached_property
    def _by_day(self) -> dict[tuple[str, date], object]:
        return {}

    def _codes(self, day: date) -> Codes:
        found = self._kept("codes", day)
        if not isinstance(found, Codes):
            found = self._keep("codes", day, Codes.of(e.value for e in self.entries if e.valid(day)))
        assert isinstance(found, Codes)
        return found

    def _faces(self, day: date) -> tuple[list[Entry], Templates]:
        found = self._kept("faces", day)
        if not isinstance(found, tuple):
            entries = [e for e in self.entries if e.template and e.valid(day)]
            found = self._keep("faces", day, (entries, Templates.of([e.template for e in entries])))
        assert isinstance(found, tuple)
        return found

    def _kept(self, what: str, day: date) -> object:
        return self._by_day.get((what, day if self._dated else date.min))

    def _keep(self, what: str, day: date, made: object) -> object:
        if len(self._by_day) > 8:
            self._by_day.clear()
        self._by_day[what, day if self._dated else date.min] = made
        return made
