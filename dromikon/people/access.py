"""Who asks, for which site, in which role: every page, call, picture and stream goes through here."""

from dataclasses import dataclass
from functools import cached_property

from django.core.exceptions import PermissionDenied
from django.http import Http404

from dromikon.core.rules.actions.people import person_key
from dromikon.people.models import Membership, Person
from dromikon.people.roles import May, role_may
from dromikon.sites.models import Group, Site


@dataclass(frozen=True)
class Access:
    """A person at a site they belong to."""

    person: Person
    site: Site
    role: str

    def may(self, what: May) -> bool:
        return role_may(self.role, what)

    def need(self, what: May) -> None:
        """Raise PermissionDenied with words for people."""
        if not self.may(what):
            raise PermissionDenied(f"Your role at {self.site.name} ({self.role.replace('_', ' ')}) may not do this.")

    @cached_property
    def groups(self) -> frozenset[str]:
        """Recipient groups that the person belongs to at this site, and the person by name."""
        mine = set(self.person.recipient_groups.filter(site=self.site, retired_at=None).values_list("id", flat=True))
        mine.update(g.id for g in Group.objects.filter(site=self.site, retired_at=None) if self.role in g.roles)
        return frozenset({*mine, person_key(str(self.person.pk))})

    def receives(self, groups: list[str] | None) -> bool:
        """Whether something addressed to groups (None: to everybody) is for this person to see."""
        return groups is None or self.may(May.SEE_ALL_ALARMS) or bool(self.groups.intersection(groups))


@dataclass(frozen=True)
class Everywhere:
    """Somebody who wants something of the whole installation; nobody is the command line, which may."""

    person: Person | None

    @property
    def may(self) -> bool:
        return self.person is None or (self.person.is_active and self.person.is_superuser)

    def need(self) -> None:
        """Raise PermissionDenied with words for people."""
        if not self.may:
            raise PermissionDenied("Only an administrator of the installation may do this.")


def access(person: Person, site_id: str, what: May = May.LOOK) -> Access:
    """The person's access to a site. Http404 for a site that is not theirs, so that nobody learns what exists."""
    known = Membership.objects.select_related("site").filter(person_id=person.pk, site_id=site_id)
    membership = known.filter(site__retired_at=None).first()
    if membership is None or not person.is_active:
        raise Http404("There is no such site.")
    found = Access(person, membership.site, membership.role)
    found.need(what)
    return found


def all_access(person: Person) -> list[Access]:
    """Every site the person belongs to."""
    return [
        Access(person, m.site, m.role)
        for m in Membership.objects.select_related("site").filter(person_id=person.pk, site__retired_at=None)
    ]
