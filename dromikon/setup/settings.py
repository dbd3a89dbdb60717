"""Settings of the whole installation: each document is a page of its own."""

from typing import ClassVar, Generic, TypeVar

from dromikon.core.words import N_
from dromikon.installation.outgoing import Outgoing, forget_what_is_allowed
from dromikon.installation.settings import Document, keep_setting, setting
from dromikon.keeping.backups import BackupPlan
from dromikon.keeping.policy import Keeping
from dromikon.people.access import Everywhere
from dromikon.setup.sort import Row, Saved, Sort

Kept = TypeVar("Kept", bound=Document)


class SettingsSort(Sort[Kept], Generic[Kept]):
    """A document of settings as it is kept."""

    one: ClassVar[str] = ""
    about: ClassVar[str] = ""
    whole = True
    single = True

    def rows(self, who: Everywhere) -> list[Row]:
        return [Row(self.name, "", setting(self.document))]

    def save(self, who: Everywhere, id: str | None, document: Kept) -> Saved:
        keep_setting(who, document)
        return Saved(self.name)


class OutgoingSort(SettingsSort[Outgoing]):
    name = "outgoing"
    label = N_("Outgoing")
    document = Outgoing

    def save(self, who: Everywhere, id: str | None, document: Outgoing) -> Saved:
        saved = super().save(who, id, document)
        forget_what_is_allowed()
        return saved


class BackupSort(SettingsSort[BackupPlan]):
    name = "backups"
    label = N_("Backups")
    document = BackupPlan


class KeepingSort(SettingsSort[Keeping]):
    name = "keeping"
    label = N_("Keeping")
    document = Keeping
