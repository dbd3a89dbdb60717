"""Recipient groups: whom alarms, notices and messages are for."""

from typing import Annotated

from pydantic import Field

from dromikon.core.rules.controls import Choice, Pick, Words
from dromikon.core.rules.parts import Part, Ref
from dromikon.core.words import N_, t
from dromikon.ids import id_or_new
from dromikon.people.access import Access
from dromikon.people.models import Membership, Person
from dromikon.people.roles import ROLE_WORDS, Role
from dromikon.setup.naming import rules_that_name
from dromikon.setup.sort import Row, Saved, Sort, change, in_use, refuse
from dromikon.sites.models import Group


class GroupDocument(Part):
    """Everybody in some roles, and persons by name."""

    name: Annotated[str, Field(min_length=1, max_length=120), Words(N_("Name"))]
    roles: Annotated[
        tuple[Role, ...], Choice(N_("Everybody who is"), words={r.value: ROLE_WORDS[r] for r in Role})
    ] = ()
    persons: Annotated[tuple[Ref, ...], Field(max_length=200), Pick(N_("And by name"), of="person")] = ()


def save_group(access: Access, id: str | None, document: GroupDocument, new_id: str | None = None) -> Group:
    """Add a group, or change one. Persons must belong to the site."""
    group = in_use(Group, access, id, "group") if id else Group(site=access.site, id=id_or_new(new_id))
    wanted = {p.id for p in document.persons}
    members = Membership.objects.filter(site=access.site).values_list("person_id", flat=True)
    persons = [p for p in Person.objects.filter(pk__in=members, is_active=True) if str(p.pk) in wanted]
    if len(persons) < len(wanted):
        raise refuse("persons", "Somebody among them does not belong to this site any more.")
    group.name, group.roles = document.name.strip(), [r.value for r in document.roles]
    with change(access, "changed group" if id else "added group", f"group:{group.id}", group.name):
        group.save(force_insert=not id)
        group.persons.set(persons)
    return group


def retire_group(access: Access, id: str) -> None:
    """Take a group away. What is addressed to it alone reaches nobody, and a check says so."""
    group = in_use(Group, access, id, "group")
    with change(access, "retired group", f"group:{group.id}", group.name) as at:
        group.retired_at = at
        group.save(update_fields=["retired_at"])


class Groups(Sort[GroupDocument]):
    name = "groups"
    label = N_("Recipients")
    one = N_("Add a group")
    about = N_("A group says whom alarms and messages are for: everybody in a role, or persons by name.")
    icon = "users"
    columns = (N_("who"),)
    document = GroupDocument

    def rows(self, who: Access) -> list[Row]:
        return [_row(g) for g in Group.objects.filter(site=who.site, retired_at=None).prefetch_related("persons")]

    def save(self, who: Access, id: str | None, document: GroupDocument) -> Saved:
        return Saved(save_group(who, id, document).id)

    def retire(self, who: Access, id: str) -> None:
        retire_group(who, id)

    def used_by(self, who: Access, id: str) -> list[str]:
        return rules_that_name(who.site, id)


def _row(group: Group) -> Row:
    persons = tuple(Ref(id=str(p.pk), name=p.shown_name) for p in group.persons.all())
    document = GroupDocument(name=group.name, roles=tuple(Role(r) for r in group.roles), persons=persons)
    who = [*(t(ROLE_WORDS[r]) for r in document.roles), *(p.name for p in persons)]
    return Row(group.id, group.name, document, (", ".join(who),))
