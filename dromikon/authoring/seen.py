"""What was really seen lately in the fields of a kind, to choose from where a rule compares them."""

from collections import Counter

from dromikon.core.kinds import HIDDEN, KINDS, public_fields
from dromikon.daybook.models import EventRow
from dromikon.people.access import Access
from dromikon.people.roles import May

#: So many of the latest events are looked at, and so many values of a field told.
LOOKED_AT, MOST = 400, 20


def values_seen(access: Access, kind: str) -> dict[str, list[str]]:
    """By field, the values of the latest events, what came most often first. Numbers are none; hidden fields neither."""
    access.need(May.EDIT_RULES)
    known = KINDS.get(kind)
    if known is None:
        return {}
    wanted = [f.name for f in known.fields if f.type in ("text", "choice")]
    counts: dict[str, Counter[str]] = {name: Counter() for name in wanted}
    rows = EventRow.objects.filter(site=access.site.id, kind=kind, initial=False, test=False).order_by("-seq")
    for fields in rows.values_list("fields", flat=True)[:LOOKED_AT]:
        shown = public_fields(fields)
        for name in wanted:
            value = shown.get(name)
            if value not in (None, "", HIDDEN):
                counts[name][str(value)] += 1
    return {name: [value for value, _ in found.most_common(MOST)] for name, found in counts.items() if found}
