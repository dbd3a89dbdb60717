"""Counters: numbers that rules count up and down."""

from typing import Annotated

from pydantic import Field

from dromikon.core.rules.controls import Number, Words
from dromikon.core.rules.parts import Part
from dromikon.core.words import N_
from dromikon.ids import id_or_new
from dromikon.people.access import Access
from dromikon.setup.naming import rules_that_name
from dromikon.setup.sort import Row, Saved, Sort, change, in_use
from dromikon.sites.models import Counter


class CounterDocument(Part):
    """A number by its name. `room`: how many there is room for, where it counts who is inside."""

    name: Annotated[str, Field(min_length=1, max_length=120), Words(N_("Name"), hint=N_("what is counted"))]
    room: Annotated[
        int, Field(ge=0, le=10_000_000),
        Number(N_("Room for"), hint=N_("0: it does not count who is inside; else the Desk and a board show how many are")),
    ] = 0  # fmt: skip


def save_counter(access: Access, id: str | None, document: CounterDocument, new_id: str | None = None) -> Counter:
    """Add a counter, or give one another name. It begins at nought."""
    counter = in_use(Counter, access, id, "counter") if id else Counter(site=access.site, id=id_or_new(new_id))
    counter.name, counter.room = document.name.strip(), document.room
    with change(access, "changed counter" if id else "added counter", f"counter:{counter.id}", counter.name):
        counter.save(force_insert=not id)
    return counter


def retire_counter(access: Access, id: str) -> None:
    """Take a counter away."""
    counter = in_use(Counter, access, id, "counter")
    with change(access, "retired counter", f"counter:{counter.id}", counter.name) as at:
        counter.retired_at = at
        counter.save(update_fields=["retired_at"])


class Counters(Sort[CounterDocument]):
    name = "counters"
    label = N_("Counters")
    one = N_("Add a counter")
    about = N_("A counter is a number that rules count up and down, such as visitors inside, and compare.")
    icon = "calculator"
    document = CounterDocument

    def rows(self, who: Access) -> list[Row]:
        known = Counter.objects.filter(site=who.site, retired_at=None)
        return [Row(c.id, c.name, CounterDocument(name=c.name, room=c.room)) for c in known]

    def save(self, who: Access, id: str | None, document: CounterDocument) -> Saved:
        return Saved(save_counter(who, id, document).id)

    def retire(self, who: Access, id: str) -> None:
        retire_counter(who, id)

    def used_by(self, who: Access, id: str) -> list[str]:
        return rules_that_name(who.site, id)
