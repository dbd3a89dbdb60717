"""A site itself: its name, where on earth it lies, and its modes."""

from typing import Annotated
from zoneinfo import available_timezones

from django.conf import settings
from pydantic import Field, field_validator

from dromikon.core.rules.controls import Name, Number, WordList, Words
from dromikon.core.rules.parts import Part
from dromikon.core.words import N_
from dromikon.people.access import Access
from dromikon.setup.sort import Row, Saved, Sort, change
from dromikon.sites.models import Site


class SiteDocument(Part):
    """One place with rules of its own."""

    name: Annotated[str, Field(min_length=1, max_length=120), Words(N_("Name"))]
    zone: Annotated[str, Name(N_("Time zone"), of="zone", hint=N_("in which its hours count"))] = "UTC"
    language: Annotated[str, Name(N_("Language"), of="language", hint=N_("of what its rules send"))] = "en-gb"
    latitude: Annotated[
        float, Field(ge=-90, le=90), Number(N_("Latitude"), unit=N_("degrees north"), hint=N_("for daylight"))
    ] = 51.5
    longitude: Annotated[float, Field(ge=-180, le=180), Number(N_("Longitude"), unit=N_("degrees east"))] = 0.0
    modes: Annotated[
        tuple[Annotated[str, Field(min_length=1, max_length=40)], ...],
        Field(max_length=20),
        WordList(N_("Modes"), hint=N_("such as open, closed, works; it begins in the first")),
    ] = ()

    @field_validator("zone")
    @classmethod
    def _zone(cls, zone: str) -> str:
        if zone not in available_timezones():
            raise ValueError("There is no such time zone. Give one such as Europe/London.")
        return zone

    @field_validator("language")
    @classmethod
    def _language(cls, language: str) -> str:
        if language not in languages():
            raise ValueError(f"This language is not installed. There is {', '.join(languages())}.")
        return language

    @field_validator("modes")
    @classmethod
    def _modes(cls, modes: tuple[str, ...]) -> tuple[str, ...]:
        if len(set(modes)) < len(modes):
            raise ValueError("A mode stands there twice.")
        return modes


def take_over(site: Site, document: SiteDocument) -> None:
    """Give a site what its document says, without saving it."""
    site.name, site.zone, site.language = document.name.strip(), document.zone, document.language
    site.latitude, site.longitude, site.modes = document.latitude, document.longitude, list(document.modes)


def document_of(site: Site) -> SiteDocument:
    """A site's document."""
    return SiteDocument(
        name=site.name, zone=site.zone, language=site.language, latitude=site.latitude, longitude=site.longitude,
        modes=tuple(site.modes),
    )  # fmt: skip


def change_site(access: Access, document: SiteDocument) -> None:
    """Change the site: its rules count by the new zone and place from now on."""
    with change(access, "changed site", f"site:{access.site.id}", document.name):
        take_over(access.site, document)
        access.site.save()


class ThisSite(Sort[SiteDocument]):
    name = "site"
    label = N_("Site")
    one = ""
    about = ""
    icon = "map-pin"
    document = SiteDocument
    single = True

    def rows(self, who: Access) -> list[Row]:
        return [Row(who.site.id, who.site.name, document_of(who.site))]

    def save(self, who: Access, id: str | None, document: SiteDocument) -> Saved:
        change_site(who, document)
        return Saved(who.site.id)


def languages() -> list[str]:
    """The codes of the languages that are installed."""
    return [code for code, _ in settings.LANGUAGES]


def zones() -> list[str]:
    """Every time zone by its usual name: region and city, and UTC."""
    return ["UTC", *sorted(z for z in available_timezones() if "/" in z and not z.startswith(("Etc/", "SystemV/")))]
