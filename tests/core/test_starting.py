"""Starting rules: each becomes a sound rule once it is bound, and says what is still open."""

import pytest

from dromikon.core.facts import Point
from dromikon.core.lists.watchlist import WatchList
from dromikon.core.rules.checks import check
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.sentence import plain, sentence
from dromikon.core.rules.starting import STARTING, NotBound, Place, Starting, bind, open_places, suggested
from tests.core.site import facts

LISTS = (WatchList(id="plates", name="known", sort="plates"), WatchList(id="people", name="excluded", sort="people"))
SITE = facts(lists=LISTS).model_copy(
    update={"points": (*facts().points, *(Point(id=k, name=k, kind=k) for k in ("door", "station", "sensor", "power")))}
)


def filled(starting, site):
    """Bindings as somebody would complete them who takes the first of what is offered."""
    bindings = suggested(starting, site)
    for place in open_places(starting, site):
        id, name = place.options[0]
        bindings[place.place.name] = [{"id": id, "name": name}] if place.many else {"id": id, "name": name}
    return bindings


@pytest.mark.parametrize("name", STARTING.names())
def test_each_becomes_a_sound_rule_where_everything_is_at_hand(name):
    document = bind(STARTING[name], filled(STARTING[name], SITE))
    assert [f for f in check(document, SITE) if f.severity == "error"] == []
    assert "which" not in plain(sentence(document, SITE)), "no place is left open"


@pytest.mark.parametrize("name", STARTING.names())
def test_what_a_site_lacks_is_named_by_the_place_that_is_open(name):
    empty = facts().model_copy(update={"points": (), "groups": (), "hours": (), "lists": (), "counters": ()})
    document = bind(STARTING[name], suggested(STARTING[name], empty))
    named = {f.reason for f in check(document, empty) if f.check in ("unknown-reference", "no-recipient")}
    labels = [place.label for place in STARTING[name].places]
    assert any("Nobody receives" in reason or any(x in reason for x in labels) for reason in named)


def test_an_open_place_and_one_that_is_not_there_are_named():
    with pytest.raises(NotBound) as error:
        bind(STARTING["door-forced"], {"doors": [{"id": "door"}], "colour": "red"})
    assert [p.path for p in error.value.problems] == ["places.colour", "places.who"]


def test_what_is_bound_wrongly_is_named_at_its_place_in_the_document():
    bindings = suggested(STARTING["freezer-warm"], SITE)
    with pytest.raises(NotBound) as error:
        bind(STARTING["freezer-warm"], {**bindings, "limit": "cold"})
    assert error.value.problems[0].path == "cause.value"


def test_a_starting_rule_with_an_unknown_field_is_refused_with_its_path():
    wrong = Starting(
        "x",
        "x",
        "x",
        (Place("n", "n", "number", standard=3),),
        {"name": "x", "cause": {"cause": "at", "time": "12:00", "colour": {"bind": "n"}}},
    )
    with pytest.raises(NotBound) as error:
        bind(wrong, {})
    assert error.value.problems[0].path == "cause.colour"


def test_only_what_is_certain_is_bound_and_only_what_fits_is_offered():
    inputs = tuple(Point(id=i, name=i, kind="input") for i in ("leak", "fire"))
    readers = tuple(Point(id=i, name=i, kind="detector") for i in ("line", "reader"))
    site = SITE.model_copy(update={"points": (*inputs, *readers, Point(id="light", name="light", kind="relay"))})
    sends = {"line": frozenset({"scene.line_crossed"}), "reader": frozenset({"plate.read"}), "fire": frozenset()}
    plate = suggested(STARTING["unknown-plate"], site, sends)
    assert plate["readers"][0]["id"] == "reader" and plate["plates"]["id"] == "plates"
    assert [o.place.name for o in open_places(STARTING["unknown-plate"], site, sends)] == ["who"]
    leak = suggested(STARTING["water-leak"], site, sends)
    assert leak["sensors"][0]["id"] == "leak" and leak["valve"]["id"] == "open", "what is moved is never guessed"
    asked = open_places(STARTING["water-leak"], site)
    assert [(o.place.name, o.paths) for o in asked] == [
        ("sensors", ("cause.where.points",)), ("valve", ("response.1.target.point",)), ("who", ("response.0.groups",)),
    ]  # fmt: skip
    assert [id for id, _ in asked[0].options] == ["leak", "fire"]


def test_several_sources_of_one_area_or_sort_can_be_chosen_at_once():
    (lines,) = (o for o in open_places(STARTING["after-hours"], SITE) if o.place.what == "points")
    assert ("point_kinds", "detector") in {(w.part, w.id) for w in lines.wider}
    detectors = [p for p in SITE.points if p.kind == "detector"]
    for wider in lines.wider:
        if wider.part == "areas":
            assert sum(p.area == wider.id for p in detectors) > 1
    bound = bind(STARTING["after-hours"], filled(STARTING["after-hours"], SITE)).to_json()
    bound["cause"]["where"] = {"point_kinds": ["detector"]}
    assert len(set(RuleDocument.model_validate(bound).cause.triggers(SITE))) == len(detectors)
    (who,) = (o for o in open_places(STARTING["after-hours"], SITE) if o.place.what == "groups")
    assert who.wider == ()
