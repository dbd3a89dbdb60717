"""The plan of backups, and those there are: the installation's."""

from dromikon.core.words import N_
from dromikon.installation.settings import keep_setting, setting
from dromikon.keeping.backups import BackupPlan
from dromikon.people.access import Everywhere
from dromikon.setup.sort import Row, Saved, Sort


class BackupSort(Sort[BackupPlan]):
    name = "backups"
    label = N_("Backups")
    one = ""
    about = ""
    icon = "download"
    document = BackupPlan
    whole = True
    single = True

    def rows(self, who: Everywhere) -> list[Row]:
        return [Row("backups", "", setting(BackupPlan))]

    def save(self, who: Everywhere, id: str | None, document: BackupPlan) -> Saved:
        keep_setting(who, document)
        return Saved("backups")
