"""What is done to several rules at once. Each is done for itself: what cannot be done to one is said, the others are done."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal

from dromikon.authoring.services import delete, save, switch
from dromikon.core.rules.document import Problem
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule

Verb = Literal["on", "off", "tag", "untag", "retire", "restore"]


@dataclass(slots=True)
class Done:
    """Ids of the rules that were changed, and for the others by id why not."""

    done: list[str] = field(default_factory=list)
    refused: dict[str, str] = field(default_factory=dict)


def do_to_several(access: Access, ids: list[str], verb: Verb, tag: str = "") -> Done:
    """Raises PermissionDenied; what is refused for one rule is told."""
    access.need(May.EDIT_RULES)
    found = Done()
    rules = {r.id: r for r in Rule.objects.filter(site=access.site, pk__in=ids)}
    for id in dict.fromkeys(ids):
        rule = rules.get(id)
        if rule is None:
            found.refused[id] = "There is no such rule any more."
            continue
        try:
            _VERBS[verb](access, rule, tag)
        except Refused as refused:
            found.refused[id] = " ".join(p.message for p in refused.problems)
        else:
            found.done.append(id)
    return found


def _switch(on: bool) -> Callable[[Access, Rule, str], object]:
    return lambda access, rule, _: switch(access, rule, on) if rule.enabled != on else None


def _tag(access: Access, rule: Rule, tag: str, has: bool = True) -> None:
    """A tag is a word of the document: it makes a revision, and goes live with it."""
    if rule.draft is not None:
        raise Refused([Problem(path="tags", message="It has a draft. Put that live or drop it first.")])
    document = rule.document
    tags = [known for known in document.get("tags", ()) if known != tag]
    changed = {**document, "tags": [*tags, tag] if has else tags}
    if changed["tags"] != list(document.get("tags", ())):
        save(access, changed, rule)


_VERBS: dict[Verb, Callable[[Access, Rule, str], object]] = {
    "on": _switch(True),
    "off": _switch(False),
    "tag": _tag,
    "untag": lambda access, rule, tag: _tag(access, rule, tag, False),
    "retire": lambda access, rule, _: delete(access, rule),
    "restore": lambda access, rule, _: delete(access, rule, False),
}
