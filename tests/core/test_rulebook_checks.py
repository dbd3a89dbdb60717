"""Checks: what a colleague would say of a rule, of its surroundings, and of rules beside each other."""

import pytest

from dromikon.core.facts import Device, Electrical, Member, Point
from dromikon.core.hours import Hours, Season, Week
from dromikon.core.rules.checks import CHECKS, RULEBOOK_CHECKS, Known, check, check_rulebook
from dromikon.core.rules.document import RuleDocument
from tests.core.site import facts, rule

BASE = facts()
LAMP = Point(
    id="lamp", name="Lamp", kind="relay", area="yard", device="box", tags=("opens",),
    electrical=Electrical(rated_volts=30, rated_amps=1, load_volts=24, load_amps=0.5),
)  # fmt: skip
HEATER = LAMP.model_copy(
    update={"id": "heater", "electrical": Electrical(rated_volts=30, rated_amps=1, load_volts=230, load_amps=6)}
)
FACE = Point(id="face", name="Vault face", kind="detector", area="yard", channel="cam")
DOOR = Point(id="door", name="Vault door", kind="door", area="yard")
WHOLE = Week(**dict.fromkeys(("mon", "tue", "wed", "thu", "fri", "sat", "sun"), ("00:00-24:00",)))
SITE = BASE.model_copy(
    update={
        "points": (*BASE.points, LAMP, HEATER, FACE, DOOR),
        "devices": (Device(id="box", name="Relay box", gap=2.0),),
        "hours": (
            *BASE.hours,
            Hours(id="empty", name="empty hours"),
            Hours(id="always", name="all hours", seasons=(Season(start="01-01", end="12-31", week=WHOLE),)),
        ),
    }
)


def found(document, known=Known(), site=SITE):
    """(check, path) of what is found, but for what every test rule has."""
    return {(f.check, f.path) for f in check(RuleDocument.model_validate(document), site, known)}


def field(name, op, value):
    return {"test": "field", "field": name, "op": op, "value": value}


def every(*of):
    return {"test": "all", "of": list(of)}


def relay(point="lamp", **more):
    return {"do": "relay", "target": {"point": {"id": point}}, **more}


@pytest.mark.parametrize(
    "provided",
    [
        every(field("confidence", "at_least", 80), field("confidence", "at_most", 60)),
        every(field("confidence", "between", [10, 20]), every(field("confidence", "at_least", 30))),
        every(field("class", "is", "human"), field("class", "one_of", ["animal", "vehicle"])),
        every(field("class", "is", "human"), field("class", "is_not", "Human")),
        every({"test": "state", "kind": "input.active"}, {"test": "state", "kind": "input.active", "on": False}),
        every({"test": "mode", "modes": ["open"]}, {"test": "mode", "modes": ["closed"]}),
        every(*({"test": "list", "field": "class", "among": {"id": "x"}, "listed": n} for n in (True, False))),
    ],
)
def test_conditions_that_cannot_hold_together(provided):
    assert ("contradiction", "provided") in found(rule(provided=provided))


def test_a_contradiction_is_found_where_it_is_nested():
    inner = every(field("confidence", "at_least", 80), field("confidence", "at_most", 60))
    provided = {"test": "any", "of": [field("class", "is", "human"), {"test": "not", "of": inner}]}
    assert ("contradiction", "provided.of.1.of") in found(rule(provided=provided))


def test_a_choice_that_a_field_never_takes():
    assert ("contradiction", "provided") in found(rule(provided=field("class", "is", "lorry")))


@pytest.mark.parametrize(
    "provided",
    [
        every(field("confidence", "at_least", 60), field("confidence", "at_most", 60)),
        {"test": "any", "of": [field("confidence", "at_least", 80), field("confidence", "at_most", 60)]},
        every(field("class", "one_of", ["human", "animal"]), field("class", "is_not", "animal")),
        every(
            {"test": "state", "kind": "input.active", "point": {"id": "contact"}},
            {"test": "state", "kind": "input.active", "on": False},
        ),
    ],
)
def test_what_can_hold_is_no_contradiction(provided):
    assert not [f for f in found(rule(provided=provided)) if f[0] == "contradiction"]


