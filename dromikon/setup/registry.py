"""Every sort of thing that is set up, in the order of its page."""

from typing import Any

from dromikon.setup.areas import Areas
from dromikon.setup.counters import Counters
from dromikon.setup.decoders import Decoders
from dromikon.setup.destinations import Destinations
from dromikon.setup.displays import Displays
from dromikon.setup.groups import Groups
from dromikon.setup.holds import Holds
from dromikon.setup.hours import HoursSort
from dromikon.setup.intakes import Intakes
from dromikon.setup.mail import MailSort
from dromikon.setup.mibs import Mibs
from dromikon.setup.people import Everybody, Members
from dromikon.setup.place import ThisSite
from dromikon.setup.points import Points
from dromikon.setup.recognisers import Recognisers
from dromikon.setup.recorders import Recorders
from dromikon.setup.settings import BackupSort, GatewaysSort, KeepingSort, OutgoingSort, ReachSort
from dromikon.setup.sites import Customers, Sites
from dromikon.setup.sort import Sort, Who
from dromikon.setup.sounds import Sounds

SORTS: dict[str, Sort[Any]] = {
    sort.name: sort
    for sort in (
        ThisSite(), Areas(), Points(), Recorders(), Recognisers(), Intakes(), Decoders(), Mibs(), Members(), Groups(), Destinations(), Counters(), Displays(), Sounds(), HoursSort(), Holds(),
        Sites(), Customers(), Everybody(), ReachSort(), OutgoingSort(), MailSort(), GatewaysSort(), BackupSort(), KeepingSort(),
    )
}  # fmt: skip


def sorts_for(who: Who, whole: bool) -> list[Sort[Any]]:
    """The sorts that somebody may set up."""
    return [sort for sort in SORTS.values() if sort.whole == whole and sort.allowed(who)]
