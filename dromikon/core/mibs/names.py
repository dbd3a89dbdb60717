"""Names of object identifiers: which definition one falls below, and what its values mean."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from dromikon.core.mibs.standard import DEFINED, ROOTS


class Definition(NamedTuple):
    """Something that a module defines: below what, by which numbers, and what its values are called."""

    name: str
    parent: str
    numbers: tuple[int, ...]
    meanings: Mapping[int, str] = {}


class Known(NamedTuple):
    """A definition where it is."""

    name: str
    meanings: Mapping[int, str]


@dataclass(frozen=True, slots=True)
class Names:
    """Definitions by their numbers. `lost`: names below which something is defined and that no module has."""

    by_oid: Mapping[str, Known] = field(default_factory=dict)
    lost: tuple[str, ...] = ()

    def of(self, oid: str) -> tuple[str, str] | None:
        """The name of the nearest definition, and the numbers behind it, such as a row's; None below none of them."""
        here = oid
        while here:
            known = self.by_oid.get(here)
            if known is not None:
                return known.name, oid[len(here) + 1 :]
            here = here.rpartition(".")[0]
        return None

    def says(self, oid: str, value: Any) -> Any:
        """What a value is called, or the value; one that is an identifier itself has the name of that."""
        if isinstance(value, str):
            known = self.by_oid.get(value)
            return known.name if known else value
        here = oid
        while here:
            known = self.by_oid.get(here)
            if known is not None:
                return known.meanings.get(value, value) if isinstance(value, int) else value
            here = here.rpartition(".")[0]
        return value


def names_of(definitions: Iterable[Definition]) -> Names:
    """All that can be placed, of the standard's and of more modules; an identifier that two define has the later name."""
    waiting = [*(Definition(*row) for row in DEFINED), *definitions]
    places: dict[str, str] = dict(ROOTS)
    found: dict[str, Known] = {}
    while waiting:
        placed: list[Definition] = []
        others: list[Definition] = []
        for definition in waiting:
            (placed if definition.parent in places else others).append(definition)
        if not placed:
            break
        for definition in placed:
            oid = ".".join([places[definition.parent], *(str(n) for n in definition.numbers)])
            places[definition.name] = oid
            found[oid] = Known(definition.name, dict(definition.meanings))
        waiting = others
    own = {definition.name for definition in waiting}
    return Names(found, tuple(sorted({d.parent for d in waiting} - own)))


STANDARD = names_of(())


def named(content: dict[str, Any], names: Names) -> dict[str, Any]:
    """The content of a trap with names besides: of the trap, and of each value, with what it is called, and the numbers of its
    row. What nobody has a name for keeps its numbers."""
    trap = names.of(str(content["trap"]))
    values = [_named(value, names) for value in content["values"]]
    told = {value["name"]: value["says"] for value in reversed(values) if "name" in value}
    # A name that goes on in numbers is none of the trap's. What people know it by comes first.
    name = trap[0] if trap and not trap[1] else ""
    return {"name": name, "named": told, **content, "values": values}


def _named(value: dict[str, Any], names: Names) -> dict[str, Any]:
    found = names.of(value["oid"])
    if found is None:
        return value
    return {**value, "name": found[0], "row": found[1], "says": names.says(value["oid"], value["value"])}
