"""Where messages may go out to: the installation's."""

from dromikon.core.words import N_
from dromikon.installation.outgoing import Outgoing, forget_what_is_allowed
from dromikon.installation.settings import keep_setting, setting
from dromikon.people.access import Everywhere
from dromikon.setup.sort import Row, Saved, Sort


class OutgoingSort(Sort[Outgoing]):
    name = "outgoing"
    label = N_("Outgoing")
    one = ""
    about = ""
    icon = "send"
    document = Outgoing
    whole = True
    single = True

    def rows(self, who: Everywhere) -> list[Row]:
        return [Row("outgoing", "", setting(Outgoing))]

    def save(self, who: Everywhere, id: str | None, document: Outgoing) -> Saved:
        keep_setting(who, document)
        forget_what_is_allowed()
        return Saved("outgoing")
