"""Which rules and persons name a thing: whoever takes it away is told before."""

from collections.abc import Iterator
from typing import Any, NamedTuple

from dromikon.core.words import t
from dromikon.people.models import Membership
from dromikon.rulebook.models import Revision
from dromikon.sites.models import Site


def rules_that_name(site: Site, *ids: str) -> list[str]:
    """Names of the rules of a site that refer to any of some ids, also those that are switched off."""
    return [user.name for user in Uses.of(site).rules_naming(*ids)]


class User(NamedTuple):
    """Who uses something: a rule by its id, or a person ("" as rule)."""

    rule: str
    name: str


class Uses(NamedTuple):
    """What each rule of a site names (ids, modes), read once for many questions."""

    rules: tuple[tuple[User, frozenset[str], frozenset[str]], ...]

    @classmethod
    def of(cls, site: Site) -> "Uses":
        live = Revision.objects.filter(rule__site=site, rule__deleted=False).select_related("rule")
        found = [r for r in live.order_by("rule__name") if r.number == r.rule.revision]
        return cls(
            tuple(
                (User(r.rule_id, r.rule.name), frozenset(_ids(r.document)), frozenset(_modes(r.document)))
                for r in found
            ),
        )

    def rules_naming(self, *ids: str) -> list[User]:
        """The rules that refer to any of some ids."""
        return [user for user, named, _ in self.rules if not named.isdisjoint(ids)]

    def rules_of_mode(self, mode: str) -> list[User]:
        """The rules that ask for a mode or set it."""
        return [user for user, _, modes in self.rules if mode in modes]

    def users_of_hours(self, hours: str, members: list[Membership]) -> list[User]:
        """The rules that count by hours, and those of some persons who are on duty or not to be disturbed in them."""
        persons = [User("", t("{person}: on duty", person=m.person.shown_name)) for m in members if m.duty == hours]
        persons += [
            User("", t("{person}: not to be disturbed", person=m.person.shown_name))
            for m in members
            if m.quiet == hours
        ]
        return self.rules_naming(hours) + persons


def members_of(site: Site) -> list[Membership]:
    """Who belongs to a site, with their persons."""
    return list(Membership.objects.filter(site=site).select_related("person").order_by("person__username"))


def _ids(content: Any) -> Iterator[str]:
    """Every id in a document, wherever a reference stands."""
    if isinstance(content, dict):
        if isinstance(content.get("id"), str):
            yield content["id"]
        for value in content.values():
            yield from _ids(value)
    elif isinstance(content, list):
        for value in content:
            yield from _ids(value)


def _modes(content: Any) -> Iterator[str]:
    """Every mode in a document: conditions name several, steps one."""
    if isinstance(content, dict):
        if content.get("test") == "mode":
            yield from content.get("modes", ())
        elif content.get("do") == "mode":
            yield content.get("mode", "")
        for value in content.values():
            yield from _modes(value)
    elif isinstance(content, list):
        for value in content:
            yield from _modes(value)
