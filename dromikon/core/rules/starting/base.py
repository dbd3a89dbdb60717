"""What a starting rule is: a document with open places that are bound to a site's own things."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from pydantic import ValidationError

from dromikon.core.facts import Facts
from dromikon.core.rules.document import Problem, RuleDocument, problems_of

What = Literal["points", "point", "list", "hours", "groups", "counter", "number"]


@dataclass(frozen=True, slots=True)
class Place:
    """An open place. `point_kinds` limits what fits; `standard` is what a number begins with."""

    name: str
    label: str
    what: What
    point_kinds: tuple[str, ...] = ()
    standard: float | None = None


@dataclass(frozen=True)
class Starting:
    """A rule for a common job. In its document ``{"bind": name}`` stands for a place."""

    id: str
    title: str
    about: str
    places: tuple[Place, ...]
    document: Mapping[str, Any] = field(repr=False)


class NotBound(ValueError):
    """Some places are open or bound to what does not fit; `problems` say which."""

    def __init__(self, problems: list[Problem]) -> None:
        super().__init__("; ".join(f"{p.path}: {p.message}" for p in problems))
        self.problems = problems


def bind(starting: Starting, bindings: Mapping[str, Any]) -> RuleDocument:
    """The rule with every place bound. Points and groups are bound to lists of references, other things to one.

    Raises NotBound with the name of each place at fault.
    """
    known = {p.name for p in starting.places}
    problems = [Problem(path=f"places.{n}", message="there is no such place") for n in bindings if n not in known]
    values = {p.name: bindings.get(p.name, p.standard) for p in starting.places}
    problems += [
        Problem(path=f"places.{p.name}", message=f"choose {p.label}") for p in starting.places if values[p.name] is None
    ]
    if problems:
        raise NotBound(problems)
    try:
        return RuleDocument.model_validate(_filled(starting.document, values))
    except ValidationError as error:
        raise NotBound(problems_of(error)) from error


def _filled(part: Any, values: Mapping[str, Any]) -> Any:
    if isinstance(part, Mapping):
        if set(part) == {"bind"}:
            return values[part["bind"]]
        return {k: _filled(v, values) for k, v in part.items()}
    if isinstance(part, list | tuple):
        return [_filled(v, values) for v in part]
    return part


def suggested(starting: Starting, facts: Facts) -> dict[str, Any]:
    """Bindings to begin with: what fits at a site, the first of several. What the site lacks is bound to a reference of
    the place's own name, so that a check says what is still to be chosen."""
    return {p.name: _first_fitting(p, facts) for p in starting.places}


def _first_fitting(place: Place, facts: Facts) -> Any:
    if place.what == "number":
        return place.standard
    open_place = {"id": "open", "name": place.label}
    if place.what in ("points", "point"):
        fitting = [p for p in facts.points if p.kind in place.point_kinds]
        refs = [{"id": p.id, "name": p.name} for p in fitting[:1]] or [open_place]
        return refs if place.what == "points" else refs[0]
    if place.what == "groups":
        filled = [{"id": g.id, "name": g.name} for g in facts.groups if g.roles or g.persons]
        return filled[:1] or [open_place]
    things = facts.things(place.what)
    return next(({"id": id, "name": name} for id, name in things), open_place)
