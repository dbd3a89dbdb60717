"""What the texts of a rule would have said of the last event that it is about."""

from typing import Any

from dromikon.core.events import Event, Phase
from dromikon.core.facts import Facts
from dromikon.core.rules.actions import Firing
from dromikon.core.rules.document import RuleDocument
from dromikon.core.words import t
from dromikon.daybook.models import EventRow

#: So many pairs of kind and point are asked for at once.
MOST_POINTS = 200
#: Where the run's reference is not known yet.
RUN = "0.run"


def read_out(document: RuleDocument, facts: Facts) -> dict[str, Any]:
    """The last event that the cause is about, and each text with its places filled; nothing while none has come."""
    event = last_event(document, facts)
    if event is None:
        return {"event": None, "at": None, "texts": []}
    firing = Firing(document.name, event, facts, run=RUN, at=event.at)
    texts = [
        {"part": f"response.{i}.{name}", "step": t(step.label), "text": firing.fill(text)}
        for i, step in enumerate(document.response)
        for name, text in step.texts()
        if text
    ]
    return {"event": str(event.seq), "at": event.occurred_at, "texts": texts}


def last_event(document: RuleDocument, facts: Facts) -> Event | None:
    """The last event of what the cause names, whatever conditions say of it."""
    pairs = list(document.cause.triggers(facts))[:MOST_POINTS]
    kinds = {kind for kind, _ in pairs}
    found = EventRow.objects.filter(
        site=facts.site, kind__in=kinds, point__in={p for _, p in pairs}, initial=False, test=False
    )
    row = found.exclude(phase=Phase.END.value).order_by("-seq").first()
    return event_of(row) if row is not None else None


def event_of(row: EventRow) -> Event:
    """An event as it is kept, as a value."""
    return Event(
        row.seq, row.kind, row.point, Phase(row.phase), row.at, row.occurred_at, row.received_at, row.device_at,
        dict(row.fields), row.late,
    )  # fmt: skip
