"""Changes of a list's entries: single ones put and dropped, and what a whole table would change."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from dromikon.core.lists.plates import tidy
from dromikon.core.lists.watchlist import Entry
from dromikon.core.words import t


def key_of(value: str) -> str:
    """What makes two values the same entry: whatever their spaces, dashes and case."""
    return tidy(value) or value.casefold()


@dataclass(frozen=True, slots=True)
class Put:
    """An entry as it is to be; `was`: the value that it had, "" for a new one."""

    entry: Entry
    was: str = ""


class Clashing(ValueError):
    """Entries cannot be put as wanted; `problems` are (number of the put, message)."""

    def __init__(self, problems: list[tuple[int, str]]) -> None:
        super().__init__("; ".join(message for _, message in problems))
        self.problems = problems


def changed(entries: Sequence[Entry], puts: Sequence[Put], drops: Iterable[str]) -> tuple[Entry, ...]:
    """Entries with some put and some dropped: new ones at the end, others in their place. What is gone meanwhile is dropped
    already, and put again where somebody has just changed it; a face stays with its entry. Raises Clashing where two would be the same."""
    left = {key_of(e.value): e for e in entries}
    places = {key: i for i, key in enumerate(left)}
    faces = {key: e.template for key, e in left.items() if e.template}
    for value in drops:
        left.pop(key_of(value), None)
    for put in puts:
        if put.was:
            left.pop(key_of(put.was), None)
    problems = []
    for i, put in enumerate(puts):
        key = key_of(put.entry.value)
        if key in left:
            problems.append((i, t("{value} is on the list already", value=put.entry.value)))
            continue
        left[key] = put.entry if put.entry.template or not put.was else _with_face(put, faces)
        places[key] = places.get(key_of(put.was), len(places) + i) if put.was else len(places) + i
    if problems:
        raise Clashing(problems)
    return tuple(left[key] for key in sorted(left, key=lambda k: places[k]))


def _with_face(put: Put, faces: Mapping[str, str]) -> Entry:
    return put.entry.model_copy(update={"template": faces.get(key_of(put.was), "")})


def with_words(entries: Sequence[Entry], wanted: str) -> Sequence[Entry]:
    """The entries whose value, name or note has some words, whatever their case."""
    if not wanted.strip():
        return entries
    words, code = wanted.casefold().strip(), tidy(wanted)
    return [
        e for e in entries if words in f"{e.value}\n{e.label}\n{e.note}".casefold() or (code and code in tidy(e.value))
    ]


@dataclass(frozen=True, slots=True)
class Difference:
    """What becomes of a list: entries that are new, those that are otherwise (before, after), and those that go."""

    added: tuple[Entry, ...]
    changed: tuple[tuple[Entry, Entry], ...]
    gone: tuple[Entry, ...]
    same: int


def difference(before: Sequence[Entry], after: Sequence[Entry]) -> Difference:
    """What changes from one content to another."""
    old = {key_of(e.value): e for e in before}
    new = {key_of(e.value): e for e in after}
    both = [(old[key], e) for key, e in new.items() if key in old]
    return Difference(
        tuple(e for key, e in new.items() if key not in old),
        tuple((a, b) for a, b in both if a != b),
        tuple(e for key, e in old.items() if key not in new),
        sum(a == b for a, b in both),
    )


def merged(before: Sequence[Entry], table: Sequence[Entry]) -> tuple[Entry, ...]:
    """A table put into a list: what it does not name stays. A face that the table does not tell stays, too."""
    known = {key_of(e.value): e for e in before}
    for entry in table:
        key = key_of(entry.value)
        face = known[key].template if key in known else ""
        known[key] = entry.model_copy(update={"template": entry.template or face})
    return tuple(known.values())
