"""Changes of a list's entries: single ones put and dropped, and what a whole table would change."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date

from dromikon.core.lists.plates import tidy
from dromikon.core.lists.watchlist import MOST_FACES, Entry
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
    before = dict(left)
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
        left[key] = with_face(put.entry, before.get(key_of(put.was))) if put.was else put.entry
        places[key] = places.get(key_of(put.was), len(places) + i) if put.was else len(places) + i
    if problems:
        raise Clashing(problems)
    return tuple(left[key] for key in sorted(left, key=lambda k: places[k]))


#: What belongs to a face.
OF_FACE = ("template", "more", "pictured", "agreed")


def with_face(entry: Entry, before: Entry | None) -> Entry:
    """An entry with the face that it had, where it says nothing of one itself."""
    if entry.template or before is None:
        return entry
    kept = {name: getattr(before, name) for name in OF_FACE if not getattr(entry, name)}
    return entry.model_copy(update=kept)


def with_another_face(entry: Entry, template: str, day: date) -> Entry:
    """An entry that is known by one more picture, taken on a day; the oldest of too many goes."""
    faces = (*entry.faces, template)[-MOST_FACES:]
    return entry.model_copy(update={"template": faces[0], "more": faces[1:], "pictured": day})


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
        known[key] = with_face(entry, known.get(key))
    return tuple(known.values())
