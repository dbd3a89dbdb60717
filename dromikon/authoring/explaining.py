"""What a draft makes of one event of the past, in words."""

from typing import Any

from dromikon.authoring.replay import entries
from dromikon.authoring.services import read_document
from dromikon.core.facts import LiveRule
from dromikon.core.rules.document import Problem
from dromikon.core.rules.explain import OUTCOMES, explain
from dromikon.core.rules.rehearse import Stage, rehearse
from dromikon.core.words import t
from dromikon.daybook.models import EventRow
from dromikon.facts import facts_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused

SECOND = 1_000


def explain_event(access: Access, content: Any, seq: int, rule: str = "draft") -> dict[str, Any]:
    """What a draft decides at an event, and why: rehearsed from as far back as matters to it. Raises Refused."""
    access.need(May.EDIT_RULES)
    document = read_document(content)
    event = EventRow.objects.filter(site=access.site.id, seq=seq).first()
    if event is None:
        raise Refused(
            [Problem(path="event", message="There is no such event at this site, or it is not kept any more.")]
        )
    facts = facts_of(access.site)
    reach, until = round(document.reach * SECOND), event.at + round(document.cause.waits * SECOND) + SECOND
    pairs = document.concerns(facts)
    past = entries(
        access.site.id, event.at - reach, until, {kind for kind, _ in pairs}, {point for _, point in pairs}, {rule}
    )
    draft = LiveRule(id=rule, revision=1, document=document.to_json())
    stage = Stage(draft, event.at - reach, until, watch=frozenset({seq}))
    [result] = rehearse(past, [stage])
    verdict = result.verdicts.get(seq)
    if verdict is None:
        return {"outcome": "", "words": t("This draft is not about this event."), "lines": []}
    lines = explain(document, facts, verdict.outcome, list(verdict.seen), verdict.due)
    return {
        "outcome": verdict.outcome,
        "words": t(OUTCOMES[verdict.outcome]),
        "lines": [{"label": line.label, "seen": line.seen, "wanted": line.wanted, "held": line.held} for line in lines],
    }
