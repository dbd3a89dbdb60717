"""MIB modules: names and meanings for what traps tell by numbers, of both versions of the language; and what is no module."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromikon.core.mibs.module import read
from dromikon.core.mibs.names import STANDARD, Definition, named, names_of
from dromikon.core.reading import NotReadable

FREEZERS = """QUILL-MIB DEFINITIONS ::= BEGIN
IMPORTS MODULE-IDENTITY, OBJECT-TYPE, NOTIFICATION-TYPE, enterprises FROM SNMPv2-SMI TEXTUAL-CONVENTION, DisplayString FROM SNMPv2-TC;
quillFreezers MODULE-IDENTITY
  LAST-UPDATED "202611260000Z" ORGANIZATION "Quillmere" CONTACT-INFO "x" DESCRIPTION "Freezers -- {not a comment}" ::= { enterprises 32473 7 }
Lid ::= TEXTUAL-CONVENTION STATUS current DESCRIPTION "x" SYNTAX INTEGER { shut(1), ajar(2) }
freezerState OBJECT-TYPE
  SYNTAX INTEGER { cold(1), warm(2) } -- as the controller sees it
  MAX-ACCESS read-only STATUS current DESCRIPTION "x" ::= { quillFreezers 1 }
freezerLid OBJECT-TYPE SYNTAX Lid MAX-ACCESS read-only STATUS current DESCRIPTION "x" ::= { quillFreezers 2 }
freezerTraps OBJECT IDENTIFIER ::= { quillFreezers 0 }
freezerWarm NOTIFICATION-TYPE OBJECTS { freezerState } STATUS current DESCRIPTION "x" ::= { freezerTraps 1 }
END
"""
OLD = """OLD-MIB DEFINITIONS ::= BEGIN
IMPORTS enterprises FROM RFC1155-SMI OBJECT-TYPE FROM RFC-1212 TRAP-TYPE FROM RFC-1215;
acme OBJECT IDENTIFIER ::= { enterprises 9999 }
thing OBJECT-TYPE SYNTAX INTEGER { up(1), down(2) } ACCESS read-only STATUS mandatory DESCRIPTION "x" ::= { acme 3 }
gone TRAP-TYPE ENTERPRISE acme VARIABLES { thing } DESCRIPTION "x" ::= 17
END
"""
BASE = "1.3.6.1.4.1.32473.7"


def names(*texts):
    return names_of(d for text in texts for module in read(text) for d in module.definitions)


def test_what_a_trap_tells_has_the_names_and_meanings_of_its_module():
    content = {
        "trap": f"{BASE}.0.1",
        "values": [
            {"oid": f"{BASE}.1.4", "value": 2},
            {"oid": f"{BASE}.2.0", "value": 1},
            {"oid": "1.2.3", "value": "x"},
        ],
    }
    told = named(content, names(FREEZERS))
    assert told["name"] == "freezerWarm" and told["named"] == {"freezerState": "warm", "freezerLid": "shut"}
    assert told["values"][0] == {"oid": f"{BASE}.1.4", "value": 2, "name": "freezerState", "row": "4", "says": "warm"}
    assert told["values"][2] == {"oid": "1.2.3", "value": "x"}, "what has no name keeps its numbers"


def test_traps_of_the_older_language_stand_below_their_enterprise():
    found = names(OLD)
    assert found.of("1.3.6.1.4.1.9999.0.17") == ("gone", "") and found.says("1.3.6.1.4.1.9999.3.0", 2) == "down"


def test_the_standard_s_own_names_are_there_without_any_module():
    told = named({"trap": "1.3.6.1.6.3.1.1.5.3", "values": [{"oid": "1.3.6.1.2.1.2.2.1.8.7", "value": 2}]}, STANDARD)
    assert told["name"] == "linkDown" and told["named"] == {"ifOperStatus": "down"} and told["values"][0]["row"] == "7"
    assert STANDARD.says("1.3.6.1.2.1.33.1.6.2.1.2.1", "1.3.6.1.2.1.33.1.6.3.2") == "upsAlarmOnBattery"
    assert STANDARD.of("1.3.6.1.2.1.33.2.3") == ("upsTrapAlarmEntryAdded", "") and STANDARD.lost == ()


def test_a_module_whose_ground_is_missing_says_so_and_is_placed_once_that_is_loaded():
    above = "TOP-MIB DEFINITIONS ::= BEGIN\nIMPORTS freezerTraps FROM QUILL-MIB;\nmore OBJECT IDENTIFIER ::= { freezerTraps 9 }\neven OBJECT IDENTIFIER ::= { more 1 }\nEND\n"
    assert names(above).lost == ("freezerTraps",)
    assert names(above, FREEZERS).of(f"{BASE}.0.9.1.5") == ("even", "5")


def test_definitions_that_stand_on_one_another_are_lost_and_no_more():
    assert names_of([Definition("a", "b", (1,)), Definition("b", "a", (1,))]).of("1.3.6.1.1") is None


@pytest.mark.parametrize("text", ["", "hello", "A DEFINITIONS ::= BEGIN x OBJECT", FREEZERS[:300], "x" * 800_000])
def test_what_is_no_module_is_said(text):
    with pytest.raises(NotReadable):
        read(text)


@settings(deadline=None, max_examples=60)
@given(st.text(max_size=80), st.integers(0, len(FREEZERS)))
def test_no_text_raises_anything_else(noise, place):
    for text in (noise, FREEZERS[:place] + noise + FREEZERS[place:]):
        try:
            names_of(d for module in read(text) for d in module.definitions)
        except NotReadable:
            continue
