"""How long things are kept: the installation's."""

from dromikon.core.words import N_
from dromikon.installation.settings import keep_setting, setting
from dromikon.keeping.policy import Keeping
from dromikon.people.access import Everywhere
from dromikon.setup.sort import Row, Saved, Sort


class KeepingSort(Sort[Keeping]):
    name = "keeping"
    label = N_("Keeping")
    one = ""
    about = ""
    icon = "history"
    document = Keeping
    whole = True
    single = True

    def rows(self, who: Everywhere) -> list[Row]:
        return [Row("keeping", "", setting(Keeping))]

    def save(self, who: Everywhere, id: str | None, document: Keeping) -> Saved:
        keep_setting(who, document)
        return Saved("keeping")