@pytest.mark.parametrize(
    ("hours", "cause", "never"),
    [
        ({"hours": {"id": "empty"}}, None, True),
        ({"hours": {"id": "empty"}, "inside": False}, None, False),
        ({"hours": {"id": "always"}, "inside": False}, None, True),
        ({"hours": {"id": "office"}}, None, False),
        ({"hours": {"id": "office"}}, {"cause": "at", "at": "end", "hours": {"id": "office"}}, True),
        ({"hours": {"id": "office"}}, {"cause": "at", "at": "end", "hours": {"id": "office"}, "offset": -5}, False),
        ({"hours": {"id": "office"}}, {"cause": "at", "at": "start", "hours": {"id": "office"}}, False),
    ],
)
def test_hours_that_never_count(hours, cause, never):
    document = rule(hours=hours, **({"cause": cause} if cause else {}))
    assert (("hours-never-count", "hours") in found(document)) is never


def pattern(kind="scene.line_crossed", phase="pulse", point="line"):
    return {"kind": kind, "phase": phase, "where": {"points": [{"id": point}]}}


@pytest.mark.parametrize(
    ("cause", "path"),
    [
        ({"cause": "together", "within": 5, "of": [pattern(), pattern()]}, "cause.of.1"),
        ({"cause": "missing", "within": 5, "first": pattern(), "then": pattern()}, "cause.first"),
        (
            {"cause": "order", "within": 5, "of": [pattern(), pattern(point="line2")], "join": {"per": "point"}},
            "cause.join",
        ),
        (
            {
                "cause": "repeated",
                "within": 5,
                "times": 3,
                "what": pattern(),
                "join": {"per": "field", "field": "plate"},
            },
            "cause.what",
        ),
    ],
)
def test_patterns_that_cannot_come_as_they_should(cause, path):
    assert ("impossible-pattern", path) in found(rule(cause=cause))


def test_a_busy_kind_wants_a_hold_off():
    busy = Known(busiest_hour={("scene.line_crossed", "line"): 40})
    (finding,) = [f for f in check(RuleDocument.model_validate(rule()), SITE, busy) if f.check == "no-hold-off"]
    assert "40 times" in finding.reason and finding.mend.value == {"seconds": 60, "per": "point"}
    assert ("no-hold-off", "hold_off") not in found(rule(hold_off={"seconds": 5}), busy)
    assert ("no-hold-off", "hold_off") not in found(rule(), Known(busiest_hour={("scene.line_crossed", "line2"): 40}))


def test_a_rule_that_had_to_forget_subjects_says_so():
    document = RuleDocument.model_validate(rule())
    found = [f for f in check(document, SITE, Known(forgotten={"r7": 12}), "r7") if f.check == "forgets-subjects"]
    assert "12 subjects" in found[0].reason and not check(document, SITE, Known(forgotten={"r7": 12}), "r8")


def test_a_comparison_with_a_stale_list():
    document = rule(provided=every({"test": "list", "field": "class", "among": {"id": "guests"}}))
    assert ("stale-list", "provided.of.0.among") in found(document, Known(stale_lists=frozenset({"guests"})))
    assert ("stale-list", "provided.of.0.among") not in found(document)


def test_a_call_nobody_tested():
    document = rule(response=[{"do": "webhook", "url": "https://panel.invalid/x"}])
    assert ("not-tested", "response.0.url") in found(document)
    assert ("not-tested", "response.0.url") not in found(document, Known(tested_hosts=frozenset({"panel.invalid"})))


def test_commands_closer_than_their_device_wants_them():
    assert ("gap-too-short", "response.1.after") in found(
        rule(response=[relay(held=60), relay("heater", after=1, held=90)])
    )
    assert ("gap-too-short", "response.0.after") in found(rule(response=[relay(held=1)]))
    assert not [f for f in found(rule(response=[relay(held=60)])) if f[0] == "gap-too-short"]


def test_a_load_above_the_contacts_rating():
    assert ("load-too-high", "response.0.target") in found(rule(response=[relay("heater")]))
    assert ("load-too-high", "response.0.target") not in found(rule(response=[relay()]))


SEEN = {"cause": "event", "kind": "face.seen", "phase": "pulse", "where": {"points": [{"id": "face"}]}}


def test_a_door_that_opens_on_a_picture_alone():
    second = {"test": "since", "kind": "access.granted", "point": {"id": "door"}, "seconds": 20}
    assert ("door-by-picture", "response.0") in found(rule(cause=SEEN, response=[relay()]))
    assert ("door-by-picture", "response.0") not in found(rule(cause=SEEN, response=[relay()], provided=second))


@pytest.mark.parametrize(
    ("value", "op", "warned"), [("person", "is", False), ("picture", "is", True), ("person", "is_not", True)]
)
def test_a_person_before_the_camera_is_enough_for_a_door_and_a_picture_is_not(value, op, warned):
    live = {"test": "field", "field": "live", "op": op, "value": value}
    findings = found(rule(cause=SEEN, response=[relay()], provided=live))
    assert (("door-by-picture", "response.0") in findings) is warned


