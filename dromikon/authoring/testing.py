"""Testing a rule: a case put to it without doing anything, for real and marked as a test, and the checklist kept with it."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from django.db import transaction
from pydantic import ValidationError

from dromikon.authoring.reading import event_of, last_event
from dromikon.authoring.services import read_document
from dromikon.clock import now_ms
from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.hours import wall_clock
from dromikon.core.instants import Instant, from_datetime
from dromikon.core.kinds import HIDDEN, KINDS, NOT_COMPARED, PERSONAL, FieldKind, public_fields
from dromikon.core.rules.document import Problem, RuleDocument
from dromikon.core.rules.explain import OUTCOMES, explain
from dromikon.core.rules.trace_axis import place, reach_of, ticks
from dromikon.core.rules.trying import Case, Occurrence, Tried, try_case
from dromikon.core.words import t
from dromikon.daybook.models import EvaluatorRow, EventRow
from dromikon.daybook.receivers import receiver
from dromikon.daybook.services import record_act
from dromikon.facts import facts_of
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.rulebook.models import Case as CaseRow
from dromikon.rulebook.models import Rule
from dromikon.situation import situation_of

#: So many cases are kept with a rule.
MOST_CASES = 100
#: So many places are offered.
MOST_PAIRS = 300
#: A state that is tested lasts between these many seconds.
SHORTEST, LONGEST = 1.0, 600.0

#: What nobody fills in by hand.
LEFT_OUT = (*PERSONAL, *NOT_COMPARED)


def try_draft(access: Access, content: Any, case: Any) -> dict[str, Any]:
    """What a draft makes of a case, in words and on the axis of traces; nothing is done. Raises Refused."""
    access.need(May.EDIT_RULES)
    document, wanted, facts = read_document(content), read_case(case), facts_of(access.site)
    return told(document, facts, _tried(access, document, facts, wanted))


def proposed(access: Access, content: Any, seq: int | None = None) -> dict[str, Any]:
    """What a draft could be tested with: the kinds and places that its cause is about, and an event: the one asked for, else
    the last that came, else one made up. Raises Refused."""
    access.need(May.EDIT_RULES)
    document, facts = read_document(content), facts_of(access.site)
    pairs = [pair for pair in sorted(document.cause.triggers(facts)) if pair[0] in KINDS][:MOST_PAIRS]
    asked = EventRow.objects.filter(site=access.site.id, seq=seq).first() if seq is not None else None
    last = event_of(asked) if asked is not None else last_event(document, facts)
    event = _event_of(last) if last else _made_up(*pairs[0]) if pairs else None
    return {
        "pairs": [
            {
                "kind": kind, "point": point, "fields": [_field(f) for f in KINDS[kind].fields if f.type not in LEFT_OUT],
                "words": " · ".join(filter(None, (facts.name_of("point", point), t(KINDS[kind].label)))),
                "phases": _phases(kind),
            }
            for kind, point in pairs
        ],
        "event": event,
    }  # fmt: skip


def _event_of(event: Event) -> dict[str, Any]:
    return {
        "kind": event.kind, "point": event.point, "phase": event.phase.value, "of": event.seq,
        "fields": {name: value for name, value in public_fields(event.fields).items() if value != HIDDEN},
    }  # fmt: skip


def _made_up(kind: str, point: str) -> dict[str, Any]:
    fields = {f.name: f.choices[0] for f in KINDS[kind].fields if f.choices}
    return {"kind": kind, "point": point, "phase": _phases(kind)[0], "fields": fields}


def _phases(kind: str) -> list[str]:
    """The phases in which a kind comes, the one that sets rules off first."""
    return [phase.value for phase in KINDS[kind].phases]


def _field(field: FieldKind) -> dict[str, Any]:
    return {
        "name": field.name, "label": t(field.label), "numeric": field.type == "number", "choices": list(field.choices),
        "unit": field.unit,
    }  # fmt: skip


def read_case(content: Any) -> Case:
    """A case from outside. Raises Refused with the path of each offending part."""
    try:
        return Case.model_validate(content)
    except ValidationError as error:
        problems = [
            Problem(path="case." + ".".join(map(str, e["loc"])), message=e["msg"].removeprefix("Value error, "))
            for e in error.errors()
        ]
        raise Refused(problems) from error


def _tried(access: Access, document: RuleDocument, facts: Facts, case: Case) -> Tried:
    case = _with_faces(access, case)
    rows = {} if case.states is not None else _rows_now(access.site.id)
    return try_case(document, facts, case, _moment(case, access.site.zone), ((("", k), r) for k, r in rows.items()))


def _with_faces(access: Access, case: Case) -> Case:
    """The personal fields of the events that a case repeats, as far as they are kept: for the evaluator alone."""
    wanted = [one.of for one in case.events if one.of is not None]
    kept = dict(EventRow.objects.filter(site=access.site.id, seq__in=wanted).values_list("seq", "fields"))
    events = tuple(_with_face(one, kept.get(one.of, {})) if one.of is not None else one for one in case.events)
    return case.model_copy(update={"events": events})


def _with_face(one: Occurrence, fields: Mapping[str, Any]) -> Occurrence:
    kind = KINDS.get(one.kind)
    personal = {
        f.name: fields[f.name] for f in (kind.fields if kind else ()) if f.type in PERSONAL and f.name in fields
    }
    return one.model_copy(update={"fields": {**one.fields, **personal}})


def _rows_now(site: str) -> dict[str, Any]:
    """What the evaluator remembers of a site: mode, counters, told states."""
    return dict(EvaluatorRow.objects.filter(site=site, rule="").values_list("key", "row"))


def _settled(access: Access, document: RuleDocument, case: Case) -> Case:
    """A case in which nothing is left to the moment at which it is tried: time, mode and whatever the rule may ask of the
    site are those of now where it does not say otherwise."""
    facts, rows = facts_of(access.site), _rows_now(access.site.id)
    pairs = {f"{kind}@{point}" for kind, point in document.concerns(facts)}
    given = {
        "at": case.at or f"{wall_clock(now_ms(), access.site.zone):%Y-%m-%dT%H:%M}",
        "mode": case.mode or situation_of(access.site)["mode"],
    }
    if case.states is None:
        given["states"] = {pair: bool(rows[pair]["on"]) for pair in sorted(pairs & rows.keys())[:500]}
        given["counters"] = {c["id"]: c["value"] for c in situation_of(access.site)["counters"]}
    return case.model_copy(update=given)


def _moment(case: Case, zone: str) -> Instant:
    """When it is put to the rule. Raises Refused where the wall clock never shows it."""
    if not case.at:
        return now_ms()
    try:
        return from_datetime(datetime.fromisoformat(case.at).replace(tzinfo=ZoneInfo(zone)))
    except ValueError as error:
        raise Refused([Problem(path="case.at", message="This is no time of a day.")]) from error


def told(document: RuleDocument, facts: Facts, found: Tried) -> dict[str, Any]:
    """What came of a case as JSON."""
    plan = sorted([_order(o, found, document, facts) for o in found.orders] + _dropped(found, document), key=_when)
    reach = reach_of([line["after"] for line in plan])
    last = found.verdicts[-1] if found.verdicts else None
    return {
        "fired": found.fired,
        "outcome": last.outcome if last else "",
        "words": t(OUTCOMES[last.outcome]) if last else t("This rule is not about these events."),
        "verdicts": [_verdict(v, found, document, facts) for v in found.verdicts],
        "plan": [{**line, "x": place(line["after"], reach)} for line in plan],
        "ticks": [{"seconds": s, "x": x} for s, x in ticks(reach)],
    }


def _when(line: dict[str, Any]) -> float:
    return float(line["after"])


def _verdict(verdict: Any, found: Tried, document: RuleDocument, facts: Facts) -> dict[str, Any]:
    event = found.events.get(verdict.event)
    kind = KINDS.get(event.kind) if event else None
    lines = explain(document, facts, verdict.outcome, list(verdict.seen), verdict.due)
    return {
        "event": t(kind.label) if kind else "",
        "point": (facts.name_of("point", event.point) or "") if event else "",
        "words": t(OUTCOMES[verdict.outcome]),
        "outcome": verdict.outcome,
        "lines": [{"label": x.label, "seen": x.seen, "wanted": x.wanted, "held": x.held} for x in lines],
    }


def _order(order: Any, found: Tried, document: RuleDocument, facts: Facts) -> dict[str, Any]:
    return {
        "step": order.step,
        "label": t(document.response[order.step].label),
        "target": receiver(order.target, facts),
        "after": max(0, order.due - found.zero) / 1000,
        "released": order.release,
        "why": "",
    }


def _dropped(found: Tried, document: RuleDocument) -> list[dict[str, Any]]:
    return [
        {
            "step": d.step, "label": t(document.response[d.step].label), "target": "",
            "after": max(0, d.due - found.zero) / 1000, "released": False, "why": t(d.why),
        }
        for d in found.dropped
    ]  # fmt: skip


# -- for real ----------------------------------------------------------------------------------------------------------


def carry_out_test(access: Access, rule: Rule, content: Any, lasts: float = 10.0) -> None:
    """Have a live rule carried out at an event that somebody makes up: its cause is taken as fulfilled, its conditions and
    hours are asked, and everything that it says is marked as a test. A state lasts so many seconds. Raises Refused,
    PermissionDenied."""
    access.need(May.EDIT_RULES)
    event = _occurrence(content)
    problems = []
    if not rule.enabled:
        problems.append(
            Problem(path="rule", message="The rule is off. Switch it on, or try it without doing anything.")
        )
    if not SHORTEST <= lasts <= LONGEST:
        problems.append(Problem(path="lasts", message=f"A test lasts {SHORTEST:g} to {LONGEST:g} s."))
    cause = read_document(rule.document).cause
    # What the clock sets off has no point.
    about = set(cause.triggers(facts_of(access.site))) or {(cause.event_kind(), "")}
    if (event.kind, event.point) not in about:
        problems.append(Problem(path="event", message="This rule's cause is not about such an event at this place."))
    if problems:
        raise Refused(problems)
    at = now_ms()
    body = event.model_dump(mode="json", exclude={"after", "of"})
    with transaction.atomic():
        record(access.site, access.person, "tested rule", f"rule:{rule.id}", at, name=rule.name, kind=event.kind)
        record_act(access.site.id, "trial", at, rule=rule.id, lasts=lasts, **body)


def _occurrence(content: Any) -> Occurrence:
    try:
        return Occurrence.model_validate(content)
    except ValidationError as error:
        problems = [Problem(path="event." + ".".join(map(str, e["loc"])), message=e["msg"]) for e in error.errors()]
        raise Refused(problems) from error


# -- the checklist -----------------------------------------------------------------------------------------------------


def keep_case(access: Access, rule: Rule, name: str, content: Any, fires: bool) -> CaseRow:
    """Keep a case with a rule, and whether it must fire at it. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_RULES)
    case = _settled(access, read_document(rule.document_of(rule.latest)), read_case(content))
    if not name.strip() or len(name) > 200:
        raise Refused([Problem(path="name", message="Name the case in at most 200 characters.")])
    if rule.cases.count() >= MOST_CASES:
        raise Refused([Problem(path="name", message=f"A rule has at most {MOST_CASES} cases. Take one away first.")])
    at = now_ms()
    with transaction.atomic():
        kept = CaseRow.objects.create(
            rule=rule, name=name.strip(), content=case.model_dump(mode="json"), fires=fires, by=access.person, at=at
        )
        record(access.site, access.person, "kept case", f"rule:{rule.id}", at, name=rule.name, case=kept.name)
    return kept


def drop_case(access: Access, rule: Rule, case: int) -> None:
    """Take a case away. Raises PermissionDenied."""
    access.need(May.EDIT_RULES)
    at = now_ms()
    with transaction.atomic():
        for kept in rule.cases.filter(pk=case):
            record(access.site, access.person, "dropped case", f"rule:{rule.id}", at, name=rule.name, case=kept.name)
            kept.delete()


def check_cases(access: Access, rule: Rule, content: Any) -> list[dict[str, Any]]:
    """The checklist of a rule, run against a draft of it. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_RULES)
    document, facts = read_document(content), facts_of(access.site)
    return [_checked(access, kept, document, facts) for kept in rule.cases.all()]


def _checked(access: Access, kept: CaseRow, document: RuleDocument, facts: Facts) -> dict[str, Any]:
    found = _tried(access, document, facts, Case.model_validate(kept.content))
    last = found.verdicts[-1].outcome if found.verdicts else ""
    return {
        "id": kept.pk, "name": kept.name, "case": kept.content, "fires": kept.fires, "held": found.fired is kept.fires,
        "words": t(OUTCOMES[last]) if last else t("This rule is not about these events."),
    }  # fmt: skip
