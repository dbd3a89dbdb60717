"""What a starting rule is: a document with open places that are bound to a site's own things."""

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from pydantic import ValidationError

from dromikon.core.facts import Facts
from dromikon.core.rules.document import Problem, RuleDocument, problems_of
from dromikon.core.words import t

What = Literal["points", "point", "list", "hours", "groups", "counter", "number"]


NO_SENDERS: Mapping[str, frozenset[str]] = {}
#: No point is asked for.
ANYWHERE: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Place:
    """An open place. `point_kinds` limits what fits, and for a list its `sort`; `standard` is what a number begins with."""

    name: str
    label: str
    what: What
    point_kinds: tuple[str, ...] = ()
    standard: float | None = None
    sort: str = ""


@dataclass(frozen=True)
class Starting:
    """A rule for a common job. In its document ``{"bind": name}`` stands for a place."""

    id: str
    title: str
    about: str
    places: tuple[Place, ...]
    document: Mapping[str, Any] = field(repr=False)

    @property
    def kinds(self) -> frozenset[str]:
        """The kinds of event that its document speaks of."""
        return frozenset(_kinds(self.document))


def _kinds(part: Any) -> Iterator[str]:
    if isinstance(part, Mapping):
        if isinstance(part.get("kind"), str):
            yield part["kind"]
        for value in part.values():
            yield from _kinds(value)
    elif isinstance(part, list | tuple):
        for value in part:
            yield from _kinds(value)


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
    problems = [Problem(path=f"places.{n}", message=t("there is no such place")) for n in bindings if n not in known]
    values = {p.name: bindings.get(p.name, p.standard) for p in starting.places}
    problems += [
        Problem(path=f"places.{p.name}", message=t("choose {label}", label=p.label))
        for p in starting.places
        if values[p.name] is None
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


#: What is asked first: where it comes from, then what it is compared with, what it moves, and who is told.
ORDER: tuple[What, ...] = ("points", "list", "hours", "counter", "point", "groups")


@dataclass(frozen=True, slots=True)
class Wider:
    """Several sources at once, and those that are added later: a part of a selection (`areas` or `point_kinds`) with its id."""

    part: Literal["areas", "point_kinds"]
    id: str
    name: str


@dataclass(frozen=True, slots=True)
class Open:
    """A place that somebody must fill: where in the document, whether several things fit into it, what there is, and what
    gathers several of them."""

    place: Place
    paths: tuple[str, ...]
    options: tuple[tuple[str, str], ...]
    wider: tuple[Wider, ...] = ()

    @property
    def many(self) -> bool:
        return self.place.what in ("points", "groups")


def suggested(
    starting: Starting,
    facts: Facts,
    sends: Mapping[str, frozenset[str]] = NO_SENDERS,
    within: frozenset[str] = ANYWHERE,
) -> dict[str, Any]:
    """Bindings to begin with. A source or a list is bound where exactly one thing of the site fits; what is moved, who is
    told, and whatever is not certain stays open: it is bound to a reference of the place's own name, so that the page asks
    for it and a check says so until it is chosen. `sends`: the kinds that points are known to send; `within`: the points that
    it is to be about, all of which become sources where they fit."""
    return {p.name: _begin_with(starting, p, facts, sends, within) for p in starting.places}


def open_places(
    starting: Starting,
    facts: Facts,
    sends: Mapping[str, frozenset[str]] = NO_SENDERS,
    within: frozenset[str] = ANYWHERE,
) -> list[Open]:
    """The places that `suggested` leaves open, in the order in which they are asked."""
    found = []
    for place in starting.places:
        options = fitting(starting, place, facts, sends)
        if place.what != "number" and not _sources(place, options, within) and not _certain(place, options):
            paths = tuple(path for path, name in _bound_at(starting.document) if name == place.name)
            found.append(Open(place, paths, tuple(options), _wider(place, options, facts)))
    return sorted(found, key=lambda o: ORDER.index(o.place.what))


def fitting(
    starting: Starting, place: Place, facts: Facts, sends: Mapping[str, frozenset[str]]
) -> list[tuple[str, str]]:
    """Ids and names of what can be put into a place."""
    if place.what in ("points", "point"):
        kinds = _kinds_wanted(starting.document, place.name)
        points = (p for p in facts.points if p.kind in place.point_kinds)
        return [(p.id, p.name) for p in points if not kinds or p.id not in sends or kinds & sends[p.id]]
    if place.what == "groups":
        return [(g.id, g.name) for g in facts.groups if g.roles or g.persons]
    if place.what == "list":
        return [(w.id, w.name) for w in facts.lists if place.sort in ("", w.sort)]
    return list(facts.things(place.what)) if place.what != "number" else []


def _wider(place: Place, options: list[tuple[str, str]], facts: Facts) -> tuple[Wider, ...]:
    """The areas and sorts of point that several of some sources have in common."""
    if place.what != "points":
        return ()
    fits = {id for id, _ in options}
    points = [p for p in facts.points if p.id in fits]
    areas, kinds = Counter(p.area for p in points if p.area), Counter(p.kind for p in points)
    found = [Wider("areas", a.id, a.name) for a in facts.areas if areas[a.id] > 1]
    return (*found, *(Wider("point_kinds", kind, kind) for kind in place.point_kinds if kinds[kind] > 1))


def _certain(place: Place, options: list[tuple[str, str]]) -> bool:
    return place.what not in ("point", "groups") and len(options) == 1


def _sources(place: Place, options: list[tuple[str, str]], within: frozenset[str]) -> list[dict[str, str]]:
    """The points asked for that fit into a place of sources."""
    if place.what != "points":
        return []
    return [{"id": id, "name": name} for id, name in options if id in within]


def _begin_with(
    starting: Starting, place: Place, facts: Facts, sends: Mapping[str, frozenset[str]], within: frozenset[str]
) -> Any:
    if place.what == "number":
        return place.standard
    options = fitting(starting, place, facts, sends)
    sources = _sources(place, options, within)
    if sources:
        return sources
    ref = {"id": "open", "name": place.label}
    if _certain(place, options):
        ref = {"id": options[0][0], "name": options[0][1]}
    return [ref] if place.what in ("points", "groups") else ref


def _bound_at(part: Any, path: str = "") -> Iterator[tuple[str, str]]:
    """Where the document has its places, as (path, name)."""
    if isinstance(part, Mapping) and set(part) == {"bind"}:
        yield path, part["bind"]
        return
    inner = part.items() if isinstance(part, Mapping) else enumerate(part) if isinstance(part, list | tuple) else ()
    for step, value in inner:
        yield from _bound_at(value, f"{path}.{step}" if path else str(step))


def _kinds_wanted(part: Any, name: str) -> frozenset[str]:
    """The kinds of event that a place's points must be able to send."""
    found: set[str] = set()
    if isinstance(part, Mapping):
        where = part.get("where")
        if isinstance(where, Mapping) and where.get("points") == {"bind": name}:
            standard = {"level": "sensor.reading", "button": "button.pressed"}
            found.add(part.get("kind") or standard.get(part.get("cause", ""), ""))
    inner = part.values() if isinstance(part, Mapping) else part if isinstance(part, list | tuple) else ()
    for value in inner:
        found |= _kinds_wanted(value, name)
    return frozenset(found - {""})
