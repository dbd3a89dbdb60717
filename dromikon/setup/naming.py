"""Which rules and persons name a thing: whoever takes it away is told before."""

from collections.abc import Iterable, Iterator
from typing import Any, NamedTuple

from dromikon.core.words import t
from dromikon.people.models import Membership
from dromikon.rulebook.models import Rule
from dromikon.sites.models import Site


def rules_that_name(site: Site, *ids: str) -> list[str]:
    """Names of the rules of a site that refer to any of some ids, also those that are switched off."""
    return [user.name for user in rules_naming(site, *ids)]


class User(NamedTuple):
    """Who uses something: a rule by its id, or a person ("" as rule)."""

    rule: str
    name: str


def rules_naming(site: Site, *ids: str) -> list[User]:
    """The rules of a site that refer to any of some ids."""
    wanted = set(ids)
    return [User(r.id, r.name) for r in _rules(site) if wanted.intersection(_ids(r.document))]


def rules_of_mode(site: Site, mode: str) -> list[User]:
    """The rules of a site that ask for a mode or set it."""
    return [User(r.id, r.name) for r in _rules(site) if mode in _modes(r.document)]


def users_of_hours(site: Site, hours: str) -> list[User]:
    """The rules that count by hours, and the persons who are on duty or not to be disturbed in them."""
    members = Membership.objects.filter(site=site).select_related("person").order_by("person__username")
    persons = [User("", t("{person}: on duty", person=m.person.shown_name)) for m in members if m.duty == hours]
    persons += [
        User("", t("{person}: not to be disturbed", person=m.person.shown_name)) for m in members if m.quiet == hours
    ]
    return rules_naming(site, hours) + persons


def _rules(site: Site) -> Iterable[Rule]:
    return Rule.objects.filter(site=site, deleted=False).order_by("name")


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
