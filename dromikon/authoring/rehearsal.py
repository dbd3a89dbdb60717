"""Rehearsing a draft against a site's past, for the editor and the API."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from dromikon.authoring.examples import Measured, marked_of, measured
from dromikon.authoring.replay import Told, entries, told_of
from dromikon.authoring.services import read_document
from dromikon.clock import now_ms
from dromikon.core.facts import Facts, LiveRule
from dromikon.core.hours import wall_clock
from dromikon.core.instants import Instant, from_datetime, iso
from dromikon.core.rules.document import Problem, RuleDocument, problems_of
from dromikon.core.rules.explain import OUTCOMES
from dromikon.core.rules.outcome import Run
from dromikon.core.rules.rehearse import Compared, Rehearsed, Stage, Variant, compare, rehearse, shares_cause, varied
from dromikon.core.rules.sentence import plain
from dromikon.core.words import t
from dromikon.facts import facts_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule

DAY = 86_400_000
LONGEST = 31 * DAY
MOST_VALUES = 50
#: The id of a draft that has no live rule; otherwise it takes the live rule's, so that answers its alarms got count.
DRAFT = "draft"
#: Told the share that is done, from 0 to 1; what it raises ends the rehearsal.
Progress = Callable[[float], None]


class Sweep(BaseModel):
    """One number of the document and the values to try."""

    model_config = ConfigDict(extra="forbid")
    path: str = Field(max_length=200)
    values: list[float] = Field(min_length=1, max_length=MOST_VALUES)


@dataclass(frozen=True, slots=True)
class Report:
    """What came out: the draft's runs, beside the live revision's, and how the count moves with one number."""

    start: Instant
    end: Instant
    draft: Rehearsed
    compared: Compared | None
    sweep: list[tuple[float, int]]
    #: Events that the rule was told of but that came to nothing, the newest last.
    away: list[Told]
    #: What comes of the events that somebody has marked.
    examples: list[Measured]
    #: What each part that can turn events away asks for, by its path in the document.
    words: dict[str, str]


def rehearse_draft(
    access: Access,
    content: Any,
    live: Rule | None = None,
    start: Instant | None = None,
    end: Instant | None = None,
    sweep: Any = None,
    progress: Progress = lambda share: None,
) -> Report:
    """Run a draft over the journal; by default over the past seven days, today
    included, as the Rulebook draws them. Raises Refused with the path at fault."""
    access.need(May.EDIT_RULES)
    document = read_document(content)
    until = min(end, now_ms()) if end is not None else now_ms()
    since = start if start is not None else start_of_week(until, access.site.zone)
    if not 0 < until - since <= LONGEST:
        raise Refused([Problem(path="start", message="A rehearsal covers more than nothing and at most 31 days.")])
    facts = facts_of(access.site)
    name = live.id if live else DRAFT
    values, swept = _sweep(document, sweep)
    rules = [LiveRule(id=name, revision=1, document=d) for d in swept]
    marked = marked_of(live, until - LONGEST) if live is not None and sweep is None else []
    shared = sweep is not None and shares_cause(document, str(sweep.get("path", "")))
    variants = [Variant(rule, since, until) for rule in rules] if shared else []
    draft = LiveRule(id=name, revision=1, document=document.to_json())
    stages = [Stage(draft, since, until, variants=variants, watch=frozenset(e.event for e in marked))]
    if live is not None:
        stages.append(Stage(None, since, until, only=live.id))
    # A number of the cause itself changes what is watched for: each value watches for itself.
    apart = [] if shared else [Stage(rule, since, until) for rule in rules]
    watched = [document, *([read_document(live.document)] if live else [])]
    kinds, points = _concerned([*watched, *map(read_document, swept)] if apart else watched, facts)
    begin = min([since, *(e.zero for e in marked)]) - round(max(d.reach for d in watched) * 1000)

    def reached(at: Instant) -> None:
        progress(max(0.0, min(1.0, (at - begin) / (until - begin))))

    past = entries(access.site.id, begin, until, kinds, points, {live.id} if live is not None else set())
    results = rehearse(past, [*stages, *apart], reached)
    compared = compare(results[0], results[1]) if live is not None else None
    counts = [v.count for v in variants] or [len(r.runs) for r in results[len(stages) :]]
    words = _asked_for(document, facts)
    away = [] if sweep is not None else _came_to_nothing(access.site.id, results[0])
    return Report(
        since, until, results[0], compared, list(zip(values, counts, strict=True)), away,
        measured(marked, results[0].verdicts), words,
    )  # fmt: skip


def _came_to_nothing(site: str, result: Rehearsed) -> list[Told]:
    """What waited first and fired then did not come to nothing."""
    fired = {run.event for run in result.runs}
    return told_of(site, ((seq, outcome) for seq, outcome in result.away if seq not in fired))


def start_of_week(until: Instant, zone: str) -> Instant:
    """Midnight at the site, six days before today."""
    first = wall_clock(until, zone).date() - timedelta(days=6)
    return from_datetime(datetime.combine(first, time(), ZoneInfo(zone)))


def _asked_for(document: RuleDocument, facts: Facts) -> dict[str, str]:
    """What conditions and hours ask for in words, by path; those of a step begin with what the step does."""
    kind = document.cause.event_kind()
    words = {
        path: plain(leaf.phrases(facts, kind, path))
        for root, _, tree in document.conditions()
        for path, leaf in tree.leaves(root)
    }
    words |= {path: plain(part.phrases(facts, path)).lstrip(", ") for path, part in document.within()}
    return {path: _with_step(document, path, said) for path, said in words.items()}


def _with_step(document: RuleDocument, path: str, said: str) -> str:
    if not path.startswith("response."):
        return said
    return t("{step} only if {said}", step=t(document.response[int(path.split(".")[1])].label), said=said)


def _concerned(documents: list[RuleDocument], facts: Facts) -> tuple[set[str], set[str]]:
    """The kinds and points whose events the documents look at."""
    pairs = {pair for document in documents for pair in document.concerns(facts)}
    return {k for k, _ in pairs}, {p for _, p in pairs}


def _sweep(document: RuleDocument, content: Any) -> tuple[list[float], list[dict[str, Any]]]:
    if content is None:
        return [], []
    try:
        sweep = Sweep.model_validate(content)
        swept = list(varied(document.to_json(), sweep.path, sweep.values))
        for one in swept:
            RuleDocument.model_validate(one)
    except KeyError as error:
        raise Refused([Problem(path="sweep.path", message="The document has no such place.")]) from error
    except ValidationError as error:
        raise Refused(problems_of(error)) from error
    return sweep.values, swept


def report_json(report: Report) -> dict[str, Any]:
    """A report as JSON, for page and API alike. At most the newest thousand runs are told one by one."""
    compared = report.compared
    return {
        "start": iso(report.start),
        "end": iso(report.end),
        "count": len(report.draft.runs),
        "considered": report.draft.considered,
        "runs": _runs(report.draft.runs),
        "by_hour": {iso(hour): count for hour, count in report.draft.by_hour().items()},
        "by_point": report.draft.by_point(),
        "outcomes": dict(report.draft.outcomes),
        "turned_away": dict(report.draft.turned_away.most_common()),
        "turned_away_words": {path: report.words[path] for path in report.draft.turned_away if path in report.words},
        "new": _runs(compared.new) if compared else None,
        "gone": _runs(compared.gone) if compared else None,
        "same": len(compared.same) if compared else None,
        "sweep": report.sweep,
        "away": [
            {"event": str(a.event), "point": a.point, "zero": iso(a.zero), "outcome": t(OUTCOMES[a.outcome])}
            for a in report.away
        ],
        "examples": [
            {"event": str(m.event), "point": m.point, "zero": iso(m.zero), "fires": m.fires, "held": m.held}
            for m in report.examples
        ],
    }


def _runs(runs: list[Run]) -> list[dict[str, str]]:
    return [{"event": str(r.event), "point": r.point, "zero": iso(r.zero)} for r in runs[-1000:]]
