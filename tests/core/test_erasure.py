"""A word goes where it means somebody, and nowhere else."""

import pytest

from dromikon.core.erasure import without


def test_a_value_goes_from_fields_and_sentences_but_no_key_and_no_id_does():
    kept = {"gate": "gate", "point": "gate", "fields": {"plate": "gate", "card": "x"}, "seen": ["gate", 4, None]}
    assert without(kept, "gate") == {
        "gate": "erased", "point": "gate", "fields": {"plate": "erased", "card": "x"}, "seen": ["erased", 4, None],
    }  # fmt: skip


@pytest.mark.parametrize(
    ("text", "word", "after"),
    [
        ("Unknown plate LY41RPB at the gate", "LY41RPB", "Unknown plate erased at the gate"),
        ("unknown plate ly41rpb", "LY41RPB", "unknown plate erased"),
        ("Plate LY41RPBX", "LY41RPB", "Plate LY41RPBX"),
        ("Bertil Osgood went in", "Bertil Osgood", "erased went in"),
        ("The gate is open", "gate", "The gate is open"),
        ("Bay 12 of 120", "12", "Bay 12 of 120"),
        ("Card 100234.", "100234", "Card erased."),
    ],
)
def test_within_a_sentence_only_what_is_no_common_word_goes(text, word, after):
    assert without({"title": text}, word) == {"title": after}


def test_the_number_of_who_acted_is_no_card():
    assert without({"run": "3.x", "person": "3"}, "3")["person"] == "3"
    assert without({"person": "Agnes Marlowe"}, "Agnes Marlowe")["person"] == "erased"


def test_a_face_is_no_sentence():
    assert without({"template": "ab+A1/cd"}, "A1") == {"template": "ab+A1/cd"}