def test_nobody_may_press_its_button():
    document = rule(cause={"cause": "button", "where": {"points": [{"id": "help"}]}})
    viewer, operator = Member(id="1", name="V", role="viewer"), Member(id="2", name="O", role="operator", presses=True)
    for members, wrong in (((viewer,), True), ((viewer, operator), False)):
        site = SITE.model_copy(update={"members": members})
        assert (("no-presser", "cause") in found(document, site=site)) is wrong


@pytest.mark.parametrize(
    ("numbers", "severity", "words"),
    [
        ((False, True), "warning", "Dara: no telephone"),
        ((False, False), "error", "Nobody whom it is for has a telephone number"),
        ((True, True), None, ""),
    ],
)
def test_a_text_to_somebody_without_a_number(numbers, severity, words):
    members = tuple(
        Member(id=n, name=n.title(), role="operator", number=has)
        for n, has in zip(("dara", "opal"), numbers, strict=True)
    )
    site = SITE.model_copy(update={"members": members})
    document = RuleDocument.model_validate(rule(response=[{"do": "text", "text": "x", "groups": [{"id": "ops"}]}]))
    found = [f for f in check(document, site) if f.check == "no-number"]
    assert [(f.severity, words in f.reason) for f in found] == ([(severity, True)] if severity else [])


@pytest.mark.parametrize(
    ("parts", "expected"),
    [
        ({"stop": {"on_end": True}}, ("stop-without-end", "stop.on_end")),
        ({"stop": {"unanswered": 9}, "response": [relay()]}, ("stop-without-end", "stop.unanswered")),
        ({"hold_off": {"seconds": 9, "then": "join"}, "response": [relay()]}, ("needs-alarm", "hold_off.then")),
        ({"response": [relay(anchor="end")]}, ("end-never-comes", "response.0.anchor")),
    ],
)
def test_a_response_that_waits_for_what_never_comes(parts, expected):
    assert expected in found(rule(**parts))


# -- between rules ---------------------------------------------------------------------------------------------------------


def between(*documents):
    rules = [(f"r{i}", RuleDocument.model_validate(d)) for i, d in enumerate(documents)]
    return {
        (id, f.check)
        for id, findings in check_rulebook(rules, SITE).items()
        for f in findings
        if f.check in RULEBOOK_CHECKS
    }


def test_duplicates_are_found_whatever_their_names():
    other = rule(name="Other", response=[{"do": "line", "text": "x"}])
    assert between(rule(), rule(name="Same"), other) == {("r1", "duplicate"), ("r2", "duplicate")}
    assert between(rule(), rule(hours={"hours": {"id": "office"}})) == {("r1", "two-alarms")}


def raised(name, *conditions, raises=None):
    cause = {"cause": "event", "kind": "rule.raised", "phase": "pulse", "where": {"everywhere": True}}
    response = [{"do": "derive", "name": raises}] if raises else [{"do": "line", "text": "x"}]
    return rule(name=name, cause=cause, response=response, **({"provided": conditions[0]} if conditions else {}))


def test_a_rule_that_sets_itself_off_by_itself_or_through_others():
    assert ("r0", "sets-itself-off") in between(raised("any", raises="a"))
    there, back = (
        raised("there", field("name", "is", "a"), raises="b"),
        raised("back", field("name", "is", "B"), raises="a"),
    )
    assert between(there, back) == {("r0", "sets-itself-off"), ("r1", "sets-itself-off")}
    assert between(there, raised("end", field("name", "is", "b"))) == set()


def test_an_output_switched_on_and_off_by_the_same_event():
    assert ("r1", "against-each-other") in between(
        rule(response=[relay(held=9)]), rule(response=[relay(set="off")], hold_off={"seconds": 1})
    )
    later = rule(response=[relay(set="off", after=10)], hold_off={"seconds": 1})
    assert ("r1", "against-each-other") not in between(rule(response=[relay(held=9)]), later)


def test_an_output_left_on():
    assert ("r0", "never-switched-off") in between(rule(response=[relay(set="on")]))
    assert ("r0", "never-switched-off") not in between(rule(response=[relay(set="on"), relay(set="off", after=60)]))


def test_every_check_is_told_of_by_a_name_of_its_own():
    assert len({*CHECKS.names(), *RULEBOOK_CHECKS.names()}) == len(CHECKS) + len(RULEBOOK_CHECKS) >= 24
