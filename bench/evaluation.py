"""What an event costs in the evaluator."""

import time
from collections.abc import Iterator

from bench.report import Result
from dromikon.core.events import Event, Phase
from dromikon.core.facts import Facts, LiveRule, Point
from dromikon.core.rules.evaluate import Evaluator

POINTS = 2_000


def document(i: int) -> dict[str, object]:
    """One of many rules, each about a point of its own."""
    return {
        "name": f"rule {i}",
        "cause": {
            "cause": "event",
            "kind": "scene.line_crossed",
            "phase": "pulse",
            "where": {"points": [{"id": f"p{i}"}]},
        },
        "provided": {
            "test": "all",
            "of": [
                {"test": "field", "field": "class", "op": "one_of", "value": ["human", "vehicle"]},
                {"test": "field", "field": "confidence", "op": "at_least", "value": 60},
            ],
        },
        "hold_off": {"seconds": 1, "per": "point"},
        "response": [{"do": "alarm", "title": "{class}", "groups": [{"id": "g"}]}],
    }


def evaluator(rules: int) -> Evaluator:
    points = tuple(Point(id=f"p{i}", name=f"P{i}", kind="detector", channel="c") for i in range(POINTS))
    live = tuple(LiveRule(id=f"r{i}", revision=1, document=document(i)) for i in range(rules))
    return Evaluator(Facts(site="s", name="S", points=points, rules=live))


def events(count: int, point: str, confidence: float) -> list[Event]:
    fields = {"class": "human", "confidence": confidence}
    return [
        Event(i, "scene.line_crossed", point, Phase.PULSE, i * 2000, i * 2000, i * 2000, None, fields)
        for i in range(count)
    ]


def rate(subject: Evaluator, stream: list[Event]) -> float:
    """Events a second; the best of three, since other work only slows."""
    best = 0.0
    for _ in range(3):
        began = time.perf_counter()
        for event in stream:
            subject.apply(event)
        best = max(best, len(stream) / (time.perf_counter() - began))
    return best


def measure() -> Iterator[Result]:
    few, many = evaluator(10), evaluator(1_000)
    mixed = [e for pair in zip(events(20_000, "p3", 90), events(20_000, "p1999", 90), strict=True) for e in pair]
    ratio = rate(few, mixed) / rate(many, mixed)
    yield Result("evaluation, cost of 1,000 rules against 10", ratio, 1.5, "times")
    yield Result(
        "evaluation, nothing matches", rate(many, events(200_000, "p1999", 90)), 100_000, "events/s", at_most=False
    )
    yield Result(
        "evaluation, one rule says no", rate(many, events(100_000, "p3", 10)), 20_000, "events/s", at_most=False
    )
