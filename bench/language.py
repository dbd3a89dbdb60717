"""The rule language: mixed rules, a general-purpose rule library on the same rules, checks, memory."""

import gc
import time
import tracemalloc
from collections.abc import Iterator

import rule_engine

from bench.evaluation import document, evaluator, events, rate
from bench.report import Result
from dromikon.core.events import Event, Phase, Tick
from dromikon.core.facts import Facts, LiveRule, Point
from dromikon.core.rules.checks import check_rulebook
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.state import CAP

RULES = 1_000


def _where(*points: int) -> dict[str, object]:
    return {"points": [{"id": f"p{i}"} for i in points]}


def _pattern(i: int, phase: str = "pulse", kind: str = "scene.line_crossed") -> dict[str, object]:
    return {"kind": kind, "phase": phase, "where": _where(i)}


def mixed(i: int) -> dict[str, object]:
    """One of many rules of all sorts, each about points of its own."""
    causes: list[dict[str, object]] = [
        {"cause": "event", **_pattern(i)},
        {"cause": "lasting", "kind": "scene.loitering", "seconds": 20, "where": _where(i)},
        {"cause": "together", "within": 9, "of": [_pattern(i), _pattern(i + 1)]},
        {"cause": "order", "within": 9, "of": [_pattern(i), _pattern(i + 1)]},
        {"cause": "missing", "within": 9, "first": _pattern(i), "then": _pattern(i + 1)},
        {
            "cause": "repeated",
            "within": 30,
            "times": 5,
            "what": _pattern(i),
            "join": {"per": "field", "field": "object"},
        },
        {"cause": "any", "of": [{"cause": "event", **_pattern(i)}, {"cause": "event", **_pattern(i + 1)}]},
    ]
    return {**document(i), "cause": causes[i % len(causes)], "again": ("new", "extend")[i % 2]}


def mixed_evaluator(rules: int) -> Evaluator:
    points = tuple(Point(id=f"p{i}", name=f"P{i}", kind="detector", channel="c") for i in range(RULES + 2))
    live = tuple(LiveRule(id=f"r{i}", revision=1, document=mixed(i)) for i in range(rules))
    return Evaluator(Facts(site="s", name="S", points=points, rules=live))


def measure() -> Iterator[Result]:
    yield from _mixed()
    yield from _library()
    yield from _checks()
    yield from _memory()


def _mixed() -> Iterator[Result]:
    # Events at points that rules of the ten are about, and as many that concern nobody.
    stream = [e for i in range(10) for e in events(2_000, f"p{i}", 90)] + events(20_000, f"p{RULES + 1}", 90)
    stream = [e._replace(seq=i, at=i * 500) for i, e in enumerate(sorted(stream, key=lambda e: (e.seq, e.point)))]
    spent = {10: 1e9, RULES: 1e9}
    for _ in range(4):
        for rules in spent:
            subject = mixed_evaluator(rules)
            began = time.perf_counter()
            for event in stream:
                while (wake := subject.next_wake()) is not None and wake <= event.at:
                    subject.apply(Tick(event.seq, wake))
                subject.apply(event)
            spent[rules] = min(spent[rules], time.perf_counter() - began)
    yield Result("1,000 mixed rules against 10, cost per event", spent[RULES] / spent[10], 1.5, "times")


def _library() -> Iterator[Result]:
    """The same thousand simple rules in the general-purpose library `rule-engine`, which has no index."""
    text = 'point == "p{}" and class in ["human", "vehicle"] and confidence >= 60'
    theirs = [rule_engine.Rule(text.format(i)) for i in range(RULES)]
    stream = events(300, "p3", 10)
    things = [{"point": e.point, **e.fields} for e in stream]
    began = time.perf_counter()
    for thing in things:
        for rule in theirs:
            rule.matches(thing)
    slow = len(things) / (time.perf_counter() - began)
    ours = rate(evaluator(RULES), events(60_000, "p3", 10))
    yield Result(
        f"1,000 simple rules against the library rule-engine (which takes {slow:,.0f} events/s)",
        ours / slow, 200, "times faster", at_most=False,
    )  # fmt: skip


def _checks() -> Iterator[Result]:
    subject = mixed_evaluator(0)
    rules = [(f"r{i}", RuleDocument.model_validate(mixed(i))) for i in range(500)]
    began = time.perf_counter()
    check_rulebook(rules, subject.facts)
    yield Result("all checks over a rulebook of 500 rules", time.perf_counter() - began, 1.0, "s")


def _memory() -> Iterator[Result]:
    """A hostile stream: a million events, each with a subject never seen before."""
    cause = {
        "cause": "repeated",
        "within": 86_400,
        "times": 2,
        "what": _pattern(0),
        "join": {"per": "field", "field": "object"},
    }
    rule = {**document(0), "cause": cause, "hold_off": {"seconds": 86_400, "per": "field", "field": "object"}}
    facts = Facts(
        site="s", name="S", points=(Point(id="p0", name="P", kind="detector"),),
        rules=(LiveRule(id="r", revision=1, document=rule),),
    )  # fmt: skip
    subject = Evaluator(facts)
    tracemalloc.start()
    at_cap = 0
    for i in range(1_000_000):
        fields = {"class": "human", "confidence": 90.0, "object": i}
        subject.apply(Event(i, "scene.line_crossed", "p0", Phase.PULSE, i, i, i, None, fields))
        if i % 1_000 == 0:
            subject.state.take_changes()
        if i == 10 * CAP:
            gc.collect()
            at_cap = tracemalloc.get_traced_memory()[0]
    gc.collect()
    grown = tracemalloc.get_traced_memory()[0]
    tracemalloc.stop()
    rows, forgotten = len(subject.state.rules["r"]), subject.state.forgotten("r")
    what = f"memory after 1,000,000 ever-new subjects ({grown / 1e6:.1f} MB, {rows:,} rows, {forgotten:,} forgotten) against 100,000"
    yield Result(what, grown / at_cap, 1.2, "times")
