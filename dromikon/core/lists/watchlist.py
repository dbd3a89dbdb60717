"""A list and its entries, and how a value is looked up in it."""

from dataclasses import dataclass
from datetime import date
from functools import cached_property
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from dromikon.core.lists.plates import Codes, tidy
from dromikon.core.lists.similarity import NoTemplate, Templates, read_template
from dromikon.core.words import t

Sort = Literal["plates", "people", "cards", "values"]
#: The most entries of one list.
MOST_ENTRIES = 50_000


#: So many pictures of one person are compared with.
MOST_FACES = 8


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Entry(_Value):
    """One thing to compare with. `value` is the plate, card number or name; `template` a person's face template, and `more` such
    of the same person. Valid from and until a date of the site's calendar, both included. `pictured`: when the face was last
    taken; `agreed`: when the person agreed to be known by it."""

    value: str = Field(min_length=1, max_length=200)
    label: str = Field(default="", max_length=200)
    note: str = Field(default="", max_length=500)
    valid_from: date | None = None
    valid_until: date | None = None
    template: str = Field(default="", max_length=6000)
    more: tuple[Annotated[str, Field(max_length=6000)], ...] = Field(default=(), max_length=MOST_FACES - 1)
    pictured: date | None = None
    agreed: date | None = None

    @field_validator("template")
    @classmethod
    def _a_template(cls, value: str) -> str:
        return _checked(value) if value else value

    @field_validator("more")
    @classmethod
    def _templates(cls, value: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(_checked(template) for template in value)

    @model_validator(mode="after")
    def _fits_together(self) -> "Entry":
        if self.valid_from and self.valid_until and self.valid_from > self.valid_until:
            raise ValueError(t("valid_from lies after valid_until"))
        if self.more and not self.template:
            raise ValueError(t("further faces need a first one, as template"))
        return self

    @property
    def faces(self) -> tuple[str, ...]:
        """All its templates."""
        return (self.template, *self.more) if self.template else ()

    @property
    def shown(self) -> str:
        return self.label or self.value

    def valid(self, day: date) -> bool:
        """Whether it counts on a day of the site's calendar."""
        return (self.valid_from is None or day >= self.valid_from) and (
            self.valid_until is None or day <= self.valid_until
        )


def _checked(template: str) -> str:
    """Raises ValueError where it is no template."""
    try:
        read_template(template)
    except NoTemplate as error:
        raise ValueError(str(error)) from error
    return template


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

    def alike(self, template: str, least: float) -> list[tuple[Entry, float]]:
        """The entries whose face is at least so similar, in percent, whether they are valid or not; each by its most similar picture."""
        entries, templates = self._all_faces
        best: dict[str, tuple[Entry, float]] = {}
        for place, percent in sorted(templates.like(template, least), key=lambda found: found[1]):
            best[entries[place].value] = entries[place], percent
        return list(best.values())

    @cached_property
    def _all_faces(self) -> tuple[list[Entry], Templates]:
        each = [(e, face) for e in self.entries for face in e.faces]
        return [e for e, _ in each], Templates.of([face for _, face in each])

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
            each = [(e, face) for e in self.entries if e.valid(day) for face in e.faces]
            found = self._keep("faces", day, ([e for e, _ in each], Templates.of([face for _, face in each])))
        assert isinstance(found, tuple)
        return found

    def _kept(self, what: str, day: date) -> object:
        return self._by_day.get((what, day if self._dated else date.min))

    def _keep(self, what: str, day: date, made: object) -> object:
        if len(self._by_day) > 8:
            self._by_day.clear()
        self._by_day[what, day if self._dated else date.min] = made
        return made
