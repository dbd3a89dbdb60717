"""Which rules name a thing: whoever takes it away is told before."""

from collections.abc import Iterator
from typing import Any

from dromikon.rulebook.models import Rule
from dromikon.sites.models import Site


def rules_that_name(site: Site, *ids: str) -> list[str]:
    """Names of the rules of a site that refer to any of some ids, also those that are switched off."""
    wanted = set(ids)
    found = []
    for rule in Rule.objects.filter(site=site, deleted=False):
        if wanted.intersection(_ids(rule.document)):
            found.append(rule.name)
    return found


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
