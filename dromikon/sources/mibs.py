"""The names that a site's MIB modules give."""

from functools import lru_cache
from typing import Any

from dromikon.core.mibs.names import STANDARD, Definition, Names, names_of
from dromikon.sources.models import Mib


def names_by_site() -> dict[str, Names]:
    """By site, where modules are loaded; anywhere else the standard's names are all."""
    loaded: dict[str, list[tuple[str, int]]] = {}
    known = Mib.objects.filter(retired_at=None).order_by("name").values_list("site_id", "id", "changed_at")
    for site, id, changed_at in known:
        loaded.setdefault(site, []).append((id, changed_at))
    return {site: _names(tuple(modules)) for site, modules in loaded.items()}


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
