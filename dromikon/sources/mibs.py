"""The names that a site's MIB modules give."""

from functools import lru_cache
from typing import Any

from dromikon.core.mibs.names import STANDARD, Definition, Names, names_of
from dromikon.sources.models import Mib


def names_at(site: str) -> Names:
    """The standard's names, and those of the modules that are loaded at a site."""
    known = Mib.objects.filter(site=site, retired_at=None).order_by("name").values_list("id", "changed_at")
    loaded = tuple(known)
    return _names(loaded) if loaded else STANDARD


@lru_cache(maxsize=16)
def _names(loaded: tuple[tuple[str, int], ...]) -> Names:
    """Made anew when a module is another one."""
    rows = Mib.objects.filter(id__in=[id for id, _ in loaded]).order_by("name").values_list("definitions", flat=True)
    return names_of(definition for row in rows for definition in definitions_of(row))


def definitions_of(row: list[Any]) -> list[Definition]:
    """As they are kept."""
    return [
        Definition(str(name), str(parent), tuple(numbers), {int(k): str(v) for k, v in meanings.items()})
        for name, parent, numbers, meanings in row
    ]


def kept(definitions: tuple[Definition, ...]) -> list[Any]:
    """How they are kept."""
    return [[d.name, d.parent, list(d.numbers), {str(k): v for k, v in d.meanings.items()}] for d in definitions]
