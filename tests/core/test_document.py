"""The rule document: what is accepted, what is refused and where, and that every document reads as a sentence."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from dromikon.core.events import Event, Phase, Tick
from dromikon.core.kinds import KINDS
from dromikon.core.rules.actions import ACTIONS
from dromikon.core.rules.causes import CAUSES
from dromikon.core.rules.checks import check
from dromikon.core.rules.document import RuleDocument, problems_of
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.exchange import Kept, read_rules, write_rules
from dromikon.core.rules.explain import explain
from dromikon.core.rules.sentence import plain, sentence
from dromikon.core.rules.timeplan import time_plan
from dromikon.core.rules.wording import fill, places
from tests.core.site import facts, rule


def problems(document):
    with pytest.raises(ValidationError) as refused:
        RuleDocument.model_validate(document)
    return {p.path: p.message for p in problems_of(refused.value)}


@pytest.mark.parametrize(
    ("part", "path", "says"),
    [
        ({"colour": "red"}, "colour", "no field 'colour'"),
        ({"name": ""}, "name", "at least 1"),
        ({"format": "dromikon-rule/2"}, "format", "dromikon-rule/1"),
        (
            {"cause": {"cause": "event", "kind": "scene.line_crossd", "phase": "pulse", "where": {"everywhere": True}}},
            "cause.kind",
            "there is no kind",
        ),
        (
            {
                "cause": {
                    "cause": "event",
                    "kind": "scene.line_crossed",
                    "phase": "begin",
                    "where": {"everywhere": True},
                }
            },
            "cause",
            "has no phase",
        ),
        (
            {"cause": {"cause": "lasting", "kind": "scene.line_crossed", "seconds": 3, "where": {"everywhere": True}}},
            "cause",
            "cannot last",
        ),
        (
            {"cause": {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": {}}},
            "cause.where",
            "at least one point",
        ),
        (
            {"provided": {"test": "field", "field": "class", "op": "matches", "value": "("}},
            "provided",
            "cannot be read",
        ),
        (
            {"provided": {"test": "field", "field": "confidence", "op": "at_least", "value": "much"}},
            "provided",
            "needs a number",
        ),
        (
            {"provided": {"test": "field", "field": "confidence", "op": "between", "value": [9, 1]}},
            "provided",
            "lower first",
        ),
        (
            {"provided": {"test": "all", "of": [{"test": "field", "field": "x", "op": "is", "value": 1, "y": 2}]}},
            "provided.of.0.y",
            "no field 'y'",
        ),
        ({"hold_off": {"seconds": -1}}, "hold_off.seconds", "greater than 0"),
        ({"hold_off": {"seconds": 1, "per": "field"}}, "hold_off", "name a field"),
        ({"response": [{"do": "alarm", "title": "x", "priority": "top"}]}, "response.0.priority", "critical"),
        ({"response": [{"do": "webhook", "url": "file:///etc/passwd"}]}, "response.0.url", "http or https"),
        ({"response": [{"do": "dance"}]}, "response.0", "tag"),
    ],
)
def test_each_bad_part_is_refused_with_its_path(part, path, says):
    found = problems(rule(**part))
    assert path in found, found
    assert says in found[path]


def test_a_hostile_depth_is_refused_before_it_is_walked():
    deep = {"test": "field", "field": "class", "op": "is", "value": "x"}
    for _ in range(5000):
        deep = {"test": "not", "of": deep}
    with pytest.raises(ValidationError, match="nested"):
        RuleDocument.model_validate(rule(provided=deep))


def test_a_pattern_made_to_hang_does_not():
    provided = {"test": "field", "field": "class", "op": "matches", "value": "(a+)+$"}
    evaluator = Evaluator(facts(rule(provided=provided)))
    event = Event(1, "scene.line_crossed", "line", Phase.PULSE, 1, 1, 1, None, {"class": "a" * 5000 + "!"})
    assert evaluator.apply(event).verdicts[0].outcome == "not_provided"


def test_the_sentence_names_every_part():
    document = rule(
        provided={"test": "field", "field": "confidence", "op": "at_least", "value": 60},
        hours={"hours": {"id": "office"}, "inside": False},
        hold_off={"seconds": 90, "per": "point"},
        response=[
            *rule()["response"],
            {"do": "relay", "target": {"point": {"id": "light"}}, "held": 30},
            {"do": "popup", "anchor": "unanswered", "after": 120, "groups": [{"id": "ops"}]},
        ],
    )
    words = plain(sentence(RuleDocument.model_validate(document), facts()))
    assert words == (
        "When Lake line is crossed, provided confidence is at least 60 %, outside office hours, then quiet for 90 s per point: "
        "raise a medium alarm “{class} at {point}” for Operators, switch on Pier light for 30 s "
        "and show its sightlines for Operators for 30 s if nobody acknowledges within 2 min."
    )


def test_texts_fill_their_places_and_leave_unknown_ones_visible():
    assert (
        fill(
            "{class|capital} at {point}: {confidence|round} %, {wrong}",
            {"class": "human", "point": "P", "confidence": 71.6},
        )
        == "Human at P: 72 %, {wrong}"
    )
    assert places("{a} {b|upper} {not one}") == [("a", None), ("b", "upper")]


# -- any document -----------------------------------------------------------------------------------------------------

REF = st.sampled_from(["line", "line2", "bay", "contact", "light", "help", "gone"]).map(lambda i: {"id": i})
WHERE = st.one_of(
    st.just({"everywhere": True}),
    st.lists(REF, min_size=1, max_size=3).map(lambda r: {"points": r}),
    st.sampled_from(["lake", "pier", "gone"]).map(lambda a: {"areas": [{"id": a}]}),
)
EVENT = st.builds(
    lambda kind, where, i: {"cause": "event", "kind": kind, "phase": KINDS[kind].phases[i % len(KINDS[kind].phases)].value, "where": where},
    st.sampled_from([k.name for k in KINDS if k.point_kinds]), WHERE, st.integers(0, 1),
)  # fmt: skip
LASTS = st.builds(
    lambda kind, s, where: {"cause": "lasting", "kind": kind, "seconds": s, "where": where},
    st.sampled_from([k.name for k in KINDS if k.is_state]), st.floats(0.5, 600), WHERE,
)  # fmt: skip
PATTERN = EVENT.map(lambda c: {k: v for k, v in c.items() if k != "cause"})
PATTERNS = st.lists(PATTERN, min_size=2, max_size=3)
SEVERAL = st.one_of(
    st.builds(
        lambda of, per: {"cause": "together", "within": 9, "of": of, "join": {"per": per}},
        PATTERNS,
        st.sampled_from(["nothing", "point", "area", "sightline"]),
    ),
    PATTERNS.map(lambda of: {"cause": "order", "within": 9, "of": of}),
    st.builds(lambda a, b: {"cause": "missing", "within": 9, "first": a, "then": b}, PATTERN, PATTERN),
    st.builds(
        lambda w, n: {
            "cause": "repeated",
            "within": 9,
            "times": n,
            "what": w,
            "join": {"per": "field", "field": "class"},
        },
        PATTERN,
        st.integers(2, 4),
    ),
    WHERE.map(lambda w: {"cause": "level", "way": "up", "value": 3, "held": 4, "where": w}),
)
SIMPLE = st.one_of(EVENT, LASTS, SEVERAL)
CLOCK = st.one_of(
    st.just({"cause": "at", "time": "07:30", "days": ["mon", "sat"]}),
    st.integers(-90, 90).map(lambda o: {"cause": "at", "at": "sunset", "offset": o}),
    st.sampled_from(["office", "gone"]).map(lambda h: {"cause": "at", "at": "end", "hours": {"id": h}}),
)
SIMPLE = st.one_of(SIMPLE, CLOCK)
SOME = st.lists(SIMPLE, min_size=2, max_size=3).map(lambda of: {"cause": "any", "of": of})
CAUSE = st.one_of(SIMPLE, SOME, WHERE.map(lambda w: {"cause": "button", "where": w}))
LEAF = st.one_of(
    st.builds(
        lambda o, p: {"test": "state", "kind": "input.active", "on": o, "point": p}, st.booleans(), st.none() | REF
    ),
    st.builds(
        lambda w, s: {"test": "since", "kind": "scene.line_crossed", "seconds": s, "within": w},
        st.booleans(),
        st.floats(1, 99),
    ),
    st.builds(
        lambda f, v: {"test": "field", "field": f, "op": "at_least", "value": v},
        st.sampled_from(["confidence", "x"]),
        st.floats(-5, 105),
    ),
    st.builds(
        lambda v: {"test": "field", "field": "class", "op": "one_of", "value": v},
        st.lists(st.sampled_from(["human", "animal"]), min_size=1),
    ),
    st.builds(
        lambda f, i, n: {"test": "list", "field": f, "among": {"id": i}, "listed": n, "how": "tolerant", "errors": 1},
        st.sampled_from(["class", "plate"]),
        st.sampled_from(["staff", "gone"]),
        st.booleans(),
    ),
    st.just({"test": "list", "field": "class", "among": {"id": "staff"}, "how": "similar", "similarity": 50}),
    st.sampled_from(["now", "22:30", "2026-01-01T00:00:00Z"]).map(
        lambda v: {"test": "field", "field": "time", "op": "before", "value": v}
    ),
    st.just({"test": "mode", "modes": ["open", "gone"]}),
    st.integers(-2, 2).map(lambda v: {"test": "counter", "counter": {"id": "visitors"}, "value": v}),
)
TREE = st.recursive(
    LEAF,
    lambda inner: st.one_of(
        st.builds(
            lambda t, of: {"test": t, "of": of},
            st.sampled_from(["all", "any"]),
            st.lists(inner, min_size=1, max_size=3),
        ),
        inner.map(lambda of: {"test": "not", "of": of}),
    ),
    max_leaves=5,
)
GROUPS = st.lists(st.sampled_from(["ops", "nobody", "gone"]).map(lambda g: {"id": g}), max_size=2)
STEP = st.one_of(
    st.builds(
        lambda g, t: {"do": "alarm", "title": t, "groups": g},
        GROUPS,
        st.sampled_from(["{point}", "{wrong|x}", "plain"]),
    ),
    st.builds(lambda b, a: {"do": "bookmark", "before": b, "after": a}, st.floats(0, 100), st.floats(0, 100)),
    st.builds(
        lambda g, a: {"do": "popup", "groups": g, "anchor": a},
        GROUPS,
        st.sampled_from(["start", "end", "acknowledged", "unanswered"]),
    ),
    st.builds(
        lambda t, h: {"do": "relay", "target": {"point": t}, "held": h},
        REF,
        st.one_of(st.just("state"), st.floats(1, 50)),
    ),
    st.just({"do": "webhook", "url": "https://example.invalid/x"}),
    st.just({"do": "relay", "target": {"of": "area", "point_kind": "relay"}, "held": 1, "times": 3, "gap": 2}),
    st.sampled_from(["off", "toggle"]).map(
        lambda s: {"do": "relay", "target": {"of": "source"}, "set": s, "anchor": "end"}
    ),
    st.just({"do": "http", "url": "http://127.0.0.1/x", "body": "{point}", "idempotent": True}),
    st.lists(st.floats(-60, 60), min_size=1, max_size=3).map(lambda m: {"do": "snapshot", "moments": m}),
    st.sampled_from(["first_sightline", "sightlines"]).map(lambda of: {"do": "record", "cameras": {"of": of}}),
    st.builds(lambda t, g: {"do": "notice", "text": t, "groups": g}, st.sampled_from(["{class|upper}", "x"]), GROUPS),
    GROUPS.map(lambda g: {"do": "text", "text": "{point}", "groups": g}),
    st.just({"do": "line", "text": "{listed} {date}", "times": 2, "gap": 1}),
    st.just({"do": "mode", "mode": "closed"}),
    st.just({"do": "counter", "counter": {"id": "visitors"}, "change": "down"}),
    st.just({"do": "derive", "name": "again", "at": {"of": "sightlines"}}),
)
STOP = st.sampled_from([{"on_end": True}, {"on_acknowledged": True}, {"on_end": True, "unanswered": 4}])
DOCUMENT = st.builds(
    lambda name, cause, provided, hours, hold, steps, again, stop: {
        "name": name, "cause": cause, "response": steps, "again": again, **({"stop": stop} if stop else {}),
        **({"provided": provided} if provided else {}), **({"hours": hours} if hours else {}), **({"hold_off": hold} if hold else {}),
    },
    st.text(min_size=1, max_size=40), CAUSE, st.none() | TREE,
    st.none() | st.builds(lambda i, h: {"hours": {"id": h}, "inside": i}, st.booleans(), st.sampled_from(["office", "gone"])),
    st.none() | st.builds(lambda p, t: {"seconds": 5, "per": p, "then": t}, st.sampled_from(["rule", "point", "area"]), st.sampled_from(["ignore", "join", "sum"])),
    st.lists(STEP, max_size=4), st.sampled_from(["new", "extend", "restart", "ignore"]), st.none() | STOP,
)  # fmt: skip
EVENTS = st.lists(
    st.tuples(
        st.sampled_from([k.name for k in KINDS if k.point_kinds]), st.sampled_from(["line", "bay", "contact", "cam", "help"]), st.integers(0, 9000),
        st.dictionaries(st.sampled_from(["class", "confidence"]), st.one_of(st.floats(allow_nan=False), st.text(), st.none(), st.booleans())),
    ),
    max_size=12,
)  # fmt: skip


@settings(max_examples=200, deadline=None)
@given(DOCUMENT, EVENTS)
def test_any_document_survives_export_reads_as_a_sentence_and_evaluates_any_stream(content, stream):
    document = RuleDocument.model_validate(content)
    for syntax in ("json", "yaml"):
        assert read_rules(write_rules([Kept(document=document)], syntax).encode())[0].document == document
    known = facts(document.to_json())
    words = plain(sentence(document, known))
    assert words.startswith("When ") and words.endswith(".")
    steps = {f"response.{i}" for i in range(len(document.response))}
    parts = (
        {"cause", *steps, *(path for path, _ in document.provided.leaves("provided") if document.provided)}
        if document.provided
        else {"cause", *steps}
    )
    parts |= {part for part in ("hours", "hold_off", "stop") if getattr(document, part)}
    parts |= {"again"} if document.again in ("extend", "ignore") else set()
    assert parts <= {p.part for p in sentence(document, known)}, "no part is missing from the sentence"
    assert len(time_plan(document, known).bars) >= len(document.response)
    assert all(f.reason and f.path for f in check(document, known))
    evaluator, at = Evaluator(known), 0
    evaluator.replace(known, 0)
    for i, (kind, point, gap, fields) in enumerate(stream):
        at += gap
        while (wake := evaluator.next_wake()) is not None and wake <= at:
            evaluator.apply(Tick(10_000 + i, wake))
        phase = KINDS[kind].phases[i % len(KINDS[kind].phases)]
        for verdict in evaluator.apply(Event(i + 1, kind, point, phase, at, at, at, None, fields)).verdicts:
            lines = explain(document, known, verdict.outcome, list(verdict.seen), verdict.due)
            told = {line.part for line in lines}
            assert lines and (verdict.outcome != "fired" or told >= parts - {"stop"} - steps)


def test_every_registered_part_has_a_label_and_every_kind_belongs_to_points():
    assert all(c.label for c in CAUSES) and all(a.label for a in ACTIONS)
    assert all(k.phases and k.says for k in KINDS)
    assert {k.name for k in KINDS if not k.point_kinds} == {
        "rule.raised",
        "counter.changed",
        "step.expired",
        "step.failed",
        "step.unreached",
        "time.reached",
    }
