"""One record: something that happened, was done, or was sent, as it is found again."""

from dataclasses import dataclass, replace

from dromikon.core.instants import Instant
from dromikon.core.words import N_

#: The sorts of records, with what several of each are called, in the order in which they are offered.
SORTS = {
    "alarm": N_("Alarms"),
    "event": N_("Events"),
    "run": N_("Runs"),
    "delivery": N_("Deliveries"),
    "line": N_("Lines of rules"),
    "bookmark": N_("Bookmarks"),
    "note": N_("Operators' notes"),
    "act": N_("Acts of people"),
}
#: What one of each is called.
SINGLE = {
    "alarm": N_("Alarm"),
    "event": N_("Event"),
    "run": N_("Run"),
    "delivery": N_("Delivery"),
    "line": N_("Line"),
    "bookmark": N_("Bookmark"),
    "note": N_("Note"),
    "act": N_("Act"),
}
#: A longer text is cut: it is found by its beginning, and read where it stands.
LONGEST = 2_000


@dataclass(frozen=True, slots=True)
class Entry:
    """A record of a site. `ref` is its number where it comes from, `seq` the event in the journal that it goes back to. `groups`: who
    receives it, as |a|b|; empty for everybody. `open`: how it stands may still change."""

    site: str
    sort: str
    ref: str
    at: Instant
    title: str = ""
    more: str = ""
    area: str = ""
    point: str = ""
    kind: str = ""
    rule: str = ""
    person: str = ""
    outcome: str = ""
    seq: int | None = None
    groups: str = ""
    open: bool = False
    words: str = ""

    def found_by(self, *names: str) -> "Entry":
        """The same, found by its own words, by whose name it carries, and by `names` of what it tells of."""
        parts = (self.title, self.more, self.person, self.outcome, *names)
        words = " ".join(dict.fromkeys(p.strip() for p in parts if p and p.strip()))
        return replace(self, title=self.title[:300], more=self.more[:LONGEST], words=words[: 2 * LONGEST])
