"""What a value, as it might be read, would find in a list, and why: by each way in which a rule may compare."""

from dataclasses import dataclass
from datetime import date

from dromikon.core.lists.changes import key_of
from dromikon.core.lists.watchlist import Entry, WatchList
from dromikon.core.words import t

#: As many reading errors as a rule may tolerate.
MOST_ERRORS = 3


@dataclass(frozen=True, slots=True)
class Tried:
    """One way of comparing, what it finds on a day (None: nothing), and why in words."""

    way: str
    entry: Entry | None
    why: str


def tried(known: WatchList, value: str, day: date) -> list[Tried]:
    """Exactly, then with one to three reading errors; a way that finds what the one before found is left out."""
    same = known.exact(value, day)
    found = [Tried(t("exactly"), same.entry if same else None, same.why if same else _why_not(known, value, day))]
    if same is not None:
        return found
    for errors in range(MOST_ERRORS + 1):
        match = known.tolerant(value, errors, day)
        if match is not None:
            found.append(
                Tried(
                    t("with {n} reading errors", n=errors) if errors else t("with characters that look alike"),
                    match.entry,
                    match.why,
                )
            )
            return found
    found.append(Tried(t("with {n} reading errors", n=MOST_ERRORS), None, t("nothing is near enough")))
    return found


def tried_face(known: WatchList, template: str, day: date) -> list[Tried]:
    """The most similar face, however little similar."""
    match = known.similar(template, day)
    if match is None:
        return [Tried(t("by similarity"), None, t("no entry has a face that counts on this day"))]
    return [Tried(t("by similarity"), match.entry, match.why)]


def _why_not(known: WatchList, value: str, day: date) -> str:
    """Nothing is there, or not on this day."""
    there = next((e for e in known.entries if key_of(e.value) == key_of(value)), None)
    if there is None:
        return t("no entry is the same")
    if there.valid_from and day < there.valid_from:
        return t("{entry} counts from {day} on", entry=there.shown, day=there.valid_from)
    return t("{entry} counted until {day}", entry=there.shown, day=there.valid_until)
