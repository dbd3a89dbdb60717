"""Rules for common jobs that a device is good for, to be taken or turned down one by one."""

from collections.abc import Iterable
from dataclasses import dataclass

from dromikon.authoring.points import Stands
from dromikon.clock import now_ms
from dromikon.core.rules.document import Problem
from dromikon.core.rules.starting import STARTING
from dromikon.core.words import t
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.rulebook.models import Declined
from dromikon.sources.models import Device


@dataclass(frozen=True, slots=True)
class Proposal:
    """A starting rule for a device. `heard`: rules listen to all that it would be about already."""

    id: str
    title: str
    about: str
    heard: bool
    declined: bool


def proposals_of(device: Device, stands: Iterable[Stands]) -> list[Proposal]:
    """What it is and sends is good for: what no rule listens to yet first, then what one does, then what was turned down."""
    sends = [s for stand in stands for s in stand.sends]
    declined = set(Declined.objects.filter(device=device.id).values_list("starting", flat=True))
    found = []
    for starting in STARTING:
        concerned = [s for s in sends if s.kind.name in starting.kinds]
        if concerned:
            heard = all(s.rules for s in concerned)
            about = Proposal(starting.id, t(starting.title), t(starting.about), heard, starting.id in declined)
            found.append(about)
    return sorted(found, key=lambda p: (p.declined, p.heard))


def decline(access: Access, device: Device, starting: str, declined: bool) -> None:
    """Turn a proposal down, or have it again. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_RULES)
    if STARTING.get(starting) is None:
        raise Refused([Problem(path="starting", message="There is no such starting rule.")])
    known = Declined.objects.filter(site=access.site, device=device.id, starting=starting)
    if declined:
        Declined.objects.get_or_create(site=access.site, device=device.id, starting=starting)
    else:
        known.delete()
    verb = "turned down proposal" if declined else "took back proposal"
    record(access.site, access.person, verb, f"device:{device.id}", now_ms(), name=device.name, starting=starting)
