"""The facts of a site as the journal has them: whole now and then, and in between as what changed."""

from collections.abc import Iterator
from typing import Any

from dromikon.core.facts import Facts
from dromikon.core.facts_change import Body, applied, facts_change, is_change
from dromikon.daybook.models import Journal
from dromikon.facts import facts_to_json, part_to_json

#: After so many changes facts are written whole again, so that few have to be put together to know a moment.
WHOLE_AFTER = 400


class Chain:
    """Bodies of the journal's facts, one after the other, put together."""

    def __init__(self) -> None:
        self.body: Body | None = None
        #: How many changes there were since the last whole.
        self.changes = 0

    def follow(self, body: Body) -> Body:
        """Take the next body; answers with the whole facts after it."""
        if not is_change(body):
            self.body, self.changes = body, 0
        elif self.body is not None:
            self.body, self.changes = applied(self.body, body), self.changes + 1
        else:
            raise ValueError("The journal's facts begin with a change: what it changed is not there any more.")
        return self.body


def chain_before(site: str, seq: int | None = None) -> Chain:
    """The facts of a site as the journal had them at a place of it (or has them at its end)."""
    chain = Chain()
    for body in reversed(list(_bodies_back(site, seq))):
        chain.follow(body)
    return chain


def _bodies_back(site: str, seq: int | None) -> Iterator[Body]:
    """From a place back to the last whole facts."""
    rows = Journal.objects.filter(site=site, type="facts")
    if seq is not None:
        rows = rows.filter(seq__lte=seq)
    for body in rows.order_by("-seq").values_list("body", flat=True).iterator(chunk_size=50):
        if body:
            yield body
            if not is_change(body):
                return


def entry_for(before: Facts, after: Facts, changes: int) -> dict[str, Any] | None:
    """What the journal is given for new facts, when so many changes came since it last had them whole; None when nothing
    has changed."""
    change = facts_change(before, after, part_to_json)
    return facts_to_json(after) if change is not None and changes >= WHOLE_AFTER else change
