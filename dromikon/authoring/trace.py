"""Why a rule answered an event, or did not: what looked at it, in words, and what its runs did."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from django.db.models import Count, Q

from dromikon.archive.models import Snapshot
from dromikon.core.facts import Facts
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.explain import OUTCOMES, asked_lines, explain
from dromikon.core.words import t
from dromikon.daybook.models import EventRow, Step, VerdictRow
from dromikon.daybook.receivers import receiver
from dromikon.people.access import Access
from dromikon.rulebook.models import Revision, Rule


def trace_of(access: Access, event: EventRow, facts: Facts) -> list[dict[str, Any]]:
    """Every rule that looked at an event, in words, with its runs and their steps."""
    names = dict(Rule.objects.filter(site=access.site).values_list("id", "name"))
    found = []
    for verdict in VerdictRow.objects.filter(event=event.seq, site=access.site.id).order_by("id"):
        revision = Revision.objects.filter(rule_id=verdict.rule, number=verdict.revision).first()
        if revision is None:
            continue
        document = RuleDocument.model_validate(revision.document)
        found.append(
            {
                "rule": verdict.rule,
                "name": names.get(verdict.rule, verdict.rule),
                "revision": verdict.revision,
                "outcome": verdict.outcome,
                "words": t(OUTCOMES.get(verdict.outcome, verdict.outcome)),
                "lines": explain(document, facts, verdict.outcome, [tuple(s) for s in verdict.seen], verdict.due),
                "run": verdict.run,
                "steps": steps_of(verdict.run, facts, document) if verdict.run else [],
            }
        )
    return found


@dataclass(frozen=True, slots=True)
class Lately:
    """What a rule made of one of the latest events: the outcome in words, and for what part it came to nothing."""

    event: int
    point: str
    at: int
    outcome: str
    words: str
    why: str
    done: int
    steps: int


def lately_of(rule: Rule, facts: Facts, most: int = 8) -> list[Lately]:
    """The newest first."""
    verdicts = list(VerdictRow.objects.filter(site=rule.site_id, rule=rule.id).order_by("-at", "-id")[:most])
    events = {e.seq: e for e in EventRow.objects.filter(seq__in=[v.event for v in verdicts])}
    documents = {r.number: r.document for r in rule.revisions.filter(number__in={v.revision for v in verdicts})}
    steps = _counted(v.run for v in verdicts if v.run)
    found = []
    for v in verdicts:
        event = events.get(v.event)
        done, count = steps.get(v.run or "", (0, 0))
        found.append(
            Lately(
                v.event, facts.name_of("point", event.point) or "" if event else "", event.occurred_at if event else v.at,
                v.outcome, t(OUTCOMES.get(v.outcome, v.outcome)), _why(v, documents, facts), done, count,
            )
        )  # fmt: skip
    return found


def _counted(runs: Iterable[str]) -> dict[str, tuple[int, int]]:
    """How many steps of each run are done, and how many there are; evidence is none."""
    rows = Step.objects.filter(run__in=list(runs)).exclude(action="evidence").values_list("run")
    counted = rows.annotate(done=Count("id", filter=Q(status=Step.Status.DONE)), all=Count("id"))
    return {run: (done, count) for run, done, count in counted}


def _why(verdict: VerdictRow, documents: Mapping[int, Any], facts: Facts) -> str:
    """What was not as wanted: label, what was seen and what was wanted."""
    content = documents.get(verdict.revision)
    if content is None or verdict.run:
        return ""
    document = RuleDocument.model_validate(content)
    lines = explain(document, facts, verdict.outcome, [tuple(s) for s in verdict.seen], verdict.due)
    return "; ".join(f"{x.label}: {x.seen}, {x.wanted}".rstrip(", ") for x in lines if x.held is False)


def steps_of(run: str, facts: Facts, document: RuleDocument) -> list[dict[str, Any]]:
    """The steps of a run with due and done times, attempts and answers, and what each asked when it was due. Evidence is
    summed up in one line."""
    lines, stills = [], []
    kept = {(s.camera, s.at): s.pk for s in Snapshot.objects.filter(run=run)}
    for step in Step.objects.filter(run=run).order_by("due", "id"):
        if step.action == "evidence":
            stills.append(step)
            continue
        still = kept.get((step.target, step.payload.get("at"))) if step.action == "snapshot" else None
        asked = asked_lines(document, facts, [(path, held, value) for path, held, value in step.seen])
        lines.append({"step": step, "target": receiver(step.target, facts), "snapshot": still, "asked": asked})
    if stills:
        done = sum(s.status == Step.Status.DONE for s in stills)
        lines.append({"evidence": t("{done} of {count} stills copied and hashed", done=done, count=len(stills))})
    return lines
