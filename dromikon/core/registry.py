"""One idea: named things that are found by name. Kinds, causes, conditions, actions, checks and decoders live in one."""

from collections.abc import Iterator
from typing import Generic, TypeVar

T = TypeVar("T")


class Registry(Generic[T]):
    """An ordered set of named entries. Adding a name twice is a programming error and raises ValueError."""

    def __init__(self, what: str) -> None:
        self.what = what
        self._entries: dict[str, T] = {}

    def add(self, name: str, entry: T) -> T:
        if name in self._entries:
            raise ValueError(f"{self.what} {name!r} is registered twice")
        self._entries[name] = entry
        return entry

    def get(self, name: str) -> T | None:
        return self._entries.get(name)

    def __getitem__(self, name: str) -> T:
        return self._entries[name]

    def __contains__(self, name: object) -> bool:
        return name in self._entries

    def __iter__(self) -> Iterator[T]:
        return iter(self._entries.values())

    def __len__(self) -> int:
        return len(self._entries)

    def names(self) -> list[str]:
        return list(self._entries)
